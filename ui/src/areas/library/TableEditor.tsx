import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useEffect, useState } from "react";
import { Link, useNavigate } from "react-router";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { useUnsaved } from "../../kit/draft";
import { Input, TextArea } from "../../kit/Field";
import { History } from "./History";
import { PickPlace } from "./Pick";
import { Refusal } from "./TechniqueEditor";
import { usePositions, useTechniques } from "./words";

type Table = S["LibraryForkTable"];
type Row = S["LibraryRow"];

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
    () => (page ? `Changed ${t.name}.` : `Added ${t.name}.`),
    (out) => onDone(out.id),
  );
  useUnsaved(dirty && !save.isPending);
  const remove = useAction(
    (id: string) => unwrap(client.DELETE("/api/records/{kind}/{id}", { params: { path: { kind: "fork table", id } } })),
    () => `Took ${t.name} out of the library.`,
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
        <h1 className="flex-1">{page ? t.name : "New fork table"}</h1>
        {dirty && <span className="cap text-clay">not kept yet</span>}
        {writes && (
          <Button look="main" disabled={!dirty || save.isPending} onClick={() => save.mutate(t)}>
            Save table
          </Button>
        )}
        {page && dirty && (
          <Button
            onClick={() => {
              reopen(page);
              setT(page.table);
            }}
          >
            Cancel
          </Button>
        )}
        {page && may("record-history") && (
          <button type="button" className="link no-print text-[13px]" onClick={() => show(open ? "" : "history")}>
            History
          </button>
        )}
        {page && may("delete-record") && (
          <button type="button" className="link no-print text-[13px]" onClick={() => remove.mutate(page.table.id)}>
            Delete
          </button>
        )}
      </div>
      {save.error && <Refusal error={save.error} />}
      {newer && dirty && (
        <p className="text-clay" role="status">
          Somebody else changed this table meanwhile. Your words are still here; “Cancel” shows theirs.
        </p>
      )}
      {open === "history" && page && <History kind="fork table" id={page.table.id} onClose={() => show("")} />}
      {page && <p className="cap">{`${page.position}, ${t.at.part === "attack" ? "attacker" : "defender"}`}</p>}
      {writes ? (
        <div className="no-print mt-1 grid grid-cols-2 gap-3">
          <Input label="Name" value={t.name} onChange={(e) => setT({ ...t, name: e.target.value })} />
          <PickPlace
            label="Belongs to"
            value={t.at.position ? t.at : undefined}
            positions={positions}
            onChange={(at) => setT({ ...t, at: at ?? { position: "", part: "attack" } })}
          />
          <div className="col-span-2">
            <TextArea label="Note" rows={1} value={t.note ?? ""} onChange={(e) => setT({ ...t, note: e.target.value || undefined })} />
          </div>
        </div>
      ) : (
        t.note && <p className="text-[15px]">{t.note}</p>
      )}
      <div className="mt-3 overflow-x-auto">
        <table className="grid-lines">
          <thead>
            <tr>
              <th className="w-10">Row</th>
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
              <th className="min-w-44">Then</th>
              <th className="w-16" title="1 is the strongest">
                Priority
              </th>
              {writes && <th className="w-7" />}
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
            Add a row
          </button>
          <button
            type="button"
            className="link"
            onClick={() => setT({ ...t, cues: [...t.cues, { id: `cue ${t.cues.length + 1}`, values: ["yes", "no"] }] })}
          >
            Add a cue
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
  if (f.unreachable.includes(id)) return "never applies";
  if (f.contradictions.some((c) => c.rows.includes(id))) return "contradicts";
  if (f.redundant.includes(id)) return "could go";
  return "";
}

function CueHead({ cue, onChange, onRemove }: { cue: S["LibraryCue"]; onChange: (cue: S["LibraryCue"]) => void; onRemove: () => void }) {
  const [values, setValues] = useState(cue.values.join(", "));
  const read = (text: string) =>
    text
      .split(",")
      .map((v) => v.trim())
      .filter(Boolean);
  return (
    <div className="flex flex-col gap-1 font-sans font-normal text-ink">
      <div className="flex gap-1">
        <input
          aria-label={`Cue ${cue.id}`}
          value={cue.id}
          onChange={(e) => onChange({ ...cue, id: e.target.value })}
          className="h-6 w-full min-w-0 rounded-sm border border-rule bg-white px-1 font-semibold"
        />
        <button type="button" aria-label={`Remove cue ${cue.id}`} className="no-print px-0.5 text-soft" onClick={onRemove}>
          ✕
        </button>
      </div>
      <input
        aria-label={`Values of ${cue.id}`}
        title="Values, between commas"
        value={values}
        onChange={(e) => {
          setValues(e.target.value);
          onChange({ ...cue, values: read(e.target.value) });
        }}
        onBlur={() => setValues(cue.values.join(", "))}
        className="no-print h-6 w-full min-w-0 rounded-sm border border-rule bg-white px-1 text-[12.5px]"
      />
    </div>
  );
}

