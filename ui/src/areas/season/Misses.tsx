import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { useAction, useMay } from "../../api/actions";
import { client, unwrap } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { Button } from "../../kit/Button";
import { Input } from "../../kit/Field";
import { Empty, Note } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { decimal, percent } from "../../kit/words";

type Asked = { student?: string; unit?: string; name: string };

/** Misses shows students by units with the chance covered; for either, the one change that would help most. */
export function Misses({ season }: { season: string }) {
  const [asked, ask] = useState<Asked | null>(null);
  const [find, setFind] = useState("");
  const page = useQuery({
    queryKey: ["misses", season],
    queryFn: () => unwrap(client.GET("/api/seasons/{id}/misses", { params: { path: { id: season } } })),
  });
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  if (!page.data) return null;
  if (page.data.students.length === 0) return <Empty title={tr("Nobody to miss anything")}>{tr("Plan the season first.")}</Empty>;
  const students = page.data.students.filter((s) => s.name.toLowerCase().includes(find.toLowerCase()));
  return (
    <>
      <div className="flex flex-wrap items-end gap-3">
        <div className="w-52">
          <Input label={tr("Find a student")} value={find} onChange={(e) => setFind(e.target.value)} />
        </div>
        <p className="pb-1 text-[12.5px] text-soft">
          {tr(
            "Chance covered by the season’s end, least first. An empty square: nothing is needed. Pick a name or a unit for the one change that would help most.",
          )}
        </p>
      </div>
      {asked && <Help key={JSON.stringify(asked)} season={season} asked={asked} onDone={() => ask(null)} />}
      <div className="mt-2 overflow-auto">
        <table className="grid-lines text-[12.5px]" data-misses>
          <thead>
            <tr>
              <th className="sticky left-0 z-10 min-w-36 bg-paper">{tr("Student")}</th>
              <th className="text-right">{tr("All")}</th>
              {page.data.units.map((u) => (
                <th key={u.unit} className="h-36 w-8 min-w-8 !p-0 align-bottom">
                  <button
                    type="button"
                    title={tr("{{name}}: {{mean}} of {{needed}} who need it", { name: u.name, mean: percent(u.mean), needed: u.needed })}
                    className="flex h-36 w-8 items-center font-normal hover:bg-wash"
                    onClick={() => ask({ unit: u.unit, name: u.name })}
                  >
                    <span className="h-[132px] w-8 rotate-180 pt-1 truncate text-left leading-8 [writing-mode:vertical-rl]">{u.name}</span>
                  </button>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {students.map((s) => (
              <tr key={s.id}>
                <td className="sticky left-0 bg-paper whitespace-nowrap">
                  <Belt belt={s.belt} rank={s.rank} />
                  <button type="button" className="hover:underline" onClick={() => ask({ student: s.id, name: s.name })}>
                    {s.name}
                  </button>
                </td>
                <td className="num text-right font-semibold">{percent(s.mean)}</td>
                {page.data.units.map((u) => {
                  const c = s.cells[u.unit];
                  return (
                    <td
                      key={u.unit}
                      className="num !px-0 text-center"
                      style={c === undefined ? undefined : { background: `rgb(168 60 38 / ${(0.42 * (1 - c)).toFixed(2)})` }}
                      title={c === undefined ? undefined : `${s.name}, ${u.name}: ${percent(c)}`}
                    >
                      {c === undefined ? "" : Math.round(c * 100)}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </>
  );
}

function Help({ season, asked, onDone }: { season: string; asked: Asked; onDone: () => void }) {
  const may = useMay();
  const query = { student: asked.student, unit: asked.unit };
  const help = useQuery({
    queryKey: ["help", season, query],
    enabled: may("find-help"),
    queryFn: () => unwrap(client.GET("/api/seasons/{id}/help", { params: { path: { id: season }, query } })),
  });
  const make = useAction(
    (_: undefined) => unwrap(client.POST("/api/seasons/{id}/help", { params: { path: { id: season }, query } })),
    () => tr("Changed the plan for {{name}}.", { name: asked.name }),
    onDone,
  );
  const h = help.data;
  return (
    <div className="mt-2 border-y border-ink py-2" data-help>
      <h2>
        {asked.student ? (
          <Link className="link" to={`/ledger/${asked.student}`}>
            {asked.name}
          </Link>
        ) : (
          asked.name
        )}
      </h2>
      {help.isPending && <p className="text-soft">{tr("Looking at every class…")}</p>}
      {h && (
        <Note title={h.found ? tr("What would help most:") : ""} tone={h.found ? "lake" : "moss"}>
          {h.summary}
          {h.found && (
            <span className="num block">
              {tr("{{name}} {{before}} → {{after}}; the whole season {{now}}% → {{coverage}}%.", {
                name: asked.name,
                before: percent(h.before),
                after: percent(h.after),
                now: decimal(h.now * 100, 1),
                coverage: decimal(h.coverage * 100, 1),
              })}
            </span>
          )}
        </Note>
      )}
      <div className="flex gap-2">
        {h?.found && may("take-help") && (
          <Button look="main" disabled={make.isPending} onClick={() => make.mutate(undefined)}>
            {tr("Apply this change")}
          </Button>
        )}
        <Button onClick={onDone}>{tr("Close")}</Button>
      </div>
      {make.error && <p className="text-clay">{make.error.message}</p>}
    </div>
  );
}
