import { type DragEvent, useState } from "react";
import { Link } from "react-router";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Options } from "../../kit/Field";
import { arrows, Empty } from "../../kit/SplitPane";
import { tr, word } from "../../kit/tr";
import { useTechniques } from "../library/words";

/** Requirements is the list of a rank in the order it is taught; drag a row, or move it with Alt and the arrows. */
export function Requirements({ page }: { page: S["CurriculumPage"] }) {
  const may = useMay();
  const [dragged, drag] = useState("");
  const [variants, setVariants] = useState("");
  const writes = may("set-requirement") && !page.frozen;
  const path = (technique: string) => ({ params: { path: { id: page.line.id, technique } } });
  const set = useAction(
    (r: S["RequirementLine"]) =>
      unwrap(
        client.PUT("/api/curricula/{id}/requirements/{technique}", {
          ...path(r.technique),
          body: { rung: r.rung, both_sides: r.both_sides, weight: r.weight, or: r.or, n: r.n },
        }),
      ),
    (_, r) => `${r.name}: ${word(r.rung)}, ${r.both_sides ? tr("both sides") : tr("one side")}.`,
  );
  const move = useAction(
    ({ technique, to }: { technique: string; to: number }) =>
      unwrap(client.PUT("/api/curricula/{id}/requirements/{technique}/place", { ...path(technique), body: { to } })),
    () => tr("Moved."),
  );
  const add = useAction(
    async ({ technique, to }: { technique: string; to: number }) => {
      await unwrap(
        client.PUT("/api/curricula/{id}/requirements/{technique}", {
          ...path(technique),
          body: { rung: "passed", both_sides: true, weight: 1 },
        }),
      );
      return unwrap(client.PUT("/api/curricula/{id}/requirements/{technique}/place", { ...path(technique), body: { to } }));
    },
    () => tr("Required, passed, at that place."),
  );
  const remove = useAction(
    (r: S["RequirementLine"]) => unwrap(client.DELETE("/api/curricula/{id}/requirements/{technique}", path(r.technique))),
    (_, r) => tr("Removed {{name}}.", { name: r.name }),
  );
  const blocked = new Set(page.findings.filter((f) => f.severity === "blocks" && !f.accepted).map((f) => f.technique));
  return (
    <section aria-label={tr("Requirements")} onKeyDown={arrows} className="mt-4">
      <h2 className="border-b-[1.5px] border-ink pb-0.5">{tr("Required, in the order it is taught")}</h2>
      <table className="grid-lines">
        <thead>
          <tr>
            <td className="w-6" />
            <th>{tr("Technique")}</th>
            <th>{tr("Rung")}</th>
            <th>{tr("Sides")}</th>
            <th className="!text-right">{tr("Weight")}</th>
            <th className="!text-right">{tr("Min")}</th>
            <td />
          </tr>
        </thead>
        <tbody>
          {page.requirements.map((r, i) => (
            <tr
              key={r.technique}
              draggable={writes}
              onDragStart={() => drag(r.technique)}
              onDragOver={(e: DragEvent) => writes && e.preventDefault()}
              onDrop={(e: DragEvent) => {
                const fresh = e.dataTransfer.getData("text/x-technique");
                if (fresh) add.mutate({ technique: fresh, to: i });
                else if (dragged && dragged !== r.technique) move.mutate({ technique: dragged, to: i });
                drag("");
              }}
              onKeyDown={(e) => {
                const step = e.key === "ArrowUp" ? -1 : e.key === "ArrowDown" ? 1 : 0;
                if (!writes || !e.altKey || !step) return;
                e.preventDefault();
                e.stopPropagation();
                move.mutate({ technique: r.technique, to: i + step });
              }}
            >
              <td className="num text-soft">{i + 1}</td>
              <td>
                <Link data-row to={`/library/${r.technique}`} className="no-underline hover:underline">
                  {r.name}
                </Link>
                {r.or_names.length > 0 && (
                  <span className="text-soft">
                    {" "}
                    {r.n && r.n > 1 ? `${tr("{{n}} of these:", { n: r.n })} ` : `${tr("or")} `}
                    {r.or_names.join(", ")}
                  </span>
                )}
                {blocked.has(r.technique) && <b className="text-clay"> {tr("· see the audit")}</b>}
                {writes && (
                  <button
                    type="button"
                    className="link no-print ml-1.5 text-[12px]"
                    aria-label={tr("Variants of {{name}}", { name: r.name })}
                    onClick={() => setVariants(variants === r.technique ? "" : r.technique)}
                  >
                    {tr("or…")}
                  </button>
                )}
                {variants === r.technique && <Variants line={r} onSet={(x) => set.mutate(x)} />}
              </td>
              <td>
                {writes ? (
                  <select
                    aria-label={tr("Rung of {{name}}", { name: r.name })}
                    className="rounded-sm border border-hair bg-transparent"
                    value={r.rung}
                    onChange={(e) => set.mutate({ ...r, rung: e.target.value as typeof r.rung })}
                  >
                    <Options of={page.rungs} />
                  </select>
                ) : (
                  word(r.rung)
                )}
              </td>
              <td>
                {r.sided ? (
                  <label className="flex gap-1">
                    <input
                      type="checkbox"
                      disabled={!writes}
                      checked={r.both_sides}
                      aria-label={tr("{{name}} on both sides", { name: r.name })}
                      onChange={(e) => set.mutate({ ...r, both_sides: e.target.checked })}
                    />
                    {tr("both")}
                  </label>
                ) : (
                  <span className="text-soft">{tr("no sides")}</span>
                )}
              </td>
              <td className="num text-right">
                {writes ? (
                  <input
                    type="number"
                    min={0.1}
                    max={10}
                    step={0.5}
                    aria-label={tr("Weight of {{name}}", { name: r.name })}
                    defaultValue={r.weight}
                    onBlur={(e) => Number(e.target.value) !== r.weight && set.mutate({ ...r, weight: Number(e.target.value) })}
                    className="w-12 rounded-sm border border-hair bg-transparent text-right"
                  />
                ) : (
                  r.weight
                )}
              </td>
              <td className="num text-right text-soft">{r.minutes}</td>
              <td className="text-right">
                {writes && (
                  <button
                    type="button"
                    className="link text-[12.5px]"
                    aria-label={tr("Remove {{name}}", { name: r.name })}
                    onClick={() => remove.mutate(r)}
                  >
                    ✕
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {writes && page.requirements.length > 1 && (
        <p className="text-[12.5px] text-soft">{tr("Drag a row, or Alt with ↑ ↓ on it, to change the order.")}</p>
      )}
      {page.requirements.length === 0 && <Empty title={tr("Nothing is required yet")}>{tr("Add the first technique above.")}</Empty>}
    </section>
  );
}

/** Variants says which other techniques serve a requirement, and how many of them are asked for. */
function Variants({ line: r, onSet }: { line: S["RequirementLine"]; onSet: (r: S["RequirementLine"]) => void }) {
  const all = useTechniques();
  const or = r.or ?? [];
  return (
    <div className="my-1 flex flex-col gap-1 border-l-2 border-lake pl-2 text-[13px]">
      {or.map((o, i) => (
        <span key={o}>
          {tr("or {{ornames}}", { ornames: r.or_names[i] })}{" "}
          <button
            type="button"
            className="link"
            aria-label={tr("Remove variant {{ornames}}", { ornames: r.or_names[i] })}
            onClick={() => onSet({ ...r, or: or.filter((x) => x !== o), n: Math.min(r.n ?? 1, or.length) })}
          >
            ✕
          </button>
        </span>
      ))}
      <select
        aria-label={tr("Variant of {{name}}", { name: r.name })}
        value=""
        className="rounded-sm border border-rule bg-white"
        onChange={(e) => e.target.value && onSet({ ...r, or: [...or, e.target.value] })}
      >
        <option value="">{tr("Another technique serves as well…")}</option>
        {all
          .filter((t) => t.id !== r.technique && !or.includes(t.id))
          .map((t) => (
            <option key={t.id} value={t.id}>
              {t.name}
            </option>
          ))}
      </select>
      {or.length > 0 && (
        <label className="flex gap-1.5">
          {tr("Required")}
          <input
            type="number"
            min={1}
            max={or.length + 1}
            className="w-12 rounded-sm border border-rule bg-white text-right"
            value={r.n && r.n > 0 ? r.n : 1}
            onChange={(e) => onSet({ ...r, n: Number(e.target.value) })}
          />
          {tr("of {{n}}", { n: or.length + 1 })}
        </label>
      )}
    </div>
  );
}
