import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { Button } from "../../kit/Button";
import { Input, Select } from "../../kit/Field";
import { Refusal } from "../../kit/Refusal";
import { newId, percent } from "../../kit/words";

type Outcome = S["RankDecision"]["outcome"];

function useCandidates() {
  return useQuery({ queryKey: ["candidates"], queryFn: () => unwrap(client.GET("/api/promotions/candidates")) });
}

/** Promotions puts the evidence of everybody side by side; the head instructor decides. */
export function Promotions() {
  const list = useCandidates();
  const [on, setOn] = useState(() => new Date().toISOString().slice(0, 10));
  const [made, setMade] = useState<Record<string, S["RankDecision"]>>({});
  const save = useAction(
    () => unwrap(client.POST("/api/promotions", { body: { on, decisions: Object.values(made) } })),
    (ids) => `Kept ${ids.length} decisions.`,
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
        <h1 className="flex-1">Promotions</h1>
        <div className="w-40">
          <Input label="On" type="date" value={on} onChange={(e) => setOn(e.target.value)} />
        </div>
        <Button look="main" disabled={n === 0 || save.isPending} onClick={() => save.mutate(undefined)}>
          {n === 0 ? "Save decisions" : `Save ${n} decisions`}
        </Button>
      </div>
      <p className="text-soft">
        The evidence, nearest first. It is yours to decide; nothing here promotes anybody. A reason for “not yet” is read by the student.
      </p>
      {save.error && <Refusal error={save.error} />}
      {(given.length > 0 || notYet.length > 0) && (
        <section className="my-2 border-y border-ink py-1.5" aria-label="Decided on this day">
          <div className="flex items-baseline gap-3">
            <h2 className="flex-1">Decided on this day</h2>
            {given.length > 0 && (
              <a className="link" href={`/api/promotions/${on}/certificates.pdf`}>
                Certificates
              </a>
            )}
            <button type="button" className="link no-print" onClick={() => window.print()}>
              Print
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
              {l.name}: not yet. {l.reason}
            </p>
          ))}
        </section>
      )}
      {list.data?.length === 0 && <p className="text-soft">There are no students yet.</p>}
      <table className="grid-lines mt-1">
        <thead>
          <tr>
            <th>Student</th>
            <th>For</th>
            <th>Met</th>
            <th title="Months and classes at the rank">At the rank</th>
            <th>Decision</th>
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
                  {c.person.held && <b className="text-clay"> · held</b>}
                  {c.last && <span className="block text-[12.5px] text-soft">{c.last}</span>}
                </td>
                <td>
                  {c.next || "the end of the ladder"}
                  {c.onward && <span className="block text-[12.5px] text-lake">or {c.onward.summary}</span>}
                </td>
                <td className="num" title={c.readiness.missing.map((m) => m.name).join(", ")}>
                  {percent(c.readiness.share)}
                </td>
                <td className="num whitespace-nowrap">
                  {c.months} mo, {c.classes} cl
                  {c.readiness.waits.length > 0 && (
                    <span className="block text-[12.5px] whitespace-normal text-soft">{c.readiness.waits.join("; ")}</span>
                  )}
                </td>
                <td>
                  <select
                    aria-label={`Decision about ${c.person.name}`}
                    className="h-[27px] rounded-sm border border-rule bg-white"
                    value={d?.outcome ?? ""}
                    onChange={(e) => decide(c, e.target.value as Outcome | "")}
                  >
                    <option value="">none</option>
                    {c.next && <option value="rank">{c.next}</option>}
                    {c.stripes < c.most && <option value="stripe">stripe {c.stripes + 1}</option>}
                    <option value="not yet">not yet</option>
                  </select>
                  {d?.outcome === "not yet" && (
                    <input
                      aria-label={`Why not yet: ${c.person.name}`}
                      placeholder="Why; they may read it"
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

/** Decide is the evidence of one student, and the decision. */
export function Decide({ student, name, onDone }: { student: string; name: string; onDone: () => void }) {
  const list = useCandidates();
  const ladders = useQuery({ queryKey: ["ladders"], queryFn: () => unwrap(client.GET("/api/ladders")) });
  const c = list.data?.find((x) => x.person.id === student);
  const [event] = useState(newId);
  const [d, set] = useState<{ outcome: Outcome; to?: string; ladder?: string; reason: string; on: string }>({
    outcome: "rank",
    reason: "",
    on: "",
  });
  const save = useAction(
    () =>
      unwrap(
        client.POST("/api/promotions", {
          body: {
            on: d.on || undefined,
            decisions: [
              {
                id: event,
                student,
                outcome: d.outcome,
                to: d.to || undefined,
                ladder: d.ladder || undefined,
                reason: d.reason || undefined,
              },
            ],
          },
        }),
      ),
    () => `Kept the decision about ${name}.`,
    onDone,
  );
  if (!c) return null;
  const ladder = (ladders.data ?? []).find((l) => l.id === (d.ladder || c.person.ladder));
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate(undefined);
      }}
    >
      <h1>{name}: decide about a rank</h1>
      <table className="grid-lines">
        <tbody>
          <tr>
            <td>Requirements of {c.next || "the ladder"}</td>
            <td className="num">
              {c.readiness.met} of {c.readiness.of} ({percent(c.readiness.share)})
            </td>
          </tr>
          <tr>
            <td>At this rank</td>
            <td className="num">
              {c.months} months, {c.classes} classes, {c.checks} checks met
            </td>
          </tr>
          {c.readiness.waits.length > 0 && (
            <tr>
              <td>Still wanting</td>
              <td>{c.readiness.waits.join("; ")}</td>
            </tr>
          )}
          {c.readiness.missing.length > 0 && (
            <tr>
              <td>Missing</td>
              <td>
                {c.readiness.missing
                  .slice(0, 8)
                  .map((m) => m.name)
                  .join(", ")}
                {c.readiness.missing.length > 8 && ` and ${c.readiness.missing.length - 8} more`}
              </td>
            </tr>
          )}
          {c.last && (
            <tr>
              <td>Decided last</td>
              <td>{c.last}</td>
            </tr>
          )}
          {c.notes.map((n) => (
            <tr key={n}>
              <td>Coaches wrote</td>
              <td>{n}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {c.onward && (
        <p>
          By their age the ladder's rule would move them on to <b>{c.onward.summary}</b>.{" "}
          <button
            type="button"
            className="link"
            onClick={() => set({ ...d, outcome: "rank", ladder: c.onward?.ladder, to: c.onward?.rank })}
          >
            Choose that
          </button>
        </p>
      )}
      {save.error && <Refusal error={save.error} />}
      <div className="grid grid-cols-3 gap-3">
        <Select label="Decision" value={d.outcome} onChange={(e) => set({ ...d, outcome: e.target.value as Outcome })}>
          <option value="rank">a rank</option>
          {c.stripes < c.most && <option value="stripe">stripe {c.stripes + 1}</option>}
          <option value="not yet">not yet</option>
        </Select>
        {d.outcome === "rank" && (
          <Select
            label="Rank"
            value={d.to ?? c.next_id}
            onChange={(e) => set({ ...d, to: e.target.value })}
            hint={d.ladder ? ladder?.name : undefined}
          >
            {(ladder?.ranks ?? []).map((r) => (
              <option key={r.id} value={r.id}>
                {r.name}
              </option>
            ))}
          </Select>
        )}
        <Input label="On" type="date" hint="Today when empty" value={d.on} onChange={(e) => set({ ...d, on: e.target.value })} />
      </div>
      <Input
        label="Reason"
        hint={d.outcome === "not yet" ? "They may read it: say what is missing" : "If there is something to say; they may read it"}
        value={d.reason}
        onChange={(e) => set({ ...d, reason: e.target.value })}
      />
      <div className="flex gap-2">
        <Button type="submit" look="main" disabled={save.isPending}>
          Save decision
        </Button>
        <Button onClick={onDone}>Cancel</Button>
      </div>
    </form>
  );
}