function RowLine(props: {
  row: Row;
  cues: S["LibraryCue"][];
  writes: boolean;
  answers: S["TechniqueLine"][];
  others: S["TechniqueLine"][];
  name: string;
  mark?: string;
  onChange: (row: Row) => void;
  onRemove: () => void;
}) {
  const { row, cues, writes } = props;
  const toggle = (cue: S["LibraryCue"], value: string) => {
    const had = row.when[cue.id] ?? [];
    const next = had.includes(value) ? had.filter((v) => v !== value) : cue.values.filter((v) => v === value || had.includes(v));
    const { [cue.id]: _, ...rest } = row.when;
    // All of them, or none of them, is the same as any.
    props.onChange({ ...row, when: next.length === 0 || next.length === cue.values.length ? rest : { ...rest, [cue.id]: next } });
  };
  return (
    <tr className="align-top">
      <td className="num text-soft">
        {row.id}
        {props.mark && <span className="block text-[11.5px] leading-3 font-semibold text-clay">{props.mark}</span>}
      </td>
      {cues.map((c) => {
        const chosen = row.when[c.id];
        return (
          <td key={c.id}>
            {writes ? (
              <fieldset aria-label={`${row.id}, ${c.id}`} className="flex flex-wrap gap-x-1.5">
                {c.values.map((v) => (
                  <button
                    key={v}
                    type="button"
                    aria-pressed={!!chosen?.includes(v)}
                    aria-label={`${row.id}: ${c.id} ${v}`}
                    onClick={() => toggle(c, v)}
                    className={`rounded-sm border px-1 text-[12.5px] leading-[18px] ${
                      chosen?.includes(v) ? "border-ink bg-ink text-white" : "border-transparent text-soft hover:border-rule"
                    }`}
                  >
                    {v}
                  </button>
                ))}
                {!chosen && <span className="text-[12.5px] text-soft italic">any</span>}
              </fieldset>
            ) : chosen ? (
              chosen.join(" or ")
            ) : (
              <span className="text-soft italic">any</span>
            )}
          </td>
        );
      })}
      <td>
        {writes ? (
          <select
            aria-label={`Answer of ${row.id}`}
            value={row.then}
            onChange={(e) => props.onChange({ ...row, then: e.target.value })}
            className={`h-7 w-full rounded-sm border bg-white px-1 ${row.then ? "border-rule" : "border-clay"}`}
          >
            <option value="">Choose an answer</option>
            <optgroup label="Starts here">
              {props.answers.map((a) => (
                <option key={a.id} value={a.id}>
                  {a.name}
                </option>
              ))}
            </optgroup>
            <optgroup label="Elsewhere">
              {props.others
                .filter((o) => !props.answers.some((a) => a.id === o.id))
                .map((a) => (
                  <option key={a.id} value={a.id}>
                    {a.name}
                  </option>
                ))}
            </optgroup>
          </select>
        ) : (
          <Link className="link" to={`/library/${row.then}`}>
            {props.name}
          </Link>
        )}
      </td>
      <td>
        {writes ? (
          <input
            type="number"
            min={1}
            aria-label={`Priority of ${row.id}`}
            value={row.priority}
            onChange={(e) => props.onChange({ ...row, priority: Number(e.target.value) })}
            className="num h-7 w-12 rounded-sm border border-rule bg-white px-1"
          />
        ) : (
          <span className="num">{row.priority}</span>
        )}
      </td>
      {writes && (
        <td>
          <button type="button" aria-label={`Remove ${row.id}`} className="no-print px-1 text-soft" onClick={props.onRemove}>
            ✕
          </button>
        </td>
      )}
    </tr>
  );
}

/** patternWords says a pattern as one says it on the mat. */
function patternWords(pattern: S["CueValues"][]): string {
  if (pattern.length === 0) return "every situation";
  return pattern.map((c) => `${c.cue} ${c.values.join(" or ")}`).join(", ");
}

