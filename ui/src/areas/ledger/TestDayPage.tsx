import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { tr } from "../../kit/tr";
import { date, decimal, percent } from "../../kit/words";

export const results: Record<S["TestSlot"]["result"], string> = {
  open: "",
  met: tr("Met"),
  "in part": tr("In part"),
  "not met": tr("Not met"),
};

export function Day({ id }: { id: string }) {
  const may = useMay();
  const [, setQuery] = useSearchParams();
  const [by, setBy] = useState<"time" | "person" | "examiner">("time");
  const page = useQuery({
    queryKey: ["test day", id],
    queryFn: () => unwrap(client.GET("/api/test-days/{id}", { params: { path: { id } } })),
    refetchInterval: 20_000,
  });
  const remove = useAction(
    (_: undefined) => unwrap(client.DELETE("/api/test-days/{id}", { params: { path: { id } } })),
    () => tr("Removed the day of tests; its checks stay."),
    () => setQuery({ view: "tests" }),
  );
  const p = page.data;
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  if (!p) return null;
  const groups = new Map<string, S["TestSlot"][]>();
  for (const s of p.slots) {
    const key = by === "time" ? "" : by === "person" ? s.name : s.examiner;
    groups.set(key, [...(groups.get(key) ?? []), s]);
  }
  return (
    <>
      <div className="flex items-baseline gap-4">
        <h1 className="flex-1">{p.day.name}</h1>
        <button type="button" className="link no-print" onClick={() => setQuery({ view: "tests" })}>
          {tr("All days of tests")}
        </button>
        {may("remove-test-day") && (
          <button type="button" className="link no-print" disabled={remove.isPending} onClick={() => remove.mutate(undefined)}>
            {tr("Remove")}
          </button>
        )}
      </div>
      <p className="num text-soft">
        {tr("{{on}}, {{start}} to {{ends}}; {{slots}} tests. {{proven}} Partners differ by {{mean_gap_kg}} kg on the mean.", {
          on: date(p.day.on),
          start: p.day.start,
          ends: p.ends,
          slots: p.slots.length,
          proven: p.day.plan?.proven ? tr("No plan ends sooner.") : tr("No plan ends before {{bound}}.", { bound: p.bound }),
          mean_gap_kg: decimal(p.day.plan?.mean_gap_kg ?? 0, 1),
        })}
      </p>
      <section className="mt-2">
        <h2>{tr("Results")}</h2>
        <table className="grid-lines w-full">
          <tbody>
            {p.people.map((x) => (
              <tr key={x.id}>
                <td>
                  <Link className="link" to={`/ledger/${x.id}?view=tests&day=${id}`}>
                    <Belt belt={x.belt} rank={x.rank} />
                    {x.name}
                  </Link>
                  {x.held && <span className="text-clay"> {tr("· held")}</span>}
                </td>
                <td>{tr("toward {{next}}", { next: x.next })}</td>
                <td className="num text-right">{tr("{{met}} of {{tests}} met", { met: x.met, tests: x.tests })}</td>
                <td className="num text-right">{tr("{{share}} of the rank", { share: percent(x.share) })}</td>
                <td>{x.ready ? <b className="text-moss">{tr("everything is there")}</b> : ""}</td>
                <td className="no-print text-right">
                  {x.sheet && (
                    <a className="link text-[12.5px]" href={x.sheet} download>
                      {tr("Test sheet")}
                    </a>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        <p className="text-[12.5px] text-soft">
          {tr("Results come from the checks of that day, from any device. Who is given a rank is the head instructor's decision:")}{" "}
          <Link className="link" to="/people/promotions">
            {tr("Promotions")}
          </Link>
          . {p.defers}
        </p>
      </section>
      <div className="no-print mt-3 flex gap-4">
        {(["time", "person", "examiner"] as const).map((x) => (
          <button key={x} type="button" className={by === x ? "font-bold" : "link"} onClick={() => setBy(x)}>
            {tr("by {{x}}", { x })}
          </button>
        ))}
        <button type="button" className="link" onClick={() => window.print()}>
          {tr("Print")}
        </button>
      </div>
      {[...groups].map(([key, slots]) => (
        <section key={key} className="mt-2 break-inside-avoid">
          {key && <h2>{key}</h2>}
          <table className="grid-lines w-full" data-slots>
            <tbody>
              {slots.map((s) => (
                <tr key={s.at + s.student + s.technique}>
                  <td className="num w-14">{s.at}</td>
                  {by !== "person" && <td className="w-36">{s.name}</td>}
                  <td>
                    {s.label}
                    {s.sides.length > 1 && <span className="text-soft"> {tr("both sides")}</span>}
                  </td>
                  <td className="text-soft">{s.partner && tr("with {{partner}}", { partner: s.partner })}</td>
                  {by !== "examiner" && <td className="text-soft">{s.examiner}</td>}
                  <td className="w-16">
                    <b className={s.result === "met" ? "text-moss" : s.result === "open" ? "" : "text-clay"}>{results[s.result]}</b>
                  </td>
                  <td className="no-print w-14 text-right">
                    {may("keep-check") && (
                      <Link className="link text-[12.5px]" to={`/check?student=${s.student}&technique=${s.technique}`}>
                        {tr("Check")}
                      </Link>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      ))}
      {p.left_out.length > 0 && (
        <section className="mt-3">
          <h2>{tr("Without a place")}</h2>
          {p.left_out.map((l) => (
            <p key={l.name + l.label}>
              {l.name}
              {l.label && `: ${l.label}`} <span className="text-soft">{l.why}</span>
            </p>
          ))}
        </section>
      )}
    </>
  );
}
