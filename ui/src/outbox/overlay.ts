import type { S } from "../api/client";
import type { Entry } from "./outbox";

/** overlay shows a class as it will be once what waits was sent: who was checked in is here, what was counted counts. */
export function overlay(page: S["SessionPage"], entries: Entry[]): S["SessionPage"] {
  let { here, others, tally, recorded } = page;
  for (const e of entries) {
    if (e.session !== page.summary.session || e.refused) continue;
    if (e.kind === "check-in") {
      const who = others.find((a) => a.id === e.student);
      if (who) {
        here = [...here, { ...who, here: true }];
        others = others.filter((a) => a !== who);
      }
    } else if (e.kind === "check-out") {
      const who = here.find((a) => a.id === e.student);
      if (who) {
        others = [...others, { ...who, here: false }];
        here = here.filter((a) => a !== who);
      }
    } else if (e.kind === "tally") {
      const t = e.body as S["AddTally"];
      if (t.fault && t.count) {
        const had = tally.find((x) => x.technique === t.technique && x.fault === t.fault);
        const seen = Math.max(0, (had?.seen ?? 0) + t.count);
        tally = [...tally.filter((x) => x !== had), { technique: t.technique, fault: t.fault, seen }];
      }
    } else if (e.kind === "report") {
      const r = e.body as S["SessionReport"];
      recorded = { lead: "", items: r.items, faults: r.faults, note: r.note };
    }
  }
  return { ...page, here, others, tally, recorded };
}
