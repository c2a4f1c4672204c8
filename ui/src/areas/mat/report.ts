import { useState } from "react";
import type { S } from "../../api/client";

/** itemsOf is what a report says of each technique to begin with: what was kept, else that all was reached. */
function itemsOf(page: S["SessionPage"]): S["LedgerItem"][] {
  return (
    page.recorded?.items ??
    page.techniques.map((t) => ({ technique: t.id, kind: t.kind as "teach" | "review", reached: "all" as const, one_side: false }))
  );
}

/** faultsOf are the faults of a report to begin with: what was kept, with what was counted on the mat where that is more. */
export function faultsOf(page: S["SessionPage"]): S["AcademyFaultCount"][] {
  const tries = Math.max(1, page.here.length);
  const kept = page.recorded?.faults ?? [];
  const counted = page.tally.map((t) => ({ ...t, tries: Math.max(tries, t.seen) }));
  return [...kept.filter((k) => !counted.some((c) => c.technique === k.technique && c.fault === k.fault)), ...counted];
}

/** ledBy is who led a class as far as is known: as it was kept, else who was to. */
function ledBy(page: S["SessionPage"]): string {
  return page.recorded?.lead || page.coaches.find((c) => c.name === page.summary.lead)?.id || "";
}

/** makeupsOf is what a report says to begin with of those who caught up: what was kept, else that whoever is here had all of it. */
function makeupsOf(page: S["SessionPage"]): S["AcademyMakeup"][] {
  return (
    page.recorded?.makeups ??
    page.makeups
      .map((m) => ({
        people: m.people.filter((p) => p.here).map((p) => p.id),
        items: m.techniques.map((t) => ({ technique: t.id, kind: "teach" as const, reached: "all" as const, one_side: false })),
      }))
      .filter((m) => m.people.length > 0 && m.items.length > 0)
  );
}

/** useReport is a report while it is written, on the desk or on a phone: what was reached, the note, who led. */
export function useReport(page: S["SessionPage"]) {
  const [items, setItems] = useState(() => itemsOf(page));
  const [makeups, setMakeups] = useState(() => makeupsOf(page));
  const [note, setNote] = useState(page.recorded?.note ?? "");
  const [lead, setLead] = useState(() => ledBy(page));
  const set = (technique: string, change: Partial<S["LedgerItem"]>) =>
    setItems(items.map((i) => (i.technique === technique ? { ...i, ...change } : i)));
  const reach = (technique: string, reached: S["LedgerItem"]["reached"]) =>
    set(technique, { reached, ...(reached === "part" ? {} : { point: undefined }) });
  /** caughtUp sets what was reached at a station of those who caught up, of one technique. */
  const caughtUp = (at: number, technique: string, reached: S["LedgerItem"]["reached"]) =>
    setMakeups(
      makeups.map((m, i) => (i === at ? { ...m, items: m.items.map((x) => (x.technique === technique ? { ...x, reached } : x)) } : m)),
    );
  return {
    items,
    makeups,
    caughtUp,
    note,
    setNote,
    lead,
    setLead,
    set,
    reach,
    words: { items, makeups: makeups.length ? makeups : undefined, note: note || undefined, lead: lead || undefined },
  };
}
