import { type FormEvent, useEffect, useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, Trouble, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { useOpened, useUnsaved } from "../../kit/draft";
import { Input, Select, TextArea } from "../../kit/Field";
import { Rows } from "../../kit/Rows";
import { newId } from "../../kit/words";
import { PickPlace, PickTechnique } from "./Pick";
import { usePositions, useTechniques, useWords } from "./words";

type Draft = S["LibraryTechnique"];
type Wrong = Record<string, string>;

const blank: Draft = {
  id: "",
  name: "",
  kind: "sweep",
  context: "both",
  taught: "right",
  summary: "",
  seconds_per_rep: 8,
  teach_minutes: 8,
};

const short = () => newId().slice(0, 6);

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
    () => (isNew ? `Added ${t.name}.` : `Changed ${t.name}.`),
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
    <form onSubmit={send} aria-label={isNew ? "New technique" : `Change ${props.technique?.name}`} className="pb-4">
      <div className="sticky -top-3.5 z-10 -mx-5 flex items-center gap-2 border-b border-ink bg-leaf px-5 py-2">
        <h1 className="min-w-0 flex-1 truncate">{isNew ? "New technique" : t.name}</h1>
        <Button type="submit" look="main" disabled={save.isPending}>
          Save technique
        </Button>
        <Button onClick={props.onLeave}>Cancel</Button>
      </div>
      {save.error && <Refusal error={save.error} />}
      {sided && (
        <p className="mt-2 text-[12.5px] text-soft">
          Written for the {t.taught} side. Write a side as {"{left}"} or {"{right}"}: it turns by itself on the other side.
        </p>
      )}
      <div className="mt-2 grid grid-cols-2 gap-x-4 gap-y-2">
        <Input label="Name" autoFocus value={t.name} error={wrong.name ?? wrong.id} onChange={(e) => put({ name: e.target.value })} />
        <Input
          label="Other names"
          hint="Between semicolons; all of them are found"
          value={aliases}
          onChange={(e) => setAliases(e.target.value)}
        />
        <Select label="Kind" value={t.kind} error={wrong.kind} onChange={(e) => put({ kind: e.target.value })}>
          {words.kinds.map((k) => (
            <option key={k}>{k}</option>
          ))}
        </Select>
        <div className="grid grid-cols-3 gap-2">
          <Select
            label="Taught on"
            value={t.taught ?? ""}
            error={wrong.taught}
            onChange={(e) => put({ taught: e.target.value || undefined })}
          >
            <option value="right">right side</option>
            <option value="left">left side</option>
            <option value="">no sides</option>
          </Select>
          <Input
            label="Seconds a repetition"
            type="number"
            value={t.seconds_per_rep}
            error={wrong.seconds_per_rep}
            onChange={(e) => put({ seconds_per_rep: Number(e.target.value) })}
          />
          <Input
            label="Minutes to teach"
            type="number"
            value={t.teach_minutes}
            error={wrong.teach_minutes}
            onChange={(e) => put({ teach_minutes: Number(e.target.value) })}
          />
        </div>
        <PickPlace
          label="From"
          value={t.from}
          positions={positions}
          none="nowhere (a movement)"
          error={wrong.from}
          onChange={(from) => put({ from })}
        />
        <PickPlace label="To" value={t.to} positions={positions} none="nowhere" error={wrong.to} onChange={(to) => put({ to })} />
        <label className="flex items-center gap-1.5">
          <input type="checkbox" checked={!t.to && !!t.finish} disabled={!!t.to} onChange={(e) => put({ finish: e.target.checked })} />
          Ends the round: the partner taps
        </label>
        <Select label="Jacket" value={t.context} error={wrong.context} onChange={(e) => put({ context: e.target.value })}>
          <option value="both">with and without</option>
          <option value="gi">with (gi)</option>
          <option value="no-gi">without (no-gi)</option>
        </Select>
      </div>
      <div className="mt-2 flex flex-col gap-2">
        <TextArea
          label="In a sentence"
          rows={2}
          value={t.summary}
          error={wrong.summary}
          onChange={(e) => put({ summary: e.target.value })}
        />
        <TextArea
          label="With and without the jacket"
          hint="What changes between them"
          rows={1}
          value={t.context_note ?? ""}
          error={wrong.context_note}
          onChange={(e) => put({ context_note: e.target.value || undefined })}
        />
        <fieldset>
          <legend className="cap">What it loads</legend>
          <div className="flex flex-wrap gap-x-4 gap-y-1">
            {words.risks.map((r) => (
              <label key={r} className="flex gap-1.5">
                <input
                  type="checkbox"
                  checked={(t.risks ?? []).includes(r)}
                  onChange={(e) => {
                    const risks = (t.risks ?? []).filter((x) => x !== r).concat(e.target.checked ? [r] : []);
                    put({ risks: risks.length ? risks : undefined });
                  }}
                />
                {r}
              </label>
            ))}
          </div>
          {wrong.risks && <p className="text-[12.5px] text-clay">{wrong.risks}</p>}
        </fieldset>
        <TextArea
          label="Caution"
          hint="How it is drilled safely; the usual cautions of what it loads are shown as well"
          rows={2}
          value={t.caution ?? ""}
          error={wrong.caution}
          onChange={(e) => put({ caution: e.target.value || undefined })}
        />
      </div>
      <KeyPointRows t={t} put={put} wrong={wrong} positions={positions} words={words} />
      <Rows
        title="Forks"
        add="Add a fork"
        items={t.forks ?? []}
        blank={(): S["LibraryFork"] => ({ id: `r${short()}`, reaction: "" })}
        onChange={(forks) => put({ forks })}
      >
        {(f, set, i) => (
          <>
            <div className="grid grid-cols-[minmax(0,1fr)_150px] gap-2">
              <Input
                label="The partner"
                value={f.reaction}
                error={wrong[`forks[${i}].reaction`]}
                onChange={(e) => set({ ...f, reaction: e.target.value })}
              />
              <PickPoint label="At key point" t={t} value={f.key_point} onChange={(key_point) => set({ ...f, key_point })} />
            </div>
            <div className="grid grid-cols-[minmax(0,1fr)_150px] gap-2">
              <PickTechnique
                label="Your answer"
                none="nobody has one yet"
                value={f.answer ?? ""}
                all={techniques}
                error={wrong[`forks[${i}].answer`]}
                onChange={(answer) => set({ ...f, answer: answer || undefined })}
              />
              <PickPoint label="Start over from" t={t} value={f.back_to} onChange={(back_to) => set({ ...f, back_to })} />
            </div>
            <Input
              label="Then"
              value={f.then ?? ""}
              error={wrong[`forks[${i}].then`]}
              onChange={(e) => set({ ...f, then: e.target.value || undefined })}
            />
          </>
        )}
      </Rows>
      <Rows
        title="Stands on"
        add="Add what it stands on"
        items={t.prerequisites ?? []}
        blank={(): S["LibraryPrerequisite"] => ({ technique: "", reason: "" })}
        onChange={(prerequisites) => put({ prerequisites })}
      >
        {(p, set, i) => (
          <div className="grid grid-cols-2 gap-2">
            <PickTechnique
              label="Movement or technique"
              value={p.technique}
              all={techniques}
              error={wrong[`prerequisites[${i}]`]}
              onChange={(technique) => set({ ...p, technique })}
            />
            <Input label="Why" value={p.reason} onChange={(e) => set({ ...p, reason: e.target.value })} />
          </div>
        )}
      </Rows>
      <Rows
        title="Bodies"
        add="Add a kind of body"
        items={t.bodies ?? []}
        blank={(): S["LibraryBodyNote"] => ({ body: "", note: "" })}
        onChange={(bodies) => put({ bodies })}
      >
        {(b, set) => (
          <div className="grid grid-cols-[160px_minmax(0,1fr)] gap-2">
            <Input label="Body" list="bodies" value={b.body} onChange={(e) => set({ ...b, body: e.target.value })} />
            <Input label="What to change" value={b.note} onChange={(e) => set({ ...b, note: e.target.value })} />
          </div>
        )}
      </Rows>
      <datalist id="bodies">
        {["long legs", "shorter legs", "smaller person", "stiffer person", "heavier partner"].map((b) => (
          <option key={b} value={b} />
        ))}
      </datalist>
      <Rows title="Questions" add="Add a question" items={t.questions ?? []} blank={() => ""} onChange={(questions) => put({ questions })}>
        {(q, set) => <Input label="Asked while it is drilled" value={q} onChange={(e) => set(e.target.value)} />}
      </Rows>
      <Rows
        title="Layers"
        add="Add a layer"
        items={t.layers ?? []}
        blank={(): S["LibraryLayer"] => ({
          defence: (words.defences[(t.layers ?? []).length] ?? words.defences[0]) as S["LibraryLayer"]["defence"],
          lesson: "",
          partner: "",
        })}
        onChange={(layers) => put({ layers })}
      >
        {(y, set, i) => (
          <div className="grid grid-cols-[150px_minmax(0,1fr)_minmax(0,1fr)] gap-2">
            <Select
              label="Against"
              value={y.defence}
              error={wrong[`layers[${i}].defence`]}
              onChange={(e) => set({ ...y, defence: e.target.value as typeof y.defence })}
            >
              {words.defences.map((d) => (
                <option key={d}>{d}</option>
              ))}
            </Select>
            <Input
              label="Lesson"
              value={y.lesson}
              error={wrong[`layers[${i}].lesson`]}
              onChange={(e) => set({ ...y, lesson: e.target.value })}
            />
            <Input label="What the partner does" value={y.partner} onChange={(e) => set({ ...y, partner: e.target.value })} />
          </div>
        )}
      </Rows>
      <DrillRows t={t} put={put} wrong={wrong} words={words} />
      <MediaRows t={t} put={put} wrong={wrong} words={words} />
    </form>
  );
}

