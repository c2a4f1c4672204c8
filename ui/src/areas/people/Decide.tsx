import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useAction } from "../../api/actions";
import { client, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Input, Select } from "../../kit/Field";
import { Refusal } from "../../kit/Refusal";
import { tr } from "../../kit/tr";
import { newId, percent } from "../../kit/words";
import { type Outcome, useCandidates } from "./Promotions";

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
    () => tr("Saved the decision about {{name}}.", { name }),
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
      <h1>{tr("{{name}}: decide about a rank", { name })}</h1>
      <table className="grid-lines">
        <tbody>
          <tr>
            <td>{tr("Requirements of {{next}}", { next: c.next || tr("the ladder") })}</td>
            <td className="num">
              {tr("{{met}} of {{of}} ({{share}})", { met: c.readiness.met, of: c.readiness.of, share: percent(c.readiness.share) })}
            </td>
          </tr>
          <tr>
            <td>{tr("At this rank")}</td>
            <td className="num">
              {tr("{{months}} months, {{classes}} classes, {{checks}} checks met", {
                months: c.months,
                classes: c.classes,
                checks: c.checks,
              })}
            </td>
          </tr>
          {c.readiness.waits.length > 0 && (
            <tr>
              <td>{tr("Still wanting")}</td>
              <td>{c.readiness.waits.join("; ")}</td>
            </tr>
          )}
          {c.readiness.missing.length > 0 && (
            <tr>
              <td>{tr("Missing")}</td>
              <td>
                {c.readiness.missing
                  .slice(0, 8)
                  .map((m) => m.name)
                  .join(", ")}
                {c.readiness.missing.length > 8 && ` ${tr("and {{n}} more", { n: c.readiness.missing.length - 8 })}`}
              </td>
            </tr>
          )}
          {c.last && (
            <tr>
              <td>{tr("Decided last")}</td>
              <td>{c.last}</td>
            </tr>
          )}
          {c.notes.map((n) => (
            <tr key={n}>
              <td>{tr("Coaches wrote")}</td>
              <td>{n}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {c.onward && (
        <p>
          {tr("By their age the ladder's rule would move them on to")} <b>{c.onward.summary}</b>.{" "}
          <button
            type="button"
            className="link"
            onClick={() => set({ ...d, outcome: "rank", ladder: c.onward?.ladder, to: c.onward?.rank })}
          >
            {tr("Choose that")}
          </button>
        </p>
      )}
      {save.error && <Refusal error={save.error} />}
      <div className="grid grid-cols-3 gap-3">
        <Select label={tr("Decision")} value={d.outcome} onChange={(e) => set({ ...d, outcome: e.target.value as Outcome })}>
          <option value="rank">{tr("a rank")}</option>
          {c.stripes < c.most && <option value="stripe">{tr("stripe {{stripes}}", { stripes: c.stripes + 1 })}</option>}
          <option value="not yet">{tr("not yet")}</option>
        </Select>
        {d.outcome === "rank" && (
          <Select
            label={tr("Rank")}
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
        <Input
          label={tr("On")}
          type="date"
          hint={tr("Today when empty")}
          value={d.on}
          onChange={(e) => set({ ...d, on: e.target.value })}
        />
      </div>
      <Input
        label={tr("Reason")}
        hint={d.outcome === "not yet" ? tr("They may read it: say what is missing") : tr("If there is something to say; they may read it")}
        value={d.reason}
        onChange={(e) => set({ ...d, reason: e.target.value })}
      />
      <div className="flex gap-2">
        <Button type="submit" look="main" disabled={save.isPending}>
          {tr("Save decision")}
        </Button>
        <Button onClick={onDone}>{tr("Cancel")}</Button>
      </div>
    </form>
  );
}
