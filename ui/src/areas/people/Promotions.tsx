import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { Button } from "../../kit/Button";
import { Input } from "../../kit/Field";
import { Refusal } from "../../kit/Refusal";
import { tr } from "../../kit/tr";
import { newId, percent } from "../../kit/words";

export type Outcome = S["RankDecision"]["outcome"];

export function useCandidates() {
  return useQuery({ queryKey: ["candidates"], queryFn: () => unwrap(client.GET("/api/promotions/candidates")) });
}

/** Promotions puts the evidence of everybody side by side; the head instructor decides. */
export function Promotions() {
  const list = useCandidates();
  const [on, setOn] = useState(() => new Date().toISOString().slice(0, 10));
  const [made, setMade] = useState<Record<string, S["RankDecision"]>>({});
  const save = useAction(
    () => unwrap(client.POST("/api/promotions", { body: { on, decisions: Object.values(made) } })),
    (ids) => tr("Saved {{ids}} decisions.", { ids: ids.length }),
    () => setMade({}),
  );
  const dayOf = useQuery({
    queryKey: ["rank day", on],
    queryFn: () => unwrap(client.GET("/api/promotions/{day}", { params: { path: { day: on } } })),
    enabled: /^\d{4}-\d{2}-\d{2}$/.test(on),
  });
  const decide = (c: S["Candidate"], outcome: Outcome | "", reason?: string) =>
    setMade((had) => {
      const { [c.person.id]: was, ...rest } = had;
      if (!outcome) return rest;
      return { ...rest, [c.person.id]: { id: was?.id ?? newId(), student: c.person.id, outcome, reason: reason ?? was?.reason } };
    });
  const n = Object.keys(made).length;
  const given = dayOf.data?.given ?? [];
  const notYet = dayOf.data?.not_yet ?? [];
  return (
    <>
      <div className="flex flex-wrap items-end gap-3">
        <h1 className="flex-1">{tr("Promotions")}</h1>
        <div className="w-40">
          <Input label={tr("On")} type="date" value={on} onChange={(e) => setOn(e.target.value)} />
        </div>
        <Button look="main" disabled={n === 0 || save.isPending} onClick={() => save.mutate(undefined)}>
          {n === 0 ? tr("Save decisions") : tr("Save {{n}} decisions", { n })}
        </Button>
      </div>
      <p className="text-soft">
        {tr(
          "The evidence, nearest first. It is yours to decide; nothing here promotes anybody. A reason for “not yet” is read by the student.",
        )}
      </p>
      {save.error && <Refusal error={save.error} />}
      {(given.length > 0 || notYet.length > 0) && (
        <section className="my-2 border-y border-ink py-1.5" aria-label={tr("Decided on this day")}>
          <div className="flex items-baseline gap-3">
            <h2 className="flex-1">{tr("Decided on this day")}</h2>
            {given.length > 0 && (
              <a className="link" href={`/api/promotions/${on}/certificates.pdf`}>
                {tr("Certificates")}
              </a>
            )}
            <button type="button" className="link no-print" onClick={() => window.print()}>
              {tr("Print")}
            </button>
          </div>
          {given.map((l) => (
            <p key={l.id}>
              <Belt belt={l.belt} rank={l.summary} />
              {l.name}: <b>{l.summary}</b>
            </p>
          ))}
          {notYet.map((l) => (
            <p key={l.id} className="text-soft">
              {tr("{{name}}: not yet. {{reason}}", { name: l.name, reason: l.reason })}
            </p>
          ))}
        </section>
      )}
      {list.data?.length === 0 && <p className="text-soft">{tr("There are no students yet.")}</p>}
      <table className="grid-lines mt-1">
        <thead>
          <tr>
            <th>{tr("Student")}</th>
            <th>{tr("For")}</th>
            <th>{tr("Met")}</th>
            <th title={tr("Months and classes at the rank")}>{tr("At the rank")}</th>
            <th>{tr("Decision")}</th>
          </tr>
        </thead>
        <tbody>
          {(list.data ?? []).map((c) => {
            const d = made[c.person.id];
            return (
              <tr key={c.person.id} className="align-top">
                <td>
                  <Belt belt={c.person.belt} rank={c.person.rank} />
                  {c.person.name}
                  {c.person.held && <b className="text-clay"> {tr("· held")}</b>}
                  {c.last && <span className="block text-[12.5px] text-soft">{c.last}</span>}
                </td>
                <td>
                  {c.next || tr("the end of the ladder")}
                  {c.onward && <span className="block text-[12.5px] text-lake">{tr("or {{summary}}", { summary: c.onward.summary })}</span>}
                </td>
                <td className="num" title={c.readiness.missing.map((m) => m.name).join(", ")}>
                  {percent(c.readiness.share)}
                </td>
                <td className="num whitespace-nowrap">
                  {tr("{{months}} mo, {{classes}} cl", { months: c.months, classes: c.classes })}
                  {c.readiness.waits.length > 0 && (
                    <span className="block text-[12.5px] whitespace-normal text-soft">{c.readiness.waits.join("; ")}</span>
                  )}
                </td>
                <td>
                  <select
                    aria-label={tr("Decision about {{name}}", { name: c.person.name })}
                    className="h-[27px] rounded-sm border border-rule bg-white"
                    value={d?.outcome ?? ""}
                    onChange={(e) => decide(c, e.target.value as Outcome | "")}
                  >
                    <option value="">{tr("none")}</option>
                    {c.next && <option value="rank">{c.next}</option>}
                    {c.stripes < c.most && <option value="stripe">{tr("stripe {{stripes}}", { stripes: c.stripes + 1 })}</option>}
                    <option value="not yet">{tr("not yet")}</option>
                  </select>
                  {d?.outcome === "not yet" && (
                    <input
                      aria-label={tr("Why not yet: {{name}}", { name: c.person.name })}
                      placeholder={tr("Why; they may read it")}
                      className="mt-1 block w-full rounded-sm border border-rule bg-white px-1"
                      value={d.reason ?? ""}
                      onChange={(e) => decide(c, "not yet", e.target.value)}
                    />
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </>
  );
}