/** Refusal says everything the server found, also what has no field on the page. */
export function Refusal({ error }: { error: Trouble }) {
  const all = Object.entries(error.fields);
  return (
    <div role="alert" className="my-2 border-l-[3px] border-clay pl-2.5">
      <b className="text-clay">Not kept. </b>
      {all.length === 0 && error.message}
      <ul>
        {all.map(([field, why]) => (
          <li key={field}>
            <b>{fieldWords(field)}:</b> {why}
          </li>
        ))}
      </ul>
    </div>
  );
}

/** fieldWords turns key_points[1].faults[0].what into words. */
function fieldWords(field: string): string {
  return field
    .replace(/\[(\d+)\]/g, (_, n) => ` ${Number(n) + 1}`)
    .replaceAll("_", " ")
    .replaceAll(".", ", ");
}

function PickPoint({ label, t, value, onChange }: { label: string; t: Draft; value?: string; onChange: (id?: string) => void }) {
  return (
    <Select label={label} value={value ?? ""} onChange={(e) => onChange(e.target.value || undefined)}>
      <option value="">—</option>
      {(t.key_points ?? []).map((k, i) => (
        <option key={k.id} value={k.id}>
          {i + 1}. {k.cue.replace(/[{}]/g, "").slice(0, 30)}
        </option>
      ))}
    </Select>
  );
}

