import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { Button } from "../../kit/Button";
import { Note } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { Bridges } from "./Bridges";
import { LadderForm } from "./LadderForm";

/** LadderView is a whole ladder at a glance: which technique enters where, and to which rung it rises. */
export function LadderView({ ladder: first, rank }: { ladder: string; rank: string }) {
  const may = useMay();
  const [ladder, show] = useState(first);
  const go = useNavigate();
  const [edit, setEdit] = useState("");
  const page = useQuery({
    queryKey: ["ladder", ladder],
    queryFn: () => unwrap(client.GET("/api/ladders/{id}", { params: { path: { id: ladder } } })),
  });
  const lines = useQuery({ queryKey: ["ladders"], queryFn: () => unwrap(client.GET("/api/ladders")) });
  const begin = useAction(
    (to: string) => unwrap(client.POST("/api/curricula", { body: { ladder, rank: to } })),
    () => tr("Began a curriculum."),
    (out) => go(`/curricula/${out.id}`),
  );
  const onward = useAction(
    (m: S["OnwardLine"]) => unwrap(client.POST("/api/students/{id}/onward", { params: { path: { id: m.student } } })),
    (_, m) => tr("Moved {{name}} on.", { name: m.name }),
  );
  const line = lines.data?.find((l) => l.id === ladder);
  if (!page.data || !lines.data) return null;
  if (edit)
    return (
      <LadderForm
        line={edit === "new" ? undefined : line}
        all={lines.data}
        onDone={(id) => {
          setEdit("");
          if (id) show(id);
        }}
      />
    );
  const { ladder: l, rows, counts } = page.data;
  return (
    <section aria-label={tr("Whole ladder")}>
      <div className="flex items-center gap-2">
        <h2 className="flex-1">
          {lines.data.length > 1 ? (
            <select
              aria-label={tr("Ladder")}
              className="head rounded-sm border border-rule bg-white px-1 text-[18px] font-semibold"
              value={ladder}
              onChange={(e) => show(e.target.value)}
            >
              {lines.data.map((x) => (
                <option key={x.id} value={x.id}>
                  {x.name}
                </option>
              ))}
            </select>
          ) : (
            l.name
          )}{" "}
          <span className="cap">{tr("{{students}} students", { students: line?.students })}</span>
        </h2>
        {may("list-bridges") && l.onward && (
          <a className="link" href="#bridges">
            {tr("Bridge lists")}
          </a>
        )}
        {may("save-ladder") && <Button onClick={() => setEdit(ladder)}>{tr("Change the ladder")}</Button>}
        {may("save-ladder") && <Button onClick={() => setEdit("new")}>{tr("New ladder")}</Button>}
      </div>
      {begin.error && <p className="text-clay">{begin.error.message}</p>}
      {line?.moves.map((m) => (
        <Note key={m.student} tone="lake">
          <span className="flex items-center gap-2">
            <span className="flex-1">{m.summary}</span>
            {may("move-on") && (
              <Button disabled={onward.isPending} onClick={() => onward.mutate(m)} aria-label={tr("Move on: {{name}}", { name: m.name })}>
                {tr("Move on")}
              </Button>
            )}
          </span>
        </Note>
      ))}
      {onward.error && <p className="text-clay">{onward.error.message}</p>}
      <table className="mt-2 border-collapse text-[12.5px] leading-[17px]">
        <thead>
          <tr className="border-b-[1.5px] border-ink align-bottom">
            <th className="text-left">{tr("Technique")}</th>
            {l.ranks.map((r, i) => (
              <th key={r.id} className={`min-w-16 px-1 text-left ${r.id === rank ? "text-ink" : "text-soft"}`}>
                <Belt belt={r.belt} rank={r.name} />
                {r.name}
                <span className="block font-sans font-normal">
                  {[
                    [r.min_months, "mo"],
                    [r.min_classes, "cl"],
                    [r.stripes, "str"],
                  ]
                    .filter(([n]) => n)
                    .map((x) => x.join("\u00a0"))
                    .join(", ")}
                </span>
                {counts[i] === 0 && i > 0 && may("begin-curriculum") && (
                  <button
                    type="button"
                    className="link font-sans font-normal"
                    onClick={() => begin.mutate(r.id)}
                    aria-label={tr("Begin a curriculum for {{name}}", { name: r.name })}
                  >
                    {tr("Begin one")}
                  </button>
                )}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={r.technique} className="border-b border-hair">
              <td className="pr-3">{r.name}</td>
              {r.cells.map((c, i) => (
                <td key={l.ranks[i]?.id} className={`px-1 ${c.rung ? (c.rises ? "text-lake" : "font-semibold") : "text-rule"}`}>
                  {c.rung ? `${c.rises ? "↑ " : ""}${c.rung}` : i > r.enters ? "┄" : ""}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {may("list-bridges") && l.onward && <Bridges ladder={ladder} />}
    </section>
  );
}

export type Ladder = S["CurriculumLadder"];
