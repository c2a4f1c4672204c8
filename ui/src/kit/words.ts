import { language, tr } from "./tr";

// English as the reader writes it where they are; another language as itself.
const locale = () => (language() === "en" ? undefined : language());

const days = [tr("Mon"), tr("Tue"), tr("Wed"), tr("Thu"), tr("Fri"), tr("Sat"), tr("Sun")];
const months = [
  tr("Jan"),
  tr("Feb"),
  tr("Mar"),
  tr("Apr"),
  tr("May"),
  tr("Jun"),
  tr("Jul"),
  tr("Aug"),
  tr("Sep"),
  tr("Oct"),
  tr("Nov"),
  tr("Dec"),
];

/** weekday is the short name of a weekday counted from Monday, 1. */
export function weekday(n: number): string {
  return days[n - 1] ?? "";
}

/** date writes 2026-11-24 as Tue 24 Nov. */
export function date(day: string): string {
  const d = new Date(`${day}T00:00:00Z`);
  return `${days[(d.getUTCDay() + 6) % 7]} ${shortDate(day)}`;
}

/** shortDate writes 2026-11-24 as 24 Nov. */
export function shortDate(day: string): string {
  const d = new Date(`${day}T00:00:00Z`);
  return `${d.getUTCDate()} ${months[d.getUTCMonth()]}`;
}

/** percent writes a share as a whole percentage. */
export function percent(share: number): string {
  return `${Math.round(share * 100)}%`;
}

/** decimal writes a number as the reader's language does; with so many places, or as many as it has up to two. */
export function decimal(n: number, places?: number): string {
  return new Intl.NumberFormat(locale(), {
    minimumFractionDigits: places ?? 0,
    maximumFractionDigits: places ?? 2,
    useGrouping: false,
  }).format(n);
}

/** newId makes an identifier of this page's own, so that sending twice is the same as once. */
export function newId(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(12));
  return [...bytes].map((b) => b.toString(16).padStart(2, "0")).join("");
}

/** whole reads a whole number out of what was typed; what is no digit is passed over. */
export function whole(text: string): number {
  return Number(text.replace(/\D/g, ""));
}

/** moment writes a time as the reader's language does: 25 Nov, 18:05. */
export function moment(at: string): string {
  return new Intl.DateTimeFormat(locale(), { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" }).format(new Date(at));
}

/** day writes a day as the reader's language does: 25 November 2026. */
export function day(on: string): string {
  return new Intl.DateTimeFormat(locale(), { day: "numeric", month: "short", year: "numeric", timeZone: "UTC" }).format(
    new Date(`${on}T00:00:00Z`),
  );
}
