import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Note, SplitPane } from "../../kit/SplitPane";
import { tr, word } from "../../kit/tr";
import { moment } from "../../kit/words";
import { History } from "../library/History";
import { AcademyShelves } from "./AcademyShelves";
import { RequiredCells } from "./RequiredCells";
import { SettingsForm } from "./SettingsForm";

/** Broken lists records that cannot be read: the academy goes on without them until somebody decides. */
function Broken({ records }: { records: S["Broken"][] }) {
  const mend = useAction(
    (r: S["Broken"]) => unwrap(client.POST("/api/academy/broken/{kind}/{id}", { params: { path: { kind: r.kind, id: r.id } } })),
    (_, r) => tr("The {{kind}} {{id}} is back.", { kind: word(r.kind), id: r.id }),
  );
  const remove = useAction(
    (r: S["Broken"]) => unwrap(client.DELETE("/api/academy/broken/{kind}/{id}", { params: { path: { kind: r.kind, id: r.id } } })),
    (_, r) => tr("Deleted the {{kind}} {{id}}.", { kind: word(r.kind), id: r.id }),
  );
  return (
    <section className="mt-3 border-y border-clay py-2" aria-label={tr("Records that cannot be read")}>
      <h2 className="text-clay">{tr("Records that cannot be read")}</h2>
      <p className="text-soft">{tr("They were set aside; everything else works without them.")}</p>
      <ul>
        {records.map((r) => (
          <li key={`${r.kind} ${r.id}`} className="mt-2">
            <b>
              {r.kind} {r.id}
            </b>
            : {r.why}
            <span className="mt-1 flex gap-2">
              <Button onClick={() => mend.mutate(r)}>{tr("Restore its last good state")}</Button>
              <Button onClick={() => remove.mutate(r)}>{tr("Delete")}</Button>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Academy: the house's numbers with where they come from, and what was changed lately. */
export default function Academy() {
  const may = useMay();
  const [changing, change] = useState(false);
  const [history, showHistory] = useState(false);
  const page = useQuery({ queryKey: ["academy"], queryFn: () => unwrap(client.GET("/api/academy")) });
  if (page.error) return <p className="p-5 text-clay">{page.error.message}</p>;
  if (!page.data) return null;
  const a = page.data;
  return (
    <SplitPane
      wide={changing ? "even" : undefined}
      left={
        <>
          <h1>{a.name}</h1>
          <AcademyShelves on={tr("Settings")} />
          <p className="num text-soft">{a.counts.join(" · ")}</p>
          {a.broken.length > 0 && <Broken records={a.broken} />}
          <div className="mt-3 flex items-baseline gap-3">
            <h2 className="flex-1">{tr("Settings")}</h2>
            {may("record-history") && (
              <Button look="quiet" onClick={() => showHistory(!history)}>
                {tr("History")}
              </Button>
            )}
            {may("save-settings") && !changing && <Button onClick={() => change(true)}>{tr("Change settings")}</Button>}
          </div>
          {history && <History kind="settings" id="settings" onClose={() => showHistory(false)} />}
          <div className="relative overflow-x-auto">
            <table className="grid-lines mt-1">
              <thead>
                <tr>
                  <th>{tr("What")}</th>
                  <th>{tr("Value")}</th>
                  <th>{tr("Usual")}</th>
                  <th>{tr("Meaning")}</th>
                  <th>{tr("Source")}</th>
                </tr>
              </thead>
              <tbody>
                {a.settings.map((s) => (
                  <tr key={s.name} className="align-top">
                    <td>{s.name}</td>
                    <td className="num font-bold">{s.value}</td>
                    <td className="num text-soft">{s.usual}</td>
                    <td className="text-soft">
                      {s.meaning}
                      {s.range && `; ${s.range}`}
                    </td>
                    <td className="text-soft">{s.source}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <h2 className="mt-4">{tr("Gates")}</h2>
          <p className="text-soft">
            {tr("What a student needs before a technique that loads this may be taught to or checked with them.")}
          </p>
          <div className="relative overflow-x-auto">
            <table className="grid-lines mt-1">
              <thead>
                <tr>
                  <th>{tr("Of what")}</th>
                  <th>{tr("From age")}</th>
                  <th>{tr("From rank")}</th>
                  <th>{tr("An escape")}</th>
                  <th>{tr("Tracks")}</th>
                </tr>
              </thead>
              <tbody>
                {a.gates.map((g) => (
                  <tr key={g.covers}>
                    <td>
                      {g.covers} <span className="text-[12.5px] text-soft">{g.loads}</span>
                    </td>
                    <td className="num">{g.age}</td>
                    <td>{g.rank}</td>
                    <td>{g.escape}</td>
                    <td>{g.tracks}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <Note tone="clay">{a.defers}</Note>
          <RequiredCells page={a} />
          <p className="flex gap-5">
            {may("export-academy") && (
              <a className="link" href="/api/academy/bundle" download="academy.json">
                {tr("Download the whole academy")}
              </a>
            )}
            <a className="link" href="/api/docs">
              {tr("For programs: the API")}
            </a>
          </p>
        </>
      }
      right={changing ? <SettingsForm page={a} onDone={() => change(false)} /> : <Changes />}
    />
  );
}

function Changes() {
  const may = useMay();
  const list = useQuery({ queryKey: ["changes"], queryFn: () => unwrap(client.GET("/api/changes")) });
  const undo = useAction(
    (id: string) => unwrap(client.POST("/api/changes/{id}/undo", { params: { path: { id } } })),
    () => tr("Undone."),
  );
  return (
    <>
      <h2>{tr("Changed lately")}</h2>
      {list.error && <p className="text-clay">{list.error.message}</p>}
      <ul className="mt-1">
        {(list.data ?? []).map((e) => (
          <li key={e.id} className="flex gap-3 border-b border-hair py-1">
            <span className="min-w-0 flex-1">
              <span className={e.undone ? "text-soft line-through" : ""}>{e.summary}</span>
              <span className="num block text-[12.5px] leading-4 text-soft">
                {moment(e.at)} · {e.by}
              </span>
            </span>
            {may("undo-change") && !e.undone && !e.undoes && e.by !== "import" && (
              <button
                type="button"
                className="link text-[12.5px]"
                disabled={undo.isPending}
                onClick={() => undo.mutate(e.id)}
                aria-label={tr("Undo: {{summary}}", { summary: e.summary })}
              >
                {tr("Undo")}
              </button>
            )}
          </li>
        ))}
      </ul>
    </>
  );
}