function Verdict(props: {
  verdict: S["TableVerdict"];
  writes: boolean;
  onHole: (pattern: S["CueValues"][]) => void;
  onDrop: (id: string) => void;
  onTake: () => void;
}) {
  const { verdict: v, writes } = props;
  const f = v.findings;
  const hard = v.problems.filter((p) => !p.warn);
  return (
    <section aria-label="What the table says of itself" aria-live="polite" className="mt-4">
      <h2 className="border-b-[1.5px] border-ink pb-0.5">Live check</h2>
      {hard.map((p) => (
        <p key={p.field + p.what} className="text-clay">
          {p.field.replace(/rows\[(\d+)\]/, (_, n) => `row ${Number(n) + 1}`).replace(/cues\[(\d+)\]/, (_, n) => `cue ${Number(n) + 1}`)}:{" "}
          {p.what}
        </p>
      ))}
      {f && (
        <>
          <p className="num py-1" data-answered={f.answered}>
            <b>{f.answered}</b> of {f.situations} situations have an answer
            {f.contradicted > 0 && (
              <>
                , <b className="text-clay">{f.contradicted}</b> of them two
              </>
            )}
            .
          </p>
          <div className="grid gap-x-6 md:grid-cols-2">
            <div>
              <h3>No answer yet</h3>
              {f.uncovered_count === 0 && <p className="text-moss">Every situation is answered.</p>}
              <ul>
                {f.uncovered.map((p) => (
                  <li key={patternWords(p)} className="border-b border-hair py-0.5" data-hole>
                    <span className="text-clay">{patternWords(p)}</span>{" "}
                    {writes && (
                      <button type="button" className="link no-print text-[12.5px]" onClick={() => props.onHole(p)}>
                        Add a row for it
                      </button>
                    )}
                  </li>
                ))}
              </ul>
              {f.uncovered_count > f.uncovered.length && (
                <p className="text-soft">and {f.uncovered_count - f.uncovered.length} patterns more</p>
              )}
            </div>
            <div>
              <h3>Two answers</h3>
              {f.contradiction_count === 0 && <p className="text-moss">No two rows contradict each other.</p>}
              <ul>
                {f.contradictions.map((c) => (
                  <li key={c.rows.join() + patternWords(c.pattern)} className="border-b border-hair py-0.5">
                    <b>{c.rows.join(" and ")}</b>: <span className="text-clay">{patternWords(c.pattern)}</span>
                  </li>
                ))}
              </ul>
              {f.contradiction_count > f.contradictions.length && (
                <p className="text-soft">and {f.contradiction_count - f.contradictions.length} more</p>
              )}
            </div>
            <div className="mt-2">
              <h3>Rows that could go</h3>
              {f.unreachable.length + f.redundant.length === 0 && <p className="text-soft">None: each row decides something.</p>}
              {f.unreachable.map((id) => (
                <Drop key={id} id={id} why="never applies: stronger rows decide all it matches" writes={writes} onDrop={props.onDrop} />
              ))}
              {f.redundant.map((id) => (
                <Drop key={id} id={id} why="could go: no answer would change" writes={writes} onDrop={props.onDrop} />
              ))}
            </div>
            <div className="mt-2">
              <h3>Smallest table that means the same</h3>
              {v.smaller ? (
                <>
                  <ul>
                    {v.minimal.map((r) => (
                      <li key={r.id} className="border-b border-hair py-0.5">
                        {patternWords(Object.entries(r.when).map(([cue, values]) => ({ cue, values })))} → {v.names[r.then] ?? r.then}
                      </li>
                    ))}
                  </ul>
                  <p className="text-[12.5px] text-soft">
                    {v.minimal.length} rows, {v.minimal_exact ? "proven: there is no smaller one" : "not proven to be the smallest"}.
                  </p>
                  {writes && <Button onClick={props.onTake}>Use the smaller table</Button>}
                </>
              ) : (
                <p className="text-soft">
                  This one{v.minimal_exact ? ": no table with fewer rows means the same." : ", as far as was looked; not proven."}
                </p>
              )}
            </div>
          </div>
        </>
      )}
    </section>
  );
}

function Drop({ id, why, writes, onDrop }: { id: string; why: string; writes: boolean; onDrop: (id: string) => void }) {
  return (
    <p>
      <b>{id}</b> {why}{" "}
      {writes && (
        <button type="button" className="link no-print text-[12.5px]" onClick={() => onDrop(id)}>
          Take it out
        </button>
      )}
    </p>
  );
}
