import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type FormEvent, useDeferredValue, useId, useState } from "react";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Options, Select } from "../../kit/Field";
import { tr, word } from "../../kit/tr";
import type { At } from "./Matrix";

/** AddTechnique finds a technique by name or alias, or by a cell of the matrix, and requires it. */
export function AddTechnique({ page, at: cell, onClear }: { page: S["CurriculumPage"]; at?: At; onClear: () => void }) {
  const may = useMay();
  const [words, setWords] = useState("");
  const [at, setAt] = useState(0);
  const [rung, setRung] = useState<S["CurriculumRequirement"]["rung"]>("passed");
  const q = useDeferredValue(words);
  const list = useId();
  const found = useQuery({
    queryKey: ["techniques", q],
    enabled: q.trim() !== "",
    queryFn: () => unwrap(client.GET("/api/techniques", { params: { query: { q } } })),
    placeholderData: keepPreviousData,
  });
  const addable = new Set(page.addable.map((t) => t.id));
  const fresh = q === words && !found.isPlaceholderData && !found.isFetching; // never act on what was found for other words
  const inCell = cell ? page.addable.filter((t) => t.from_at?.startsWith(`${cell.position}/`) && t.kind === cell.kind) : [];
  const hits = words.trim() ? (found.data ?? []).filter((t) => addable.has(t.id)).slice(0, 6) : inCell;
  const there =
    words.trim() && found.data && hits.length === 0
      ? found.data[0]
        ? tr("{{name}} is required here already.", { name: found.data[0].name })
        : tr("Nothing is called that.")
      : "";
  const add = useAction(
    (t: S["TechniqueLine"]) =>
      unwrap(
        client.PUT("/api/curricula/{id}/requirements/{technique}", {
          params: { path: { id: page.line.id, technique: t.id } },
          body: { rung, both_sides: true, weight: 1 },
        }),
      ),
    (_, t) => tr("Required {{name}}, {{rung}}.", { name: t.name, rung: word(rung) }),
    () => setWords(""),
  );
  if (!may("set-requirement")) return null;
  function send(e: FormEvent) {
    e.preventDefault();
    const t = hits[at] ?? hits[0];
    if (t && (fresh || !words.trim())) add.mutate(t);
  }
  return (
    <form onSubmit={send}>
      <h2>{tr("Add a technique")}</h2>
      <div className="mt-1 grid grid-cols-[minmax(0,1fr)_110px_auto] items-end gap-2">
        <div>
          <label className="cap" htmlFor={`${list}-in`}>
            {tr("Name or alias")}
          </label>
          <input
            id={`${list}-in`}
            data-search
            role="combobox"
            aria-expanded={hits.length > 0}
            aria-controls={list}
            aria-activedescendant={hits[at] ? `${list}-${at}` : undefined}
            autoComplete="off"
            className="h-[31px] w-full rounded-sm border border-rule bg-white px-2"
            value={words}
            onChange={(e) => {
              setWords(e.target.value);
              setAt(0);
            }}
            onKeyDown={(e) => {
              if (e.key === "ArrowDown") setAt((at + 1) % Math.max(1, hits.length));
              else if (e.key === "ArrowUp") setAt((at + hits.length - 1) % Math.max(1, hits.length));
              else if (e.key === "Escape") setWords("");
              else return;
              e.preventDefault();
            }}
          />
        </div>
        <Select label={tr("Rung")} value={rung} onChange={(e) => setRung(e.target.value as typeof rung)}>
          <Options of={page.rungs} />
        </Select>
        <Button type="submit" look="main" disabled={!(fresh || !words.trim()) || hits.length === 0 || add.isPending}>
          {tr("Require it")}
        </Button>
      </div>
      {cell && !words.trim() && (
        <p className="mt-1 font-semibold">
          {tr("{{name}}, {{kind}}: {{n}} in the library.", {
            name: cell.name,
            kind: word(cell.kind),
            n: inCell.length || tr("nothing more"),
          })}{" "}
          <button type="button" className="link font-normal" onClick={onClear}>
            {tr("Close")}
          </button>
        </p>
      )}
      <div id={list} role="listbox" aria-label={tr("Techniques found")} className="mt-1">
        {hits.map((t, i) => (
          <button
            key={t.id}
            id={`${list}-${i}`}
            type="button"
            role="option"
            tabIndex={-1}
            draggable
            onDragStart={(e) => e.dataTransfer.setData("text/x-technique", t.id)}
            aria-selected={i === at}
            onMouseEnter={() => setAt(i)}
            onClick={() => add.mutate(t)}
            className={`block w-full border-b border-hair px-1 text-left ${i === at ? "bg-wash" : ""}`}
          >
            {t.name} <span className="text-soft">{t.matched ? `· ${t.matched}` : t.kind}</span>
          </button>
        ))}
      </div>
      {there && <p className="text-soft">{there}</p>}
      {add.error && <p className="text-clay">{add.error.message}</p>}
    </form>
  );
}
