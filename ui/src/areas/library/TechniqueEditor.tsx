import { type FormEvent, useEffect, useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { useOpened, useUnsaved } from "../../kit/draft";
import { Input } from "../../kit/Field";
import { Refusal } from "../../kit/Refusal";
import { Rows } from "../../kit/Rows";
import { tr, word } from "../../kit/tr";
import { newId } from "../../kit/words";
import { DrawingRows } from "./DrawingRows";
import { DrillRows } from "./DrillRows";
import { ForkRows } from "./ForkRows";
import { KeyPointRows } from "./KeyPointRows";
import { LayerRows } from "./LayerRows";
import { MediaRows } from "./MediaRows";
import { PickTechnique } from "./Pick";
import { OfDraft } from "./Review";
import { Basics } from "./TechniqueBasics";
import { usePositions, useTechniques, useWords } from "./words";

export type Draft = S["LibraryTechnique"];
type Wrong = Record<string, string>;

export const blank: Draft = {
  id: "",
  name: "",
  kind: "sweep",
  context: "both",
  taught: "right",
  summary: "",
  seconds_per_rep: 8,
  teach_minutes: 8,
};

export const short = () => newId().slice(0, 6);

/** TechniqueEditor writes a whole technique, or a new one. What is wrong is said at its field; nothing is lost. */
export function TechniqueEditor(props: { technique?: Draft; version?: number; onDone: (id: string) => void; onLeave: () => void }) {
  const opened = useOpened({ technique: props.technique ?? blank, version: props.version ?? 0 });
  const [t, setT] = useState<Draft>(opened.technique);
  const [aliases, setAliases] = useState((props.technique?.aliases ?? []).join("; "));
  const words = useWords();
  const positions = usePositions();
  const techniques = useTechniques();
  const put = (part: Partial<Draft>) => setT((had) => ({ ...had, ...part }));
  const isNew = !props.technique;
  const save = useAction(
    async (body: Draft): Promise<{ id: string; change?: string }> => {
      if (isNew) return unwrap(client.POST("/api/techniques", { body }));
      const done = await unwrap(
        client.PUT("/api/techniques/{id}", { params: { path: { id: body.id }, query: { version: opened.version } }, body }),
      );
      return { id: body.id, change: done.change };
    },
    () => (isNew ? tr("Added {{name}}.", { name: t.name }) : tr("Changed {{name}}.", { name: t.name })),
    (out) => props.onDone(out.id),
  );
  useUnsaved(JSON.stringify(t) !== JSON.stringify(opened.technique) && !save.isPending && !save.isSuccess);
  const wrong: Wrong = save.error?.fields ?? {};
  useEffect(() => {
    if (Object.keys(save.error?.fields ?? {}).length > 0) document.querySelector<HTMLElement>("[aria-invalid=true]")?.focus();
  }, [save.error]);
  function send(e: FormEvent) {
    e.preventDefault();
    const names = aliases
      .split(";")
      .map((a) => a.trim())
      .filter(Boolean);
    save.mutate({ ...t, aliases: names.length ? names : undefined, finish: t.to ? undefined : t.finish || undefined });
  }
  if (!words) return null;
  const sided = !!t.taught;
  return (
    <form
      onSubmit={send}
      aria-label={isNew ? tr("New technique") : tr("Change {{name}}", { name: props.technique?.name })}
      className="pb-4"
    >
      <div className="sticky -top-3.5 z-10 -mx-5 flex items-center gap-2 border-b border-ink bg-leaf px-5 py-2">
        <h1 className="min-w-0 flex-1 truncate">{isNew ? tr("New technique") : t.name}</h1>
        <Button type="submit" look="main" disabled={save.isPending}>
          {tr("Save technique")}
        </Button>
        <Button onClick={props.onLeave}>{tr("Cancel")}</Button>
      </div>
      {save.error && <Refusal error={save.error} />}
      {sided && (
        <p className="mt-2 text-[12.5px] text-soft">
          {tr("Written for the {{taught}} side. Write a side as {left} or {right}: it turns by itself on the other side.", {
            taught: word(t.taught),
          })}
        </p>
      )}
      <OfDraft draft={t} />
      <Basics t={t} put={put} wrong={wrong} words={words} positions={positions} aliases={aliases} onAliases={setAliases} />
      <KeyPointRows t={t} put={put} wrong={wrong} positions={positions} words={words} />
      <ForkRows t={t} put={put} wrong={wrong} techniques={techniques} positions={positions} />
      <Rows
        title={tr("Stands on")}
        add={tr("Add what it stands on")}
        items={t.prerequisites ?? []}
        blank={(): S["LibraryPrerequisite"] => ({ technique: "", reason: "" })}
        onChange={(prerequisites) => put({ prerequisites })}
      >
        {(p, set, i) => (
          <div className="grid grid-cols-2 gap-2">
            <PickTechnique
              label={tr("Movement or technique")}
              value={p.technique}
              all={techniques}
              error={wrong[`prerequisites[${i}]`]}
              onChange={(technique) => set({ ...p, technique })}
            />
            <Input label={tr("Why")} value={p.reason} onChange={(e) => set({ ...p, reason: e.target.value })} />
          </div>
        )}
      </Rows>
      <Rows
        title={tr("Saves from")}
        add={tr("Add a finish it defends against")}
        items={t.saves_from ?? []}
        blank={() => ""}
        onChange={(saves_from) => put({ saves_from })}
      >
        {(id, set, i) => (
          <PickTechnique
            label={tr("Finish")}
            value={id}
            all={techniques.filter((x) => x.kind === "submission")}
            error={wrong[`saves_from[${i}]`]}
            onChange={set}
          />
        )}
      </Rows>
      <Rows
        title={tr("Bodies")}
        add={tr("Add a kind of body")}
        items={t.bodies ?? []}
        blank={(): S["LibraryBodyNote"] => ({ body: "", note: "" })}
        onChange={(bodies) => put({ bodies })}
      >
        {(b, set) => (
          <div className="grid grid-cols-[160px_minmax(0,1fr)] gap-2">
            <Input label={tr("Body")} list="bodies" value={b.body} onChange={(e) => set({ ...b, body: e.target.value })} />
            <Input label={tr("What to change")} value={b.note} onChange={(e) => set({ ...b, note: e.target.value })} />
          </div>
        )}
      </Rows>
      <datalist id="bodies">
        {[tr("long legs"), tr("shorter legs"), tr("smaller person"), tr("stiffer person"), tr("heavier partner")].map((b) => (
          <option key={b} value={b} />
        ))}
      </datalist>
      <Rows
        title={tr("Questions")}
        add={tr("Add a question")}
        items={t.questions ?? []}
        blank={() => ""}
        onChange={(questions) => put({ questions })}
      >
        {(q, set) => <Input label={tr("Question to ask while it is drilled")} value={q} onChange={(e) => set(e.target.value)} />}
      </Rows>
      <LayerRows t={t} put={put} wrong={wrong} words={words} />
      <DrillRows t={t} put={put} wrong={wrong} words={words} />
      <DrawingRows t={t} put={put} wrong={wrong} words={words} />
      <MediaRows t={t} put={put} wrong={wrong} words={words} />
    </form>
  );
}

export type PartProps = { t: Draft; put: (part: Partial<Draft>) => void; wrong: Wrong; words: S["Words"] };
