import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { Button } from "../../kit/Button";
import { useOpened } from "../../kit/draft";
import { Input, Select } from "../../kit/Field";
import { Rows } from "../../kit/Rows";
import { Note } from "../../kit/SplitPane";
import { Refusal } from "../library/TechniqueEditor";

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
    () => "Began a curriculum.",
    (out) => go(`/curricula/${out.id}`),
  );
  const onward = useAction(
    (m: S["OnwardLine"]) => unwrap(client.POST("/api/students/{id}/onward", { params: { path: { id: m.student } } })),
    (_, m) => `Moved ${m.name} on.`,
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
    <section aria-label="Whole ladder">
      <div className="flex items-center gap-2">
        <h2 className="flex-1">
          {lines.data.length > 1 ? (
            <select
              aria-label="Ladder"
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
          <span className="cap">{line?.students} students</span>
        </h2>
        {may("save-ladder") && <Button onClick={() => setEdit(ladder)}>Change the ladder</Button>}
        {may("save-ladder") && <Button onClick={() => setEdit("new")}>New ladder</Button>}
      </div>
      {begin.error && <p className="text-clay">{begin.error.message}</p>}
      {line?.moves.map((m) => (
        <Note key={m.student} tone="lake">
          <span className="flex items-center gap-2">
            <span className="flex-1">{m.summary}</span>
            {may("move-on") && (
              <Button disabled={onward.isPending} onClick={() => onward.mutate(m)} aria-label={`Move ${m.name} on`}>
                Move on
              </Button>
            )}
          </span>
        </Note>
      ))}
      {onward.error && <p className="text-clay">{onward.error.message}</p>}
      <table className="mt-2 border-collapse text-[12.5px] leading-[17px]">
        <thead>
          <tr className="border-b-[1.5px] border-ink align-bottom">
            <th className="text-left">Technique</th>
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
                    aria-label={`Begin a curriculum for ${r.name}`}
                  >
                    Begin one
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
    </section>
  );
}

type Ladder = S["CurriculumLadder"];

function LadderForm({ line, all, onDone }: { line?: S["LadderLine"]; all: S["LadderLine"][]; onDone: (id?: string) => void }) {
  const opened = useOpened(line?.version ?? 0);
  const [l, setL] = useState<Ladder>(
    line
      ? { id: line.id, name: line.name, audience: line.audience, context: line.context, ranks: line.ranks, onward: line.onward }
      : { id: "", name: "", audience: "adult", ranks: [] },
  );
  const save = useAction(
    (body: Ladder) => unwrap(client.PUT("/api/ladders", { params: { query: { version: opened } }, body })),
    () => (line ? `Changed ${l.name}.` : `Added ${l.name}.`),
    (out) => onDone(out.id),
  );
  const wrong = save.error?.fields ?? {};
  const there = all.find((x) => x.id === l.onward?.ladder);
  const num = (text: string) => (text === "" ? undefined : Number(text));
  return (
    <form
      aria-label={line ? `Change ${line.name}` : "New ladder"}
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate(l);
      }}
      className="flex flex-col gap-2"
    >
      <h2>{line ? line.name : "New ladder"}</h2>
      {save.error && <Refusal error={save.error} />}
      <div className="grid grid-cols-3 gap-2">
        <Input
          label="Ladder"
          autoFocus
          value={l.name}
          error={wrong.name ?? wrong.id}
          onChange={(e) => setL({ ...l, name: e.target.value })}
        />
        <Select label="For" value={l.audience} onChange={(e) => setL({ ...l, audience: e.target.value as Ladder["audience"] })}>
          <option>adult</option>
          <option>youth</option>
        </Select>
        <Select label="Jacket" value={l.context ?? "both"} onChange={(e) => setL({ ...l, context: e.target.value as Ladder["context"] })}>
          <option>both</option>
          <option>gi</option>
          <option>no-gi</option>
        </Select>
      </div>
      <Rows
        title="Ranks"
        add="Add a rank"
        items={l.ranks}
        blank={(): Ladder["ranks"][number] => ({
          id: `rank-${l.ranks.length + 1}`,
          name: "",
          belt: "white",
          min_months: 0,
          min_classes: 0,
        })}
        onChange={(ranks) => setL({ ...l, ranks })}
      >
        {(r, set, i) => (
          <div className="grid grid-cols-[minmax(0,1.4fr)_minmax(0,1fr)_repeat(5,58px)] gap-1.5">
            <Input label="Rank" value={r.name} error={wrong[`ranks[${i}].name`]} onChange={(e) => set({ ...r, name: e.target.value })} />
            <Input label="Belt" value={r.belt} onChange={(e) => set({ ...r, belt: e.target.value })} />
            <Input label="Stripes" type="number" value={r.stripes ?? ""} onChange={(e) => set({ ...r, stripes: num(e.target.value) })} />
            <Input label="Months" type="number" value={r.min_months} onChange={(e) => set({ ...r, min_months: Number(e.target.value) })} />
            <Input
              label="Classes"
              type="number"
              value={r.min_classes}
              onChange={(e) => set({ ...r, min_classes: Number(e.target.value) })}
            />
            <Input label="From age" type="number" value={r.min_age ?? ""} onChange={(e) => set({ ...r, min_age: num(e.target.value) })} />
            <Input
              label="To age"
              type="number"
              value={r.max_age ?? ""}
              error={wrong[`ranks[${i}].max_age`]}
              onChange={(e) => set({ ...r, max_age: num(e.target.value) })}
            />
          </div>
        )}
      </Rows>
      <fieldset className="border-t border-rule pt-2">
        <legend className="cap">Moving on to another ladder</legend>
        <div className="grid grid-cols-2 gap-2">
          <Select
            label="To"
            value={l.onward?.ladder ?? ""}
            error={wrong["onward.ladder"]}
            onChange={(e) =>
              setL({
                ...l,
                onward: e.target.value ? { ladder: e.target.value, age: l.onward?.age ?? 16, ranks: l.onward?.ranks ?? {} } : undefined,
              })
            }
          >
            <option value="">nobody moves on</option>
            {all
              .filter((x) => x.id !== l.id)
              .map((x) => (
                <option key={x.id} value={x.id}>
                  {x.name}
                </option>
              ))}
          </Select>
          {l.onward && (
            <Input
              label="From this age on"
              type="number"
              value={l.onward.age}
              onChange={(e) => l.onward && setL({ ...l, onward: { ...l.onward, age: Number(e.target.value) } })}
            />
          )}
        </div>
        {l.onward && there && (
          <div className="mt-1 grid grid-cols-2 gap-x-4">
            {l.ranks.map((r) => (
              <Select
                key={r.id}
                label={`${r.name} becomes`}
                value={l.onward?.ranks[r.id] ?? ""}
                onChange={(e) => l.onward && setL({ ...l, onward: { ...l.onward, ranks: { ...l.onward.ranks, [r.id]: e.target.value } } })}
              >
                <option value="">stays</option>
                {there.ranks.map((x) => (
                  <option key={x.id} value={x.id}>
                    {x.name}
                  </option>
                ))}
              </Select>
            ))}
          </div>
        )}
      </fieldset>
      <div className="flex gap-2">
        <Button type="submit" look="main" disabled={save.isPending}>
          Save ladder
        </Button>
        <Button onClick={() => onDone()}>Cancel</Button>
      </div>
    </form>
  );
}
