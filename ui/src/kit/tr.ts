import i18next, { type i18n } from "i18next";

/** The languages the interface has, by the names their speakers give them. */
export const languages = { en: "English", pt: "Português", es: "Español" } as const;
export type Language = keyof typeof languages;

const stored = "vereda-language";

// A key is its English sentence, so that the code can be read, and English is never incomplete.
const catalogue: i18n = i18next.createInstance();
void catalogue.init({
  lng: "en",
  fallbackLng: false,
  resources: {},
  keySeparator: false,
  nsSeparator: false,
  contextSeparator: "\u0004",
  pluralSeparator: "\u0004",
  interpolation: { escapeValue: false },
  initAsync: false,
});

/** language is what the reader chose on this device, or what the browser asks for. */
export function language(): Language {
  const asked = [localStorage.getItem(stored) ?? "", ...navigator.languages].map((l) => l.slice(0, 2));
  return (asked.find((l) => l in languages) as Language | undefined) ?? "en";
}

/** inLanguage is the address of a document in the reader's language. */
export function inLanguage(address: string): string {
  return `${address}?language=${language()}`;
}

/** chooseLanguage keeps the choice and opens the page again in it: words are looked up as modules are read. */
export function chooseLanguage(to: Language) {
  localStorage.setItem(stored, to);
  location.reload();
}

const catalogues: Record<Exclude<Language, "en">, () => Promise<{ default: Record<string, string> }>> = {
  pt: () => import("../languages/pt.json"),
  es: () => import("../languages/es.json"),
};

/** startLanguage loads the reader's catalogue. It comes before anything that has words. */
export async function startLanguage(): Promise<void> {
  const to = language();
  document.documentElement.lang = to;
  if (to === "en") return;
  const words = await catalogues[to]();
  catalogue.addResourceBundle(to, "translation", words.default);
  await catalogue.changeLanguage(to);
}

type Value = string | number | boolean | null | undefined;

/** tr is a sentence in the reader's language, its values filled in. What the catalogue lacks is said in English. */
export function tr(english: string, values?: Record<string, Value>): string {
  if (!values) return catalogue.t(english);
  // As on a page: true, false and nothing are not written.
  return catalogue.t(english, Object.fromEntries(Object.entries(values).map(([k, v]) => [k, typeof v === "boolean" ? "" : (v ?? "")])));
}

/** word is one of the few words the server answers with, such as a rung or a side, in the reader's language: see languages/answers.ts. */
export function word(english: string | undefined): string {
  return english ? catalogue.t(english) : "";
}
