import { useState } from "react";
import { useMay } from "../../api/actions";
import type { S } from "../../api/client";
import { Button } from "../../kit/Button";
import { Input, Select } from "../../kit/Field";
import { tr } from "../../kit/tr";
import { date, decimal } from "../../kit/words";
import type { Spot } from "./spot";
import { useRepair } from "./useRepair";

type Kind = "cancelled" | "closed" | "coach_out" | "not_reached" | "wanted" | "barred";

/** Repair says what happened to a class, and shows the mended plan before it is taken. */
export function Repair({
  page,
  spot,
  past,
  items,
  lead,
}: {
  page: S["SeasonPage"];
  spot: Spot;
  past: boolean;
  items: S["WhyItem"][];
  lead?: string;
}) {
  const may = useMay();
  const [kind, setKind] = useState<Kind>(past ? "not_reached" : "cancelled");
  const [why, setWhy] = useState("");
  const [coach, setCoach] = useState(lead ?? page.load[0]?.id ?? "");
  const [weeks, setWeeks] = useState("1");
  const [unit, setUnit] = useState(items[0]?.unit ?? "");
  const [wanted, setWanted] = useState(page.unplaced[0]?.unit ?? "");
  const id = page.line.id;
  const bodies: Record<Kind, S["Happening"]> = {
    cancelled: { kind: "cancelled", ...spot, why: why || undefined },
    closed: { kind: "closed", week: spot.week, why: why || undefined },
    coach_out: { kind: "coach_out", week: spot.week, coach, weeks: Number(weeks) || 1 },
    not_reached: { kind: "not_reached", ...spot, unit },
    wanted: { kind: "wanted", week: spot.week, unit: wanted },
    barred: { kind: "barred", week: spot.week, unit: wanted, weeks: Number(weeks) || 1 },
  };
  const body = bodies[kind];
  const { propose, accept } = useRepair(id, body);
  if (!may("propose-repair")) return null;
  const p = propose.data;
  const change = (then: () => void) => {
    propose.reset();
    then();
  };
  return (
    <section className="no-print mt-4 border-t border-rule pt-2">
      <h2>{tr("Something happened")}</h2>
      <div className="mt-1 grid grid-cols-2 items-end gap-2">
        <Select label={tr("What")} value={kind} onChange={(e) => change(() => setKind(e.target.value as Kind))}>
          {!past && <option value="cancelled">{tr("This class is cancelled")}</option>}
          {!past && <option value="closed">{tr("The whole week is closed")}</option>}
          {!past && <option value="coach_out">{tr("A coach is away")}</option>}
          {items.length > 0 && <option value="not_reached">{tr("A unit was not reached")}</option>}
          {!past && <option value="wanted">{tr("A unit is wanted by this week")}</option>}
          {!past && <option value="barred">{tr("A unit is kept out of this week")}</option>}
        </Select>
        {(kind === "cancelled" || kind === "closed") && (
          <Input label={tr("Why (shown in the plan)")} value={why} maxLength={80} onChange={(e) => change(() => setWhy(e.target.value))} />
        )}
        {kind === "coach_out" && (
          <Select label={tr("Who")} value={coach} onChange={(e) => change(() => setCoach(e.target.value))}>
            {page.load.map((l) => (
              <option key={l.id} value={l.id}>
                {l.name}
              </option>
            ))}
          </Select>
        )}
        {(kind === "coach_out" || kind === "barred") && (
          <Input
            label={tr("For how many weeks")}
            inputMode="numeric"
            value={weeks}
            onChange={(e) => change(() => setWeeks(e.target.value.replace(/\D/g, "")))}
          />
        )}
        {kind === "not_reached" && (
          <Select label={tr("Unit")} value={unit} onChange={(e) => change(() => setUnit(e.target.value))}>
            {items.map((i) => (
              <option key={i.unit} value={i.unit}>
                {i.name}
              </option>
            ))}
          </Select>
        )}
        {(kind === "wanted" || kind === "barred") && (
          <Select label={tr("Unit")} value={wanted} onChange={(e) => change(() => setWanted(e.target.value))}>
            <option value="">{tr("Choose")}</option>
            {page.units.map((u) => (
              <option key={u.id} value={u.id}>
                {u.name}
              </option>
            ))}
          </Select>
        )}
        <Button className="justify-self-start" disabled={propose.isPending} onClick={() => propose.mutate(undefined)}>
          {tr("Show the repair")}
        </Button>
      </div>
      {propose.error && <p className="mt-1 text-clay">{propose.error.message}</p>}
      {p && <Proposal p={p} />}
      {p && (
        <div className="mt-2 flex gap-2">
          <Button look="main" disabled={accept.isPending} onClick={() => accept.mutate(undefined)}>
            {tr("Repair plan")}
          </Button>
          <Button onClick={() => propose.reset()}>{tr("Cancel")}</Button>
        </div>
      )}
      {accept.error && <p className="text-clay">{accept.error.message}</p>}
    </section>
  );
}

/** Proposal is a mended plan before and after, class by class. */
export function Proposal({ p }: { p: S["Proposal"] }) {
  return (
    <div className="mt-2">
      <p className="num">
        {tr("Coverage")} <b>{percent(p.before)}</b> {tr("now,")} <b>{percent(p.broken)}</b> {tr("if nothing else changes,")}{" "}
        <b>{percent(p.after)}</b> {tr("repaired.")}{" "}
        <span className="text-soft">
          {tr("The best found with everything free to move: {{anew}}.", { anew: percent(p.anew) })}
          {p.fewest && ` ${tr("No plan within 1% of it changes fewer classes.")}`}
        </span>
      </p>
      {p.dropped.length > 0 && (
        <p className="mt-1 text-clay">
          {tr("No room any more for what was not reached:")} {p.dropped.join("; ")}
          {tr(". Take something else out, or let it go.")}
        </p>
      )}
      {p.changes.length === 0 && <p className="mt-1">{tr("No class has to change.")}</p>}
      {p.changes.length > 0 && (
        <table className="grid-lines mt-1" data-repair>
          <thead>
            <tr>
              <th>{tr("Class")}</th>
              <th>{tr("Before")}</th>
              <th>{tr("After")}</th>
            </tr>
          </thead>
          <tbody>
            {p.changes.map((c) => (
              <tr key={`${c.week} ${c.class}`} className="align-top">
                <td>
                  <span className="whitespace-nowrap">{date(c.on)}</span>
                  <span className="block text-[12px] text-soft">{c.name}</span>
                </td>
                <td>{cellWords(c.before)}</td>
                <td>{c.after ? cellWords(c.after) : <b className="text-clay">{tr("nothing")}</b>}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

function percent(share: number): string {
  return `${decimal(share * 100, 1)}%`;
}

function cellWords(c?: S["Cell"]): string {
  if (!c) return "nothing";
  return `${c.items.map((i) => `${i.kind === "review" ? "review " : ""}${i.name}`).join(", ")} · ${c.lead ?? tr("no coach")}`;
}