type PartProps = { t: Draft; put: (part: Partial<Draft>) => void; wrong: Wrong; words: S["Words"] };

function KeyPointRows({ t, put, wrong, words, positions }: PartProps & { positions: S["PositionLine"][] }) {
  return (
    <Rows
      title="Key points"
      add="Add a key point"
      items={t.key_points ?? []}
      blank={(): S["LibraryKeyPoint"] => ({ id: `k${short()}`, cue: "" })}
      onChange={(key_points) => put({ key_points })}
    >
      {(k, set, i) => (
        <>
          <div className="grid grid-cols-[minmax(0,1fr)_auto_auto] items-end gap-3">
            <Input
              label="Cue"
              hint="The few words said on the mat"
              value={k.cue}
              error={wrong[`key_points[${i}].cue`]}
              onChange={(e) => set({ ...k, cue: e.target.value })}
            />
            <label className="flex gap-1.5 pb-6" title="Until it holds, going on hands the partner something">
              <input type="checkbox" checked={!!k.gate} onChange={(e) => set({ ...k, gate: e.target.checked || undefined })} />
              Gate
            </label>
            <label className="flex gap-1.5 pb-6" title="A thing one can see that proves the control is real">
              <input type="checkbox" checked={!!k.checkpoint} onChange={(e) => set({ ...k, checkpoint: e.target.checked || undefined })} />
              Checkpoint
            </label>
          </div>
          <Input
            label="Detail"
            value={k.detail ?? ""}
            error={wrong[`key_points[${i}].detail`]}
            onChange={(e) => set({ ...k, detail: e.target.value || undefined })}
          />
          <div className="grid grid-cols-3 gap-2">
            <Input label="Limb" value={k.limb ?? ""} onChange={(e) => set({ ...k, limb: e.target.value || undefined })} />
            <Input label="Moment" value={k.moment ?? ""} onChange={(e) => set({ ...k, moment: e.target.value || undefined })} />
            <Input label="Closes" value={k.closes ?? ""} onChange={(e) => set({ ...k, closes: e.target.value || undefined })} />
          </div>
          <div className="grid grid-cols-[150px_minmax(0,1fr)] gap-2">
            <Select
              label="Measure"
              value={k.measure?.of ?? ""}
              onChange={(e) =>
                set({
                  ...k,
                  measure: e.target.value
                    ? { of: e.target.value as NonNullable<typeof k.measure>["of"], value: k.measure?.value ?? "" }
                    : undefined,
                })
              }
            >
              <option value="">none</option>
              {words.measures.map((m) => (
                <option key={m}>{m}</option>
              ))}
            </Select>
            {k.measure && (
              <Input
                label="How much"
                hint="70 %; shallow, middle or deep; a hand's width; 45°"
                value={k.measure.value}
                error={wrong[`key_points[${i}].measure`]}
                onChange={(e) => k.measure && set({ ...k, measure: { ...k.measure, value: e.target.value } })}
              />
            )}
          </div>
          <Rows
            plain
            title={`Faults at ${i + 1}`}
            add={`Add a fault at key point ${i + 1}`}
            items={k.faults ?? []}
            blank={(): S["LibraryFault"] => ({ id: `f${short()}`, what: "", consequence: "", correction: "" })}
            onChange={(faults) => set({ ...k, faults: faults.length ? faults : undefined })}
          >
            {(f, setFault, j) => (
              <>
                <div className="grid grid-cols-3 gap-2">
                  <Input
                    label="What goes wrong"
                    value={f.what}
                    error={wrong[`key_points[${i}].faults[${j}].what`]}
                    onChange={(e) => setFault({ ...f, what: e.target.value })}
                  />
                  <Input
                    label="What it gives the partner"
                    value={f.consequence}
                    onChange={(e) => setFault({ ...f, consequence: e.target.value })}
                  />
                  <Input label="Mend" value={f.correction} onChange={(e) => setFault({ ...f, correction: e.target.value })} />
                </div>
                <div className="grid grid-cols-[minmax(0,1fr)_auto] items-end gap-3">
                  <PickPlace
                    label="You end up in"
                    none="nowhere else"
                    value={f.leads_to}
                    positions={positions}
                    error={wrong[`key_points[${i}].faults[${j}].leads_to`]}
                    onChange={(leads_to) => setFault({ ...f, leads_to })}
                  />
                  <label className="flex gap-1.5 pb-1">
                    <input
                      type="checkbox"
                      checked={!!f.danger}
                      onChange={(e) => setFault({ ...f, danger: e.target.checked || undefined })}
                    />
                    Someone can be hurt
                  </label>
                </div>
              </>
            )}
          </Rows>
        </>
      )}
    </Rows>
  );
}

