import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { useAction } from "../../api/actions";
import { client, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Input } from "../../kit/Field";
import { tr } from "../../kit/tr";

type Closure = { week: string; why: string };

/** LaySeason lays some weeks of the timetable, less the weeks that are closed. */
export function LaySeason({ onDone }: { onDone: () => void }) {
  const go = useNavigate();
  const [name, setName] = useState("");
  const week = useQuery({ queryKey: ["week"], queryFn: () => unwrap(client.GET("/api/week")) });
  const [chosen, setStart] = useState("");
  const start = chosen || (week.data?.find((d) => d.today)?.on ?? "");
  const [weeks, setWeeks] = useState("6");
  const [closures, setClosures] = useState<Closure[]>([]);
  const lay = useAction(
    () =>
      unwrap(
        client.POST("/api/seasons", {
          body: { name, start, weeks: Number(weeks), closures: closures.map((c) => ({ week: Number(c.week), why: c.why || undefined })) },
        }),
      ),
    () => tr("Added {{name}}.", { name }),
    (done) => {
      onDone();
      go(`/season/${done.id}`);
    },
  );
  const wrong = lay.error?.fields ?? {};
  function send(e: FormEvent) {
    e.preventDefault();
    lay.mutate(undefined);
  }
  return (
    <form onSubmit={send} className="flex flex-col gap-3">
      <h1>{tr("New season")}</h1>
      <Input
        label={tr("Name")}
        autoFocus
        value={name}
        onChange={(e) => setName(e.target.value)}
        error={wrong.name}
        placeholder={tr("Winter season")}
      />
      <div className="grid grid-cols-2 gap-3">
        <Input
          label={tr("Any day of its first week")}
          type="date"
          value={start}
          onChange={(e) => setStart(e.target.value)}
          error={wrong.start}
        />
        <Input
          label={tr("Weeks")}
          inputMode="numeric"
          value={weeks}
          onChange={(e) => setWeeks(e.target.value.replace(/\D/g, ""))}
          error={wrong.weeks}
        />
      </div>
      <fieldset className="flex flex-col gap-2">
        <legend className="cap">{tr("Weeks without classes")}</legend>
        {closures.map((c, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: the lines have no name of their own
          <div key={i} className="grid grid-cols-[80px_minmax(0,1fr)_auto] items-end gap-2">
            <Input
              label={tr("Week")}
              inputMode="numeric"
              value={c.week}
              error={wrong[`closures[${i}].week`]}
              onChange={(e) => setClosures(closures.map((x, j) => (i === j ? { ...x, week: e.target.value.replace(/\D/g, "") } : x)))}
            />
            <Input
              label={tr("Why")}
              value={c.why}
              onChange={(e) => setClosures(closures.map((x, j) => (i === j ? { ...x, why: e.target.value } : x)))}
            />
            <Button
              aria-label={tr("Open week {{week}} again", { week: c.week })}
              onClick={() => setClosures(closures.filter((_, j) => j !== i))}
            >
              ✕
            </Button>
          </div>
        ))}
        <Button className="self-start" onClick={() => setClosures([...closures, { week: "", why: "" }])}>
          {tr("Close a week")}
        </Button>
      </fieldset>
      {lay.error && <p className="text-clay">{lay.error.message}</p>}
      <div className="flex gap-2">
        <Button type="submit" look="main" disabled={lay.isPending}>
          {tr("Create the season")}
        </Button>
        <Button onClick={onDone}>{tr("Cancel")}</Button>
      </div>
    </form>
  );
}
