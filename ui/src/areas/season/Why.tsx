import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { client, type S, take } from "../../api/client";
import { useDo, useMay } from "../../api/use";
import { Button } from "../../kit/Button";
import { Input } from "../../kit/Field";
import { Note } from "../../kit/Leaves";
import { date, percent } from "../../kit/words";
import type { Spot } from "./Season";

/** Why says of one class why it teaches what it does, and what cancelling it would change. */
export function Why({ season, spot }: { season: string; spot: Spot }) {
  const why = useQuery({
    queryKey: ["why", season, spot],
    queryFn: () => take(client.GET("/api/seasons/{id}/weeks/{week}/classes/{class}", { params: { path: { id: season, ...spot } } })),
  });
  if (why.error) return <p className="text-clay">{why.error.message}</p>;
  if (!why.data) return null;
  const w = why.data;
  return (
    <>
      <p className="cap">
        {date(w.cell.on)} · {w.start} · {w.class}
      </p>
      {w.cell.state === "closed" && <h1>Closed: {w.cell.why}</h1>}
      {w.items.length > 0 && (
        <p className="num">
          Led by <b>{w.lead || "nobody"}</b> · {w.minutes} of {w.of} teaching minutes · about {w.expected.toFixed(1)} students expected
        </p>
      )}
      {w.items.map((i) => (
        <Item key={i.unit} item={i} coverage={w.coverage} />
      ))}
      {w.items.length === 0 && w.cell.state !== "closed" && <p className="mt-2 text-soft">Nothing is placed here.</p>}
      {w.lead_why.length > 0 && (
        <section className="mt-3">
          <h3>Why {w.lead}</h3>
          <table className="grid-lines">
            <tbody>
              {w.lead_why.map((c) => (
                <tr key={c.name}>
                  <td className="w-2/5">{c.name}</td>
                  <td className="text-soft">{c.why}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
      <p className="mt-3">
        <Link className="link" to={`/mat/${w.night}`}>
          Open this class
        </Link>
      </p>
      {w.cell.state === "planned" && <CancelClass season={season} spot={spot} />}
    </>
  );
}

function Item({ item, coverage }: { item: S["WhyItem"]; coverage: number }) {
  return (
    <section className="mt-3">
      <h2>
        {item.name} <span className="cap">{item.kind}</span>
      </h2>
      <p>
        {item.techniques.map((t, i) => (
          <span key={t.id}>
            {i > 0 && ", "}
            <Link className="link" to={`/library/${t.id}`}>
              {t.name}
            </Link>
          </span>
        ))}
      </p>
      <Note title="Why here.">
        {item.waits_for.length > 0
          ? `It stands on ${item.waits_for.map((s) => `${s.name} (${s.week ? `week ${s.week}` : "known in this track"})`).join(" and ")}. `
          : "It stands on nothing that must come first. "}
        {item.opens.length > 0 && `Later, ${item.opens.join(", ")} stand${item.opens.length === 1 ? "s" : ""} on it. `}
        {item.gains.length > 0 && (
          <>
            Most helped:{" "}
            <span className="num">
              {item.gains
                .slice(0, 3)
                .map((g) => `${g.student} ${percent(g.without)} → ${percent(g.with)}`)
                .join(", ")}
            </span>
            .
          </>
        )}
      </Note>
      <p className="num text-[13px] text-soft">
        Without it the season loses {(item.worth * 100).toFixed(1)} points of coverage.
        {item.instead &&
          ` The best other choice, ${item.instead}, would leave ${(item.instead_coverage * 100).toFixed(1)}%, against ${(coverage * 100).toFixed(1)}%.`}
      </p>
    </section>
  );
}

function CancelClass({ season, spot }: { season: string; spot: Spot }) {
  const may = useMay();
  const [why, setWhy] = useState("");
  const body = { ...spot, why: why || undefined };
  const propose = useDo((_: undefined) =>
    take(client.POST("/api/seasons/{id}/repairs/proposals", { params: { path: { id: season } }, body })),
  );
  const accept = useDo(
    (_: undefined) => take(client.POST("/api/seasons/{id}/repairs", { params: { path: { id: season } }, body })),
    () => "Cancelled the class and repaired the plan.",
  );
  if (!may("propose-repair")) return null;
  const p = propose.data;
  return (
    <section className="mt-4 border-t border-rule pt-2">
      <h2>Cancel this class</h2>
      <div className="mt-1 grid grid-cols-[minmax(0,1fr)_auto] items-end gap-2">
        <Input label="Why (shown in the plan)" value={why} maxLength={80} onChange={(e) => setWhy(e.target.value)} />
        <Button disabled={propose.isPending} onClick={() => propose.mutate(undefined)}>
          Show the repair
        </Button>
      </div>
      {propose.error && <p className="text-clay">{propose.error.message}</p>}
      {p && (
        <div className="mt-2">
          <p className="num">
            Coverage <b>{percent2(p.before)}</b> now, <b>{percent2(p.broken)}</b> if nothing else changes, <b>{percent2(p.after)}</b>{" "}
            repaired. <span className="text-soft">All planned anew: {percent2(p.anew)}.</span>
          </p>
          <table className="grid-lines mt-1" data-repair>
            <thead>
              <tr>
                <th>Class</th>
                <th>Before</th>
                <th>After</th>
              </tr>
            </thead>
            <tbody>
              {p.changes.map((c) => (
                <tr key={`${c.week} ${c.class}`} className="align-top">
                  <td className="whitespace-nowrap">{date(c.on)}</td>
                  <td>{cellWords(c.before)}</td>
                  <td>{c.after ? cellWords(c.after) : <b className="text-clay">cancelled</b>}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <div className="mt-2 flex gap-2">
            <Button look="main" disabled={accept.isPending} onClick={() => accept.mutate(undefined)}>
              Repair plan
            </Button>
            <Button onClick={() => propose.reset()}>Leave it</Button>
          </div>
          {accept.error && <p className="text-clay">{accept.error.message}</p>}
        </div>
      )}
    </section>
  );
}

function percent2(share: number): string {
  return `${(share * 100).toFixed(1)}%`;
}

function cellWords(c?: S["Cell"]): string {
  if (!c) return "nothing";
  return `${c.items.map((i) => `${i.kind === "review" ? "review " : ""}${i.name}`).join(", ")} · ${c.lead ?? "no coach"}`;
}
