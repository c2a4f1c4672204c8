import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Input } from "../../kit/Field";
import { Note } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";

/** ReactionRounds is a sheet for the mat: the partner makes the situation, the other one answers. */
export function ReactionRounds({ table }: { table: string }) {
  const [n, setN] = useState(12);
  const [seed, setSeed] = useState(1);
  const [at, setAt] = useState(-1);
  const sheet = useQuery({
    queryKey: ["rounds", table, n, seed],
    queryFn: () =>
      unwrap(
        client.GET("/api/fork-tables/{id}/reaction-round", {
          params: { path: { id: table }, query: { n: Math.min(200, Math.max(1, n)), seed } },
        }),
      ),
  });
  if (sheet.error) return <p className="text-clay">{sheet.error.message}</p>;
  if (!sheet.data) return null;
  const s = sheet.data;
  return (
    <section aria-label={tr("Rounds for the mat")}>
      <h1>{tr("{{name}}: reaction rounds", { name: s.name })}</h1>
      <p className="cap">
        {tr("{{position}} · sheet {{seed}} · {{calls}} situations", { position: s.position, seed: s.seed, calls: s.calls.length })}
      </p>
      <div className="no-print my-2 flex items-end gap-2">
        <div className="w-28">
          <Input label={tr("Situations")} type="number" min={1} max={200} value={n} onChange={(e) => setN(Number(e.target.value))} />
        </div>
        <Button onClick={() => setSeed((x) => (x % 999_999) + 1)}>{tr("Draw another sheet")}</Button>
        <Button onClick={() => setAt(0)}>{tr("Show one at a time")}</Button>
        <Button onClick={() => window.print()}>{tr("Print the sheet")}</Button>
      </div>
      {at >= 0 && <OneAtATime calls={s.calls} at={at} onAt={setAt} />}
      {s.cautions.length > 0 && (
        <Note tone="clay" title={tr("Caution.")}>
          <ul className="mt-0.5 list-disc pl-4">
            {s.cautions.map((c) => (
              <li key={c}>{c}</li>
            ))}
          </ul>
          <p className="text-[12.5px] text-soft">{s.defers}</p>
        </Note>
      )}
      <table className="grid-lines mt-2">
        <thead>
          <tr>
            <th className="w-8">#</th>
            <th>{tr("The partner makes")}</th>
            <th>{tr("The answer (fold this side back)")}</th>
          </tr>
        </thead>
        <tbody>
          {s.calls.map((c, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a drawn sheet does not move
            <tr key={i}>
              <td className="num text-soft">{i + 1}</td>
              <td>{c.situation.map((x) => `${x.cue}: ${x.value}`).join(" · ")}</td>
              <td>{c.answer.name}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2 text-soft">
        {tr("How often each row comes up:")} {s.counts.map((c) => `${c.row} (${c.then}) ${c.times}`).join(", ")}
        {tr(". No row comes up more than once more often than another.")}
      </p>
    </section>
  );
}

function OneAtATime({ calls, at, onAt }: { calls: S["ReactionCall"][]; at: number; onAt: (at: number) => void }) {
  const c = calls[at];
  if (!c) return null;
  return (
    <div
      className="no-print fixed inset-0 z-40 flex flex-col bg-night p-8 text-chalk"
      role="dialog"
      aria-label={tr("One situation at a time")}
    >
      <p className="head text-xl">{tr("{{at}} of {{calls}}", { at: at + 1, calls: calls.length })}</p>
      <div className="flex flex-1 flex-col justify-center gap-3">
        {c.situation.map((x) => (
          <p key={x.cue} className="head text-[clamp(28px,7vw,84px)] leading-tight font-bold">
            <span className="font-normal opacity-70">{x.cue} </span>
            {x.value}
          </p>
        ))}
      </div>
      <div className="flex gap-3">
        <button type="button" className="min-h-16 flex-1 border-2 border-chalk text-2xl" onClick={() => onAt(at - 1)}>
          {at === 0 ? tr("Close") : tr("Back")}
        </button>
        <button
          type="button"
          className="min-h-16 flex-[2] bg-chalk text-2xl font-bold text-night"
          // biome-ignore lint/a11y/noAutofocus: Enter goes on to the next situation
          autoFocus
          onClick={() => onAt(at + 1 < calls.length ? at + 1 : -1)}
        >
          {at + 1 < calls.length ? tr("Next") : tr("Done")}
        </button>
      </div>
    </div>
  );
}
