import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { useUnsaved } from "../../kit/draft";
import { Input, TextArea } from "../../kit/Field";
import { Refusal } from "../../kit/Refusal";
import { tr } from "../../kit/tr";
import { History } from "./History";
import { PickPlace } from "./Pick";
import { CueHead, RowLine } from "./TableGrid";
import { Verdict } from "./TableVerdict";
import { usePositions, useTechniques } from "./words";

type Table = S["LibraryForkTable"];
export type Row = S["LibraryRow"];

const empty: Table = { id: "", name: "", at: { position: "", part: "attack" }, cues: [], rows: [] };

/** TableEditor shows cues as columns and rows as rules, and says under the hand what is open, contradicts or could go. */
export function TableEditor({ page, onDone }: { page?: S["TablePage"]; onDone: (id: string) => void }) {
  const [opened, reopen] = useState(page);
  const [t, setT] = useState<Table>(page?.table ?? empty);
  const [open, show] = useState<"history" | "">("");
  const may = useMay();
  const go = useNavigate();
  const positions = usePositions();
  const techniques = useTechniques();
  const writes = may("save-fork-table");
  const here = t.at.position ? techniques.filter((x) => x.from_at === `${t.at.position}/${t.at.part}`) : [];
  const written = JSON.stringify(t);
  const dirty = written !== JSON.stringify(opened?.table ?? empty);
  // What is read anew is taken over where nothing would be lost: the form is as it was opened, or as it was just saved.
  const newer = page && opened && page.version !== opened.version;
  useEffect(() => {
    if (!newer || (dirty && written !== JSON.stringify(page.table))) return;
    reopen(page);
    setT(page.table);
  }, [newer, dirty, written, page]);
  const save = useAction(
    (body: Table) => unwrap(client.PUT("/api/fork-tables", { params: { query: { version: opened?.version ?? 0 } }, body })),
    () => (page ? tr("Changed {{name}}.", { name: t.name }) : tr("Added {{name}}.", { name: t.name })),
    (out) => onDone(out.id),
  );
  useUnsaved(dirty && !save.isPending);
  const remove = useAction(
    (id: string) => unwrap(client.DELETE("/api/records/{kind}/{id}", { params: { path: { kind: "fork table", id } } })),
    () => tr("Deleted {{name}}.", { name: t.name }),
    () => go("/library/fork-tables"),
  );
  const draft = useDeferredValue(t);
  const told = useQuery({
    queryKey: ["verdict", JSON.stringify(draft)],
    enabled: may("judge-fork-table"),
    queryFn: () => unwrap(client.POST("/api/fork-tables/verdict", { body: draft })),
    placeholderData: keepPreviousData,
  });
  const verdict = told.data ?? page?.verdict;
  const rename = (i: number, cue: S["LibraryCue"]) => {
    const was = t.cues[i];
    if (!was) return;
    const rows = t.rows.map((r) => {
      const { [was.id]: values, ...rest } = r.when;
      if (!values) return r;
      const kept = values.map((v) => cue.values[was.values.indexOf(v)] ?? v).filter((v) => cue.values.includes(v));
      return { ...r, when: kept.length ? { ...rest, [cue.id]: kept } : rest };
    });
    setT({ ...t, cues: t.cues.map((c, j) => (j === i ? cue : c)), rows });
  };
  const addRow = (when: Row["when"]) => {
    const used = new Set(t.rows.map((r) => r.id));
    let n = t.rows.length + 1;
    while (used.has(`r${n}`)) n++;
    // Without an answer chosen the row says nothing yet, and the server says so.
    setT({ ...t, rows: [...t.rows, { id: `r${n}`, when, then: "", priority: 1 }] });
  };
  return (
    <article>
      <div className="flex flex-wrap items-center gap-3">
        <h1 className="flex-1">{page ? t.name : tr("New fork table")}</h1>
        {dirty && <span className="cap text-clay">{tr("not saved yet")}</span>}
        {writes && (
          <Button look="main" disabled={!dirty || save.isPending} onClick={() => save.mutate(t)}>
            {tr("Save table")}
          </Button>
        )}
        {page && dirty && (
          <Button
            onClick={() => {
              reopen(page);
              setT(page.table);
            }}
          >
            {tr("Cancel")}
          </Button>
        )}
        {page && may("record-history") && (
          <button type="button" className="link no-print text-[13px]" onClick={() => show(open ? "" : "history")}>
            {tr("History")}
          </button>
        )}
        {page && may("delete-record") && (
          <button type="button" className="link no-print text-[13px]" onClick={() => remove.mutate(page.table.id)}>
            {tr("Delete")}
          </button>
        )}
      </div>
      {save.error && <Refusal error={save.error} />}
      {newer && dirty && (
        <p className="text-clay" role="status">
          {tr("Somebody else changed this table meanwhile. Your words are still here; “Cancel” shows theirs.")}
        </p>
      )}
      {open === "history" && page && <History kind="fork table" id={page.table.id} onClose={() => show("")} />}
      {page && <p className="cap">{`${page.position}, ${t.at.part === "attack" ? "attacker" : "defender"}`}</p>}
      {writes ? (
        <div className="no-print mt-1 grid grid-cols-2 gap-3">
          <Input label={tr("Name")} value={t.name} onChange={(e) => setT({ ...t, name: e.target.value })} />
          <PickPlace
            label={tr("Belongs to")}
            value={t.at.position ? t.at : undefined}
            positions={positions}
            onChange={(at) => setT({ ...t, at: at ?? { position: "", part: "attack" } })}
          />
          <div className="col-span-2">
            <TextArea
              label={tr("Note")}
              rows={1}
              value={t.note ?? ""}
              onChange={(e) => setT({ ...t, note: e.target.value || undefined })}
            />
          </div>
        </div>
      ) : (
        t.note && <p className="text-[15px]">{t.note}</p>
      )}
      <div className="mt-3 relative overflow-x-auto">
        <table className="grid-lines">
          <thead>
            <tr>
              <th className="w-10">{tr("Row")}</th>
              {t.cues.map((c, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: a cue's name changes while it is written
                <th key={i} className="min-w-28">
                  {writes ? (
                    <CueHead
                      cue={c}
                      onChange={(cue) => rename(i, cue)}
                      onRemove={() =>
                        setT({
                          ...t,
                          cues: t.cues.filter((_, j) => j !== i),
                          rows: t.rows.map((r) => {
                            const { [c.id]: _, ...when } = r.when;
                            return { ...r, when };
                          }),
                        })
                      }
                    />
                  ) : (
                    c.id
                  )}
                </th>
              ))}
              <th className="min-w-44">{tr("Then")}</th>
              <th className="w-16" title={tr("1 is the strongest")}>
                {tr("Priority")}
              </th>
              {writes && <td className="w-7" />}
            </tr>
          </thead>
          <tbody>
            {t.rows.map((r, i) => (
              <RowLine
                key={r.id}
                row={r}
                cues={t.cues}
                writes={writes}
                answers={[...here, ...techniques.filter((x) => x.id === r.then && !here.some((h) => h.id === x.id))]}
                others={techniques}
                name={verdict?.names[r.then] ?? techniques.find((x) => x.id === r.then)?.name ?? r.then}
                mark={verdict?.findings && markOf(r.id, verdict.findings)}
                onChange={(row) => setT({ ...t, rows: t.rows.map((x, j) => (j === i ? row : x)) })}
                onRemove={() => setT({ ...t, rows: t.rows.filter((_, j) => j !== i) })}
              />
            ))}
          </tbody>
        </table>
      </div>
      {writes && (
        <p className="no-print mt-1 flex gap-4 text-[13px]">
          <button type="button" className="link" onClick={() => addRow({})}>
            {tr("Add a row")}
          </button>
          <button
            type="button"
            className="link"
            onClick={() => setT({ ...t, cues: [...t.cues, { id: `cue ${t.cues.length + 1}`, values: ["yes", "no"] }] })}
          >
            {tr("Add a cue")}
          </button>
        </p>
      )}
      {verdict && (
        <Verdict
          verdict={verdict}
          writes={writes}
          onHole={(p) => addRow(Object.fromEntries(p.map((c) => [c.cue, c.values])))}
          onDrop={(id) => setT({ ...t, rows: t.rows.filter((r) => r.id !== id) })}
          onTake={() => setT({ ...t, rows: verdict.minimal })}
        />
      )}
    </article>
  );
}

function markOf(id: string, f: S["TableFindings"]): string {
  if (f.unreachable.includes(id)) return tr("never applies");
  if (f.contradictions.some((c) => c.rows.includes(id))) return "contradicts";
  if (f.redundant.includes(id)) return tr("could go");
  return "";
}
