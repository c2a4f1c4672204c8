import type { S } from "../../api/client";

/** itemsOf is what a report says of each technique to begin with: what was kept, else that all was reached. */
export function itemsOf(page: S["SessionPage"]): S["LedgerItem"][] {
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
export function ledBy(page: S["SessionPage"]): string {
  return page.recorded?.lead || page.coaches.find((c) => c.name === page.summary.lead)?.id || "";
}
