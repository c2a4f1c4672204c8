import { useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { useOpened } from "../../kit/draft";
import { Input, Select, TextArea } from "../../kit/Field";
import { Refusal } from "../../kit/Refusal";
import { Rows } from "../../kit/Rows";
import { tr } from "../../kit/tr";
import { PickTechnique } from "./Pick";
import { useTechniques } from "./words";

/** laidOut is the set with other choices; a variant keeps its option where it is still one. */
export function laidOut(s: S["LibraryVariantSet"], choices: S["LibraryVariantChoice"][]): S["LibraryVariantSet"] {
  return {
    ...s,
    choices: choices.length ? choices : undefined,
    variants: s.variants.map((v) => ({ ...v, at: choices.length ? choices.map((_, i) => v.at?.[i] ?? "") : undefined })),
  };
}

/** Options are written in one line, with semicolons between. */
export function Options(props: { value: string[]; error?: string; onChange: (options: string[]) => void }) {
  const [text, setText] = useState(props.value.join("; "));
  return (
    <Input
      label={tr("Options")}
      placeholder={tr("high; low")}
      hint={tr("with a semicolon between")}
      value={text}
      error={props.error}
      onChange={(e) => {
        setText(e.target.value);
        props.onChange(
          e.target.value
            .split(";")
            .map((o) => o.trim())
            .filter(Boolean),
        );
      }}
    />
  );
}

export function Form({ set, onDone }: { set?: S["SetPage"]; onDone: () => void }) {
  const techniques = useTechniques();
  const opened = useOpened(set?.version ?? 0);
  const [s, setS] = useState<S["LibraryVariantSet"]>(
    set
      ? {
          id: set.id,
          name: set.name,
          question: set.question,
          variants: set.variants,
          house: set.house,
          reason: set.reason,
          choices: set.choices,
        }
      : { id: "", name: "", question: "", variants: [] },
  );
  const save = useAction(
    (body: S["LibraryVariantSet"]) => unwrap(client.PUT("/api/variant-sets", { params: { query: { version: opened } }, body })),
    () => (set ? tr("Changed {{name}}.", { name: s.name }) : tr("Added {{name}}.", { name: s.name })),
    onDone,
  );
  const remove = useAction(
    (id: string) => unwrap(client.DELETE("/api/records/{kind}/{id}", { params: { path: { kind: "variant set", id } } })),
    () => tr("Deleted {{name}}.", { name: s.name }),
    onDone,
  );
  const wrong = save.error?.fields ?? {};
  return (
    <form
      aria-label={set ? tr("Change {{name}}", { name: set.name }) : tr("New set of variants")}
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate(s);
      }}
      className="flex flex-col gap-2"
    >
      <h1>{set ? set.name : tr("New set of variants")}</h1>
      {save.error && <Refusal error={save.error} />}
      <Input label={tr("Name")} autoFocus value={s.name} error={wrong.name} onChange={(e) => setS({ ...s, name: e.target.value })} />
      <Input label={tr("The question")} value={s.question} onChange={(e) => setS({ ...s, question: e.target.value })} />
      <Rows
        title={tr("Choices between them")}
        add={(s.choices?.length ?? 0) < 2 ? tr("Add a choice: lay them out as a grid") : ""}
        items={s.choices ?? []}
        blank={(): S["LibraryVariantChoice"] => ({ name: "", options: [] })}
        onChange={(choices) => setS(laidOut(s, choices))}
      >
        {(c, put, i) => (
          <div className="grid grid-cols-[140px_minmax(0,1fr)] gap-2">
            <Input
              label={tr("Choice")}
              placeholder={tr("hand")}
              value={c.name}
              error={wrong[`choices[${i}].name`]}
              onChange={(e) => put({ ...c, name: e.target.value })}
            />
            <Options value={c.options} error={wrong[`choices[${i}].options`]} onChange={(options) => put({ ...c, options })} />
          </div>
        )}
      </Rows>
      <Rows
        title={tr("Variants")}
        add={tr("Add a variant")}
        items={s.variants}
        blank={(): S["LibraryVariant"] => ({ technique: "", gains: "", costs: "" })}
        onChange={(variants) => setS({ ...s, variants })}
      >
        {(v, put, i) => (
          <>
            <PickTechnique
              label={tr("Technique")}
              value={v.technique}
              all={techniques}
              error={wrong[`variants[${i}].technique`] ?? wrong[`variants[${i}]`]}
              onChange={(technique) => put({ ...v, technique })}
            />
            {!!s.choices?.length && (
              <div className="grid grid-cols-2 gap-2">
                {s.choices.map((c, j) => (
                  <Select
                    // biome-ignore lint/suspicious/noArrayIndexKey: a choice has no other name while it is written
                    key={j}
                    label={c.name || tr("Choice {{j}}", { j: j + 1 })}
                    value={v.at?.[j] ?? ""}
                    error={wrong[`variants[${i}].at`]}
                    onChange={(e) => put({ ...v, at: (s.choices ?? []).map((_, k) => (k === j ? e.target.value : (v.at?.[k] ?? ""))) })}
                  >
                    <option value="" />
                    {c.options.map((o) => (
                      <option key={o}>{o}</option>
                    ))}
                  </Select>
                ))}
              </div>
            )}
            <Input label={tr("Gains")} value={v.gains} onChange={(e) => put({ ...v, gains: e.target.value })} />
            <Input label={tr("Costs")} value={v.costs} onChange={(e) => put({ ...v, costs: e.target.value })} />
            <label className="flex gap-1.5">
              <input
                type="radio"
                name="house"
                checked={!!v.technique && s.house === v.technique}
                disabled={!v.technique}
                onChange={() => setS({ ...s, house: v.technique })}
              />
              {tr("House choice")}
            </label>
          </>
        )}
      </Rows>
      <TextArea
        label={tr("Why the house teaches it first")}
        rows={3}
        value={s.reason ?? ""}
        error={wrong.reason}
        onChange={(e) => setS({ ...s, reason: e.target.value })}
      />
      {remove.error && <p className="text-clay">{remove.error.message}</p>}
      <div className="flex gap-2">
        <Button type="submit" look="main" disabled={save.isPending}>
          {tr("Save variants")}
        </Button>
        <Button onClick={onDone}>{tr("Cancel")}</Button>
        {set && (
          <Button look="quiet" onClick={() => remove.mutate(set.id)}>
            {tr("Delete")}
          </Button>
        )}
      </div>
    </form>
  );
}
