import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useLocation } from "react-router";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { useOpened } from "../../kit/draft";
import { Input, Select, TextArea } from "../../kit/Field";
import { Refusal } from "../../kit/Refusal";
import { Rows } from "../../kit/Rows";
import { Empty, SplitPane } from "../../kit/SplitPane";
import { History } from "./History";
import { LibraryEmpty } from "./LibraryEmpty";
import { PickTechnique } from "./Pick";
import { Shelves } from "./Shelves";
import { useTechniques } from "./words";

/** Variants: where instructors disagree, side by side with what each gains and costs, and the house choice. */
export default function Variants() {
  const may = useMay();
  const { hash } = useLocation();
  const [edit, setEdit] = useState("");
  const [history, setHistory] = useState("");
  const sets = useQuery({ queryKey: ["variants"], queryFn: () => unwrap(client.GET("/api/variant-sets")) });
  const ready = !!sets.data;
  useEffect(() => {
    if (ready && hash) document.getElementById(hash.slice(1))?.scrollIntoView();
  }, [hash, ready]);
  const editing = sets.data?.find((s) => s.id === edit);
  return (
    <SplitPane
      left={
        <>
          <div className="flex items-center gap-3">
            <h1>Library</h1>
            <span className="cap flex-1">{sets.data?.length ?? 0} sets of variants</span>
            {may("save-variant-set") && <Button onClick={() => setEdit("new")}>Set variants side by side</Button>}
          </div>
          <Shelves on="Variants" may={may} />
          {sets.data?.length === 0 && (
            <LibraryEmpty what="sets of variants">A set puts techniques side by side that do one job in different ways.</LibraryEmpty>
          )}
          {sets.data?.map((s) => (
            <section key={s.id} id={s.id} className="mb-4">
              <div className="flex items-baseline gap-3 border-b-[1.5px] border-ink pb-0.5">
                <h2>{s.name}</h2>
                <span className="flex-1 text-soft">{s.question}</span>
                {may("save-variant-set") && (
                  <button type="button" className="link text-[12.5px]" onClick={() => setEdit(s.id)} aria-label={`Change ${s.name}`}>
                    Change
                  </button>
                )}
                {may("record-history") && (
                  <button
                    type="button"
                    className="link text-[12.5px]"
                    aria-label={`History of ${s.name}`}
                    onClick={() => setHistory(history === s.id ? "" : s.id)}
                  >
                    History
                  </button>
                )}
              </div>
              {history === s.id && <History kind="variant set" id={s.id} onClose={() => setHistory("")} />}
              <table className="grid-lines">
                <thead>
                  <tr>
                    <th className="w-56">Variant</th>
                    <th>Gains</th>
                    <th>Costs</th>
                  </tr>
                </thead>
                <tbody>
                  {s.variants.map((v) => (
                    <tr key={v.technique} className="align-top" data-on={s.house === v.technique}>
                      <td>
                        <Link className="link" to={`/library/${v.technique}`}>
                          {s.names[v.technique]}
                        </Link>
                        {s.house === v.technique && <b className="block text-[12.5px] text-moss">house choice</b>}
                      </td>
                      <td>{v.gains}</td>
                      <td>{v.costs}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
              {s.grid.rows.length > 0 && <Grid set={s} />}
              {s.reason && (
                <p className="mt-1">
                  <b>Why the house:</b> {s.reason}
                </p>
              )}
            </section>
          ))}
        </>
      }
      right={
        edit && (edit === "new" || editing) ? (
          <Form key={edit} set={editing} onDone={() => setEdit("")} />
        ) : (
          <Empty title="Where instructors disagree">
            <p>
              A set holds techniques that do one job in different ways, with what each gains and costs. The house choice is what this
              academy teaches first; the reason stays with it.
            </p>
          </Empty>
        )
      }
    />
  );
}

/** Grid lays a set out by its choices; an empty cell says so and is where to write the next one. */
function Grid({ set: s }: { set: S["SetPage"] }) {
  const [first, second] = s.choices ?? [];
  return (
    <table className="grid-lines mt-2" aria-label={`${s.name}, laid out`}>
      <thead>
        <tr>
          <th>
            {first?.name}
            {second && ` \\ ${second.name}`}
          </th>
          {s.grid.columns.map((c) => (
            <th key={c}>{c || "ways"}</th>
          ))}
        </tr>
      </thead>
      <tbody>
        {s.grid.rows.map((row, i) => (
          <tr key={row}>
            <th scope="row">{row}</th>
            {s.grid.columns.map((c, j) => (
              <td key={c}>
                {s.grid.cells[i]?.[j]?.map((t) => (
                  <Link key={t} className="link block" to={`/library/${t}`}>
                    {s.names[t]}
                    {s.house === t && <b className="text-moss"> · house choice</b>}
                  </Link>
                ))}
                {s.grid.cells[i]?.[j]?.length === 0 && <span className="text-clay">nobody has written one</span>}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** laidOut is the set with other choices; a variant keeps its option where it is still one. */
function laidOut(s: S["LibraryVariantSet"], choices: S["LibraryVariantChoice"][]): S["LibraryVariantSet"] {
  return {
    ...s,
    choices: choices.length ? choices : undefined,
    variants: s.variants.map((v) => ({ ...v, at: choices.length ? choices.map((_, i) => v.at?.[i] ?? "") : undefined })),
  };
}

/** Options are written in one line, with semicolons between. */
function Options(props: { value: string[]; error?: string; onChange: (options: string[]) => void }) {
  const [text, setText] = useState(props.value.join("; "));
  return (
    <Input
      label="Options"
      placeholder="high; low"
      hint="with a semicolon between"
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

function Form({ set, onDone }: { set?: S["SetPage"]; onDone: () => void }) {
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
    () => (set ? `Changed ${s.name}.` : `Added ${s.name}.`),
    onDone,
  );
  const remove = useAction(
    (id: string) => unwrap(client.DELETE("/api/records/{kind}/{id}", { params: { path: { kind: "variant set", id } } })),
    () => `Took ${s.name} out of the library.`,
    onDone,
  );
  const wrong = save.error?.fields ?? {};
  return (
    <form
      aria-label={set ? `Change ${set.name}` : "New set of variants"}
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate(s);
      }}
      className="flex flex-col gap-2"
    >
      <h1>{set ? set.name : "New set of variants"}</h1>
      {save.error && <Refusal error={save.error} />}
      <Input label="Name" autoFocus value={s.name} error={wrong.name} onChange={(e) => setS({ ...s, name: e.target.value })} />
      <Input label="The question" value={s.question} onChange={(e) => setS({ ...s, question: e.target.value })} />
      <Rows
        title="Choices between them"
        add={(s.choices?.length ?? 0) < 2 ? "Add a choice: lay them out as a grid" : ""}
        items={s.choices ?? []}
        blank={(): S["LibraryVariantChoice"] => ({ name: "", options: [] })}
        onChange={(choices) => setS(laidOut(s, choices))}
      >
        {(c, put, i) => (
          <div className="grid grid-cols-[140px_minmax(0,1fr)] gap-2">
            <Input
              label="Choice"
              placeholder="hand"
              value={c.name}
              error={wrong[`choices[${i}].name`]}
              onChange={(e) => put({ ...c, name: e.target.value })}
            />
            <Options value={c.options} error={wrong[`choices[${i}].options`]} onChange={(options) => put({ ...c, options })} />
          </div>
        )}
      </Rows>
      <Rows
        title="Variants"
        add="Add a variant"
        items={s.variants}
        blank={(): S["LibraryVariant"] => ({ technique: "", gains: "", costs: "" })}
        onChange={(variants) => setS({ ...s, variants })}
      >
        {(v, put, i) => (
          <>
            <PickTechnique
              label="Technique"
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
                    label={c.name || `Choice ${j + 1}`}
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
            <Input label="Gains" value={v.gains} onChange={(e) => put({ ...v, gains: e.target.value })} />
            <Input label="Costs" value={v.costs} onChange={(e) => put({ ...v, costs: e.target.value })} />
            <label className="flex gap-1.5">
              <input
                type="radio"
                name="house"
                checked={!!v.technique && s.house === v.technique}
                disabled={!v.technique}
                onChange={() => setS({ ...s, house: v.technique })}
              />
              House choice
            </label>
          </>
        )}
      </Rows>
      <TextArea
        label="Why the house teaches it first"
        rows={3}
        value={s.reason ?? ""}
        error={wrong.reason}
        onChange={(e) => setS({ ...s, reason: e.target.value })}
      />
      {remove.error && <p className="text-clay">{remove.error.message}</p>}
      <div className="flex gap-2">
        <Button type="submit" look="main" disabled={save.isPending}>
          Save variants
        </Button>
        <Button onClick={onDone}>Cancel</Button>
        {set && (
          <Button look="quiet" onClick={() => remove.mutate(set.id)}>
            Take the set out
          </Button>
        )}
      </div>
    </form>
  );
}
