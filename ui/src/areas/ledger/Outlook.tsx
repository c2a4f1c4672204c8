import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { client, type S, unwrap } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { Explain } from "../../kit/Explain";
import { FirstStep } from "../../kit/FirstStep";
import { tr } from "../../kit/tr";
import { day, percent } from "../../kit/words";

type Range = { p10?: string; p50?: string; p90?: string };

/** rangeOf writes a range of days in words. */
export function rangeOf(r: Range): string {
  if (!r.p10) return tr("not within two years");
  if (!r.p90) return tr("{{p10}} at the soonest", { p10: day(r.p10) });
  if (r.p10 === r.p90) return day(r.p10);
  return tr("{{p10}} to {{p90}}", { p10: day(r.p10), p90: day(r.p90) });
}

/** Ready lists who will be ready when, for the head instructor. */
export function Ready() {
  const page = useQuery({ queryKey: ["outlook"], queryFn: () => unwrap(client.GET("/api/ledger/outlook")) });
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  const p = page.data;
  if (!p) return <p className="text-soft">{tr("Looking ahead…")}</p>;
  if (p.rows.length === 0)
    return (
      <FirstStep
        title={tr("Nobody works toward a rank yet")}
        ways={[
          ["/curricula", tr("Write a curriculum")],
          ["/people", tr("Add people")],
        ]}
      >
        {tr("A curriculum for the next rank, and people on its ladder: then it says when each will likely be ready.")}
      </FirstStep>
    );
  const months = new Map<string, S["OutlookRow"][]>();
  for (const r of p.rows) {
    const month = r.p50
      ? new Date(`${r.p50}T00:00:00Z`).toLocaleDateString(undefined, { month: "long", year: "numeric", timeZone: "UTC" })
      : tr("Later than two years, or never as it goes");
    months.set(month, [...(months.get(month) ?? []), r]);
  }
  return (
    <>
      <p className="text-soft">
        {tr("In half of the runs they have everything by the month they stand in; the range holds eight runs of ten.")}{" "}
        <Explain label={tr("How it is computed")} number={tr("How")}>
          {p.formula}
        </Explain>
      </p>
      {[...months].map(([month, rows]) => (
        <section key={month} className="mt-3">
          <h2>
            {month} <span className="num text-[13px] font-normal text-soft">{rows.length}</span>
          </h2>
          <table className="grid-lines w-full max-sm:[&_td]:w-auto max-sm:[&_td]:whitespace-normal">
            <tbody>
              {rows.map((r) => (
                <tr key={r.id}>
                  <td className="w-48">
                    <Link data-row className="no-underline hover:underline" to={`/ledger/${r.id}?view=ready`}>
                      <Belt belt={r.belt} rank={r.rank} />
                      {r.name}
                    </Link>
                  </td>
                  <td className="w-20">{r.next}</td>
                  <td className="num w-24 text-right">
                    {percent(r.share)} <span className="text-soft">{tr("reached")}</span>
                  </td>
                  <td className="num w-60 whitespace-nowrap">{rangeOf(r)}</td>
                  <td className="text-soft">
                    {r.last && tr("waits longest on {{last}}", { last: r.last })}
                    {r.nowhere > 0 && (
                      <span className="block text-clay">
                        {tr("{{nowhere}} asked for that no class to come teaches", { nowhere: r.nowhere })}
                      </span>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      ))}
      {p.waiting.length > 0 && (
        <section className="mt-4">
          <h2>{tr("What most wait for")}</h2>
          {p.waiting.slice(0, 12).map((w) => (
            <p key={w.technique}>
              <b className="num">{w.students}</b>{" "}
              <Link className="link" to={`/library/${w.technique}`}>
                {w.name}
              </Link>{" "}
              <span className="text-soft">{w.people.join(", ")}</span>
            </p>
          ))}
        </section>
      )}
      <Held />
    </>
  );
}

/** Held says how the ranges of some weeks ago held. */
function Held() {
  const [weeks, setWeeks] = useState(12);
  const page = useQuery({
    queryKey: ["backtest", weeks],
    queryFn: () => unwrap(client.GET("/api/ledger/backtest", { params: { query: { weeks } } })),
  });
  const p = page.data;
  return (
    <section className="mt-4" data-backtest>
      <h2>{tr("How well it foretells")}</h2>
      <p>
        <label>
          {tr("As of")}{" "}
          <select
            className="h-[27px] rounded-sm border border-rule bg-white"
            value={weeks}
            onChange={(e) => setWeeks(Number(e.target.value))}
          >
            {[4, 8, 12, 16, 20, 26].map((w) => (
              <option key={w} value={w}>
                {tr("{{w}} weeks", { w })}
              </option>
            ))}
          </select>{" "}
          {tr("ago:")}
        </label>{" "}
        {p &&
          (p.needs.judged === 0 ? (
            <span className="text-soft">{tr("no range was to end by today.")}</span>
          ) : (
            <>
              {tr("of")} <span className="num">{p.needs.judged}</span> {tr("ranges that were to end by today")}{" "}
              <b className="num">{percent(p.needs.within / p.needs.judged)}</b> {tr("held; eight of ten are to.")}
            </>
          ))}{" "}
        {p && (
          <Explain label={tr("How it is judged")} number={tr("How")}>
            {p.formula}
          </Explain>
        )}
      </p>
      {p && p.needs.all > 0 && (
        <p className="text-soft">
          {tr("Of")} <span className="num">{p.needs.all}</span>{" "}
          {tr("things {{students}} students had open then,", { students: p.students })}{" "}
          <span className="num">{Math.round(p.needs.expected)}</span> {tr("were to be there by now and")}{" "}
          <span className="num">{p.needs.came}</span> {tr("are.")}
        </p>
      )}
    </section>
  );
}

/** OutlookOf is one student's path to the next rank, as a range. */
export function OutlookOf({ student }: { student: string }) {
  const page = useQuery({
    queryKey: ["outlook", student],
    queryFn: () => unwrap(client.GET("/api/students/{id}/outlook", { params: { path: { id: student } } })),
  });
  const p = page.data;
  if (!p?.rank) return null;
  return (
    <section className="mt-3" aria-label={tr("When")}>
      <h2>{tr("When it will likely all be there")}</h2>
      <p className="num text-[17px]" data-outlook>
        {p.missing === 0 && p.waits.length === 0 ? tr("It is there now.") : rangeOf(p.likely)}
      </p>
      <p className="text-[12.5px] text-soft">
        {p.likely.p50 && `${tr("In half of the runs by {{p50}}.", { p50: day(p.likely.p50) })} `}
        {tr("{{missing}} open;", { missing: p.missing })} {Object.values(p.rates).join(", ")}.{" "}
        <Explain label={tr("How it is computed")} number={tr("How")}>
          {p.formula}
        </Explain>
      </p>
      {p.last.length > 0 && (
        <p>
          {tr("Waits longest on")}{" "}
          {p.last.map((l, i) => (
            <span key={l.name}>
              {i > 0 && ", "}
              {l.name} <span className="num text-soft">{percent(l.share)}</span>
            </span>
          ))}
        </p>
      )}
      {p.nowhere.length > 0 && (
        <p className="text-clay">
          {tr("In no class to come:")} {p.nowhere.slice(0, 6).join(", ")}
          {p.nowhere.length > 6 && ` ${tr("and {{n}} more", { n: p.nowhere.length - 6 })}`}
          {tr(". The range leaves {{n}} out.", { n: p.nowhere.length === 1 ? tr("it") : tr("them") })}
        </p>
      )}
      {p.forward.length > 0 && (
        <ul className="mt-1">
          {p.forward.map((g) => (
            <li key={g.summary}>
              {g.summary}: <b className="num">{tr("{{days}} days", { days: g.days })}</b> {tr("sooner")}
            </li>
          ))}
        </ul>
      )}
      <p className="text-[12.5px] text-soft">
        {tr("An estimate from what happened so far. Whether somebody is promoted is the head instructor's decision.")}
      </p>
    </section>
  );
}