function DrillRows({ t, put, wrong, words }: PartProps) {
  return (
    <Rows
      title="Drills"
      add="Add a drill"
      items={t.drills ?? []}
      blank={(): S["LibraryDrill"] => ({ id: `d${short()}`, name: "", form: "set-up repetitions", pace: "slow", resistance: 1, how: "" })}
      onChange={(drills) => put({ drills })}
    >
      {(d, set, i) => (
        <>
          <div className="grid grid-cols-[minmax(0,1fr)_170px_90px_140px] gap-2">
            <Input label="Drill" value={d.name} error={wrong[`drills[${i}].name`]} onChange={(e) => set({ ...d, name: e.target.value })} />
            <Select label="Form" value={d.form} onChange={(e) => set({ ...d, form: e.target.value as typeof d.form })}>
              {words.forms.map((f) => (
                <option key={f}>{f}</option>
              ))}
            </Select>
            <Select label="Pace" value={d.pace} onChange={(e) => set({ ...d, pace: e.target.value as typeof d.pace })}>
              {words.paces.map((p) => (
                <option key={p}>{p}</option>
              ))}
            </Select>
            <Select label="Resistance" value={d.resistance} onChange={(e) => set({ ...d, resistance: Number(e.target.value) })}>
              {words.resistance.map((r, n) => (
                <option key={r} value={n}>
                  {n} · {r}
                </option>
              ))}
            </Select>
          </div>
          <div className="grid grid-cols-2 gap-2">
            <Input label="How" value={d.how} error={wrong[`drills[${i}].how`]} onChange={(e) => set({ ...d, how: e.target.value })} />
            <Input label="Who wins by what" value={d.wins ?? ""} onChange={(e) => set({ ...d, wins: e.target.value || undefined })} />
          </div>
        </>
      )}
    </Rows>
  );
}

