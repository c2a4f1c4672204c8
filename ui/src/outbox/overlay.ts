import type { S } from "../api/client";
import type { Entry } from "./outbox";

/** overlay shows a class as it will be once what waits was sent: who was checked in is here, what was counted counts. */
export function overlay(page: S["SessionPage"], entries: Entry[]): S["SessionPage"] {
  let { here, others, tally, recorded } = page;
  for (const e of entries) {
    if (e.session !== page.summary.session || e.refused) continue;
    if (e.kind === "check-in") {
      const who = others.find((a) => a.id === e.student);
      const part = new URLSearchParams(e.path.split("?")[1]).get("part") as S["Attendee"]["part"] | null;
      if (who) {
        here = [...here, { ...who, here: true, part: part ?? undefined }];
        others = others.filter((a) => a !== who);
      } else {
        here = here.map((a) => (a.id === e.student ? { ...a, part: part ?? undefined } : a));
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
    } else if (e.kind === "guest") {
      const g = e.body as S["Guest"];
      const line = { id: g.id, name: g.name, guest: g.kind, here: true, initials: "", rank: "", belt: "", student: false, coach: false };
      if (!here.some((a) => a.name === g.name && a.guest)) here = [...here, { ...line, chance: 0 } as S["Attendee"]];
    } else if (e.kind === "report") {
      const r = e.body as S["SessionReport"];
      recorded = { lead: "", items: r.items, faults: r.faults, note: r.note };
    }
  }
  return { ...page, here, others, tally, recorded };
}
