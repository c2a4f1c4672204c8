import { useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { useOpened } from "../../kit/draft";
import { Input, Options, Select } from "../../kit/Field";
import { Refusal } from "../../kit/Refusal";
import { Rows } from "../../kit/Rows";
import { tr } from "../../kit/tr";
import type { Ladder } from "./LadderView";

export function LadderForm({ line, all, onDone }: { line?: S["LadderLine"]; all: S["LadderLine"][]; onDone: (id?: string) => void }) {
  const opened = useOpened(line?.version ?? 0);
  const [l, setL] = useState<Ladder>(
    line
      ? { id: line.id, name: line.name, audience: line.audience, context: line.context, ranks: line.ranks, onward: line.onward }
      : { id: "", name: "", audience: "adult", ranks: [] },
  );
  const save = useAction(
    (body: Ladder) => unwrap(client.PUT("/api/ladders", { params: { query: { version: opened } }, body })),
    () => (line ? tr("Changed {{name}}.", { name: l.name }) : tr("Added {{name}}.", { name: l.name })),
    (out) => onDone(out.id),
  );
  const wrong = save.error?.fields ?? {};
  const there = all.find((x) => x.id === l.onward?.ladder);
  const num = (text: string) => (text === "" ? undefined : Number(text));
  return (
    <form
      aria-label={line ? tr("Change {{name}}", { name: line.name }) : tr("New ladder")}
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate(l);
      }}
      className="flex flex-col gap-2"
    >
      <h2>{line ? line.name : tr("New ladder")}</h2>
      {save.error && <Refusal error={save.error} />}
      <div className="grid grid-cols-3 gap-2">
        <Input
          label={tr("Ladder")}
          autoFocus
          value={l.name}
          error={wrong.name ?? wrong.id}
          onChange={(e) => setL({ ...l, name: e.target.value })}
        />
        <Select label={tr("For")} value={l.audience} onChange={(e) => setL({ ...l, audience: e.target.value as Ladder["audience"] })}>
          <Options of={["adult", "youth"]} />
        </Select>
        <Select
          label={tr("Jacket")}
          value={l.context ?? "both"}
          onChange={(e) => setL({ ...l, context: e.target.value as Ladder["context"] })}
        >
          <Options of={["both", "gi", "no-gi"]} />
        </Select>
      </div>
      <Rows
        title={tr("Ranks")}
        add={tr("Add a rank")}
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
            <Input
              label={tr("Rank")}
              value={r.name}
              error={wrong[`ranks[${i}].name`]}
              onChange={(e) => set({ ...r, name: e.target.value })}
            />
            <Input label={tr("Belt")} value={r.belt} onChange={(e) => set({ ...r, belt: e.target.value })} />
            <Input
              label={tr("Stripes")}
              type="number"
              value={r.stripes ?? ""}
              onChange={(e) => set({ ...r, stripes: num(e.target.value) })}
            />
            <Input
              label={tr("Months")}
              type="number"
              value={r.min_months}
              onChange={(e) => set({ ...r, min_months: Number(e.target.value) })}
            />
            <Input
              label={tr("Classes")}
              type="number"
              value={r.min_classes}
              onChange={(e) => set({ ...r, min_classes: Number(e.target.value) })}
            />
            <Input
              label={tr("From age")}
              type="number"
              value={r.min_age ?? ""}
              onChange={(e) => set({ ...r, min_age: num(e.target.value) })}
            />
            <Input
              label={tr("To age")}
              type="number"
              value={r.max_age ?? ""}
              error={wrong[`ranks[${i}].max_age`]}
              onChange={(e) => set({ ...r, max_age: num(e.target.value) })}
            />
          </div>
        )}
      </Rows>
      <fieldset className="border-t border-rule pt-2">
        <legend className="cap">{tr("Moving on to another ladder")}</legend>
        <div className="grid grid-cols-2 gap-2">
          <Select
            label={tr("To")}
            value={l.onward?.ladder ?? ""}
            error={wrong["onward.ladder"]}
            onChange={(e) =>
              setL({
                ...l,
                onward: e.target.value ? { ladder: e.target.value, age: l.onward?.age ?? 16, ranks: l.onward?.ranks ?? {} } : undefined,
              })
            }
          >
            <option value="">{tr("nobody moves on")}</option>
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
              label={tr("From this age on")}
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
                label={tr("{{name}} becomes", { name: r.name })}
                value={l.onward?.ranks[r.id] ?? ""}
                onChange={(e) => l.onward && setL({ ...l, onward: { ...l.onward, ranks: { ...l.onward.ranks, [r.id]: e.target.value } } })}
              >
                <option value="">{tr("stays")}</option>
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
          {tr("Save ladder")}
        </Button>
        <Button onClick={() => onDone()}>{tr("Cancel")}</Button>
      </div>
    </form>
  );
}
