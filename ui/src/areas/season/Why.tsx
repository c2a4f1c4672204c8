import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Note } from "../../kit/SplitPane";
import { tr, word } from "../../kit/tr";
import { date, decimal, percent } from "../../kit/words";
import { Repair } from "./Repair";
import type { Carried, Spot } from "./spot";

/** Why says of one class why it teaches what it does, and what cancelling it would change. */
export function Why({ page, spot, onCarry }: { page: S["SeasonPage"]; spot: Spot; onCarry: (c: Carried) => void }) {
  const season = page.line.id;
  const may = useMay();
  const pin = useAction(
    (pinned: boolean) =>
      unwrap(
        client.PUT("/api/seasons/{id}/weeks/{week}/classes/{class}/pin", { params: { path: { id: season, ...spot } }, body: { pinned } }),
      ),
    (_, pinned) => (pinned ? tr("Pinned the class.") : tr("Let the class move again.")),
  );
  const why = useQuery({
    queryKey: ["why", season, spot],
    queryFn: () => unwrap(client.GET("/api/seasons/{id}/weeks/{week}/classes/{class}", { params: { path: { id: season, ...spot } } })),
  });
  if (why.error) return <p className="text-clay">{why.error.message}</p>;
  if (!why.data) return null;
  const w = why.data;
  return (
    <>
      <p className="cap">
        {date(w.cell.on)} · {w.start} · {w.class}
      </p>
      {w.cell.state === "closed" && <h1>{tr("Closed: {{why}}", { why: w.cell.why })}</h1>}
      {w.items.length > 0 && (
        <p className="num">
          {tr("Led by")} <b>{w.lead || tr("nobody")}</b>{" "}
          {tr("· {{minutes}} of {{of}} teaching minutes · about {{expected}} students expected", {
            minutes: w.minutes,
            of: w.of,
            expected: decimal(w.expected, 1),
          })}
        </p>
      )}
      {w.items.map((i) => (
        <Item
          key={i.unit}
          item={i}
          coverage={w.coverage}
          onMove={
            may("make-move") && w.cell.state === "planned"
              ? () => onCarry({ unit: i.unit, name: i.name, kind: i.kind, from: spot })
              : undefined
          }
        />
      ))}
      {w.items.length === 0 && w.cell.state !== "closed" && <p className="mt-2 text-soft">{tr("Nothing is placed here.")}</p>}
      {w.cell.breaks?.map((b) => (
        <Note key={b} title={tr("Broken:")} tone="clay">
          {b}
        </Note>
      ))}
      {may("pin-class") && w.cell.state === "planned" && (
        <p className="mt-2">
          <Button onClick={() => pin.mutate(!w.cell.pinned)}>{w.cell.pinned ? tr("Let it move again") : tr("Pin this class")}</Button>
        </p>
      )}
      {w.lead_why.length > 0 && (
        <section className="mt-3">
          <h3>{w.lead ? tr("Why {{lead}}", { lead: w.lead }) : tr("Who could lead")}</h3>
          <table className="grid-lines">
            <tbody>
              {w.lead_why.map((c) => (
                <tr key={c.name}>
                  <td className="w-2/5">{c.name}</td>
                  <td className="text-soft">{c.why}</td>
                  {may("make-move") && w.cell.state === "planned" && (
                    <td className="no-print whitespace-nowrap text-right">
                      <button
                        type="button"
                        className="link text-[13px]"
                        aria-label={tr("Give it to {{name}}", { name: c.name })}
                        onClick={() => onCarry({ lead: c.id, unit: "", name: c.name, kind: "", from: spot })}
                      >
                        {tr("give it")}
                      </button>
                    </td>
                  )}
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
      <p className="mt-3">
        <Link className="link" to={`/mat/${w.session}`}>
          {tr("Open this class")}
        </Link>
      </p>
      {(w.cell.state === "planned" || w.cell.state === "past") && (
        <Repair page={page} spot={spot} past={w.cell.state === "past"} items={w.items} lead={w.cell.lead_id} />
      )}
    </>
  );
}

function Item({ item, coverage, onMove }: { item: S["WhyItem"]; coverage: number; onMove?: () => void }) {
  return (
    <section className="mt-3">
      <h2>
        {item.name} <span className="cap">{word(item.kind)}</span>
        {onMove && (
          <button type="button" className="link no-print ml-2 text-[13px] font-normal" onClick={onMove} data-move={item.name}>
            {tr("Move it")}
          </button>
        )}
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
      <Note title={tr("Why here.")}>
        {item.waits_for.length > 0
          ? `${tr("It stands on {{waits_for}}.", { waits_for: item.waits_for.map((s) => `${s.name} (${s.week ? tr("week {{week}}", { week: s.week }) : tr("known in this track")})`).join(" and ") })} `
          : `${tr("It stands on nothing that must come first.")} `}
        {item.opens.length > 0 &&
          `${tr("Later, {{opens}} stand{{n}} on it.", { opens: item.opens.join(", "), n: item.opens.length === 1 ? "s" : "" })} `}
        {item.gains.length > 0 && (
          <>
            {tr("Most helped:")}{" "}
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
        {tr("Without it the season loses {{worth}} points of coverage.", { worth: decimal(item.worth * 100, 1) })}
        {item.instead &&
          ` ${tr("The best other choice, {{instead}}, would leave {{instead_coverage}}%, against {{coverage}}%.{{insteadcoverage}}", { instead: item.instead, instead_coverage: decimal(item.instead_coverage * 100, 1), coverage: decimal(coverage * 100, 1), insteadcoverage: item.instead_coverage > coverage ? ` ${tr("Spacing, school and the coaches stand against it.")}` : "" })}`}
      </p>
    </section>
  );
}
