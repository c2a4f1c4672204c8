import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useAction } from "../../api/actions";
import { client, unwrap } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { Button } from "../../kit/Button";
import { Input } from "../../kit/Field";
import { tr } from "../../kit/tr";
import { percent, whole } from "../../kit/words";

export const names: Record<string, string> = {
  name: tr("Name of the day"),
  on: tr("Day"),
  start: tr("Begins"),
  minutes: tr("Minutes"),
  people: tr("Who is tested"),
  examiners: tr("Who examines"),
};

export function Form({ onDone, onCancel }: { onDone: (id: string) => void; onCancel: () => void }) {
  const outlook = useQuery({ queryKey: ["outlook"], queryFn: () => unwrap(client.GET("/api/ledger/outlook")) });
  const positions = useQuery({ queryKey: ["positions", "all"], queryFn: () => unwrap(client.GET("/api/ledger/positions")) });
  const [name, setName] = useState("");
  const [on, setOn] = useState("");
  const [start, setStart] = useState("10:00");
  const [minutes, setMinutes] = useState("180");
  const [rest, setRest] = useState("2");
  const [change, setChange] = useState("1");
  const [from, setFrom] = useState("");
  const [to, setTo] = useState("");
  const [people, setPeople] = useState<string[]>([]);
  const [examiners, setExaminers] = useState<string[]>([]);
  const [wanted, setWanted] = useState("");
  const plan = useAction(
    (_: undefined) =>
      unwrap(
        client.POST("/api/test-days", {
          body: {
            name,
            on: on || undefined,
            start,
            minutes: whole(minutes),
            change_minutes: whole(change),
            rest_minutes: whole(rest),
            breaks: from && to ? [{ start: whole(from), end: whole(to) }] : [],
            examiners,
            people,
            helpers: [],
          },
        }),
      ),
    () => tr("Planned {{name}}.", { name }),
    (done) => done.id && onDone(done.id),
  );
  const wrong = plan.error?.fields ?? {};
  const toggle = (all: string[], id: string) => (all.includes(id) ? all.filter((x) => x !== id) : [...all, id]);
  const rows = (outlook.data?.rows ?? []).filter((r) => r.name.toLowerCase().includes(wanted.trim().toLowerCase()));
  return (
    <form
      aria-label={tr("New day of tests")}
      onSubmit={(e) => {
        e.preventDefault();
        plan.mutate(undefined);
      }}
    >
      <h1>{tr("New day of tests")}</h1>
      <div className="mt-2 grid grid-cols-[minmax(0,2fr)_150px_90px_90px] gap-3">
        <Input label={tr("Name of the day")} value={name} error={wrong.name} onChange={(e) => setName(e.target.value)} />
        <Input label={tr("Day")} type="date" value={on} error={wrong.on} onChange={(e) => setOn(e.target.value)} />
        <Input label={tr("Begins")} value={start} error={wrong.start} onChange={(e) => setStart(e.target.value)} />
        <Input
          label={tr("Minutes")}
          inputMode="numeric"
          value={minutes}
          error={wrong.minutes}
          onChange={(e) => setMinutes(e.target.value)}
        />
      </div>
      <div className="mt-2 grid grid-cols-4 gap-3">
        <Input label={tr("Rest between two tests")} inputMode="numeric" value={rest} onChange={(e) => setRest(e.target.value)} />
        <Input label={tr("Examiner changes over")} inputMode="numeric" value={change} onChange={(e) => setChange(e.target.value)} />
        <Input
          label={tr("Break from minute")}
          inputMode="numeric"
          value={from}
          error={wrong["breaks[0].end"]}
          onChange={(e) => setFrom(e.target.value)}
        />
        <Input label={tr("to minute")} inputMode="numeric" value={to} onChange={(e) => setTo(e.target.value)} />
      </div>
      <fieldset className="mt-3">
        <legend className="cap">{tr("Who examines")}</legend>
        <div className="flex flex-wrap gap-x-4">
          {positions.data?.coaches.map((c) => (
            <label key={c.id} className="flex gap-1.5">
              <input type="checkbox" checked={examiners.includes(c.id)} onChange={() => setExaminers(toggle(examiners, c.id))} />
              {c.name}
            </label>
          ))}
        </div>
        {wrong.examiners && <p className="text-clay">{wrong.examiners}</p>}
      </fieldset>
      <fieldset className="mt-3">
        <legend className="cap">{tr("Who is tested: {{people}}, soonest ready first", { people: people.length })}</legend>
        <input
          type="search"
          aria-label={tr("Find somebody")}
          placeholder={tr("A name")}
          value={wanted}
          onChange={(e) => setWanted(e.target.value)}
          className="my-1 h-[29px] w-60 rounded-sm border border-rule bg-white px-2"
        />
        {wrong.people && <p className="text-clay">{wrong.people}</p>}
        <div className="grid max-h-[40vh] grid-cols-2 gap-x-4 overflow-y-auto">
          {rows.map((r) => (
            <label key={r.id} className="flex items-center gap-1.5 border-b border-hair py-0.5">
              <input type="checkbox" checked={people.includes(r.id)} onChange={() => setPeople(toggle(people, r.id))} />
              <Belt belt={r.belt} rank={r.rank} />
              <span className="min-w-0 flex-1 truncate">{r.name}</span>
              <span className="num text-[12.5px] text-soft">
                {r.next} {percent(r.share)}
              </span>
            </label>
          ))}
        </div>
      </fieldset>
      {plan.error && (
        <div className="mt-2 text-clay">
          <p>{Object.keys(wrong).length > 0 ? tr("The day cannot be planned so:") : plan.error.message}</p>
          {Object.entries(wrong).map(([field, words]) => (
            <p key={field}>
              {names[field] ?? field}: {words}
            </p>
          ))}
        </div>
      )}
      <div className="mt-3 flex gap-2">
        <Button type="submit" look="main" disabled={plan.isPending}>
          {tr("Plan the day")}
        </Button>
        <Button onClick={onCancel}>{tr("Cancel")}</Button>
      </div>
    </form>
  );
}