function MediaRows({ t, put, wrong, words }: PartProps) {
  const [trouble, setTrouble] = useState("");
  const [busy, setBusy] = useState("");
  async function attach(file: File | undefined) {
    if (!file) return;
    setTrouble("");
    setBusy(file.name);
    try {
      const answer = await fetch("/api/files", { method: "POST", headers: { "Content-Type": "application/octet-stream" }, body: file });
      const told = await answer.json();
      if (!answer.ok) throw new Trouble(answer.status, told.detail ?? "The file was refused.", {});
      const kept = told as S["Kept"] & { digest: string; type: string; bytes: number };
      put({
        media: [
          ...(t.media ?? []),
          { id: `m${short()}`, file: kept.digest, type: kept.type, bytes: kept.bytes, name: file.name, shows: "" },
        ],
      });
    } catch (e) {
      setTrouble(`${file.name}: ${(e as Error).message}`);
    }
    setBusy("");
  }
  return (
    <>
      <Rows
        title="Pictures and clips"
        add=""
        items={t.media ?? []}
        blank={(): S["LibraryAttachment"] => ({ id: "", file: "", type: "", bytes: 0, name: "", shows: "" })}
        onChange={(media) => put({ media: media.length ? media : undefined })}
      >
        {(m, set, i) => (
          <div className="grid grid-cols-[90px_minmax(0,1fr)_150px_80px] gap-2">
            <Media of={m} small />
            <Input
              label={`What ${m.name} shows`}
              hint="In words, for those who do not see it"
              value={m.shows}
              error={wrong[`media[${i}].shows`] ?? wrong[`media[${i}].file`]}
              onChange={(e) => set({ ...m, shows: e.target.value })}
            />
            <PickPoint label="At key point" t={t} value={m.key_point} onChange={(key_point) => set({ ...m, key_point })} />
            {m.type.startsWith("video") ? (
              <Input
                label="Time mark"
                placeholder="1:05"
                value={m.at ?? ""}
                error={wrong[`media[${i}].at`]}
                onChange={(e) => set({ ...m, at: e.target.value || undefined })}
              />
            ) : (
              <span />
            )}
          </div>
        )}
      </Rows>
      <label className="link cursor-pointer text-[13px] focus-within:outline-2">
        {busy ? `Sending ${busy}…` : "Attach a picture or a clip, up to 50 MB"}
        <input type="file" className="sr-only" accept={words.media.join(",")} onChange={(e) => attach(e.target.files?.[0])} />
      </label>
      {trouble && (
        <p role="alert" className="text-clay">
          {trouble}
        </p>
      )}
    </>
  );
}

/** Media shows an attached picture or clip; a clip begins at its time mark. */
export function Media({ of: m, small }: { of: S["LibraryAttachment"]; small?: boolean }) {
  const from = `/api/files/${m.file}`;
  const size = small ? "max-h-16" : "max-h-56";
  if (m.type.startsWith("video")) {
    const [min = 0, sec = 0] = (m.at ?? "0:00").split(":").map(Number);
    return (
      // biome-ignore lint/a11y/useMediaCaption: what the clip shows is written beside it
      <video
        src={`${from}#t=${min * 60 + sec}`}
        controls={!small}
        preload="metadata"
        aria-label={m.shows}
        className={`${size} max-w-full`}
      />
    );
  }
  return <img src={from} alt={m.shows} className={`${size} max-w-full border border-hair`} />;
}
