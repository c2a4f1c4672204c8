import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, type Trouble, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { useOpened, useUnsaved } from "../../kit/draft";
import { Input, Select, TextArea } from "../../kit/Field";
import { Refusal } from "../../kit/Refusal";
import { Note } from "../../kit/SplitPane";
import { tr, word } from "../../kit/tr";
import { GateTable } from "./GateTable";
import { SegmentTable } from "./SegmentTable";

type Form = S["SettingsForm"];

/** SettingsForm changes the academy's settings: each with its meaning, its default and its bounds, and what moves before it is saved. */
export function SettingsForm({ page, onDone }: { page: S["AcademyPage"]; onDone: () => void }) {
  const opened = useOpened({ form: page.form, usual: page.usual_form, version: page.version });
  const [f, set] = useState<Form>(opened.form);
  const put = (part: Partial<Form>) => set({ ...f, ...part });
  const dirty = JSON.stringify(f) !== JSON.stringify(opened.form);
  const moves = useQuery<string[], Trouble>({
    queryKey: ["settings trial", f],
    queryFn: () => unwrap(client.POST("/api/academy/settings/trial", { body: f })),
    enabled: dirty,
    retry: false,
  });
  const save = useAction(
    () => unwrap(client.PUT("/api/academy/settings", { params: { query: { version: opened.version } }, body: f })),
    () => tr("Changed the settings."),
    onDone,
  );
  useUnsaved(dirty && !save.isPending && !save.isSuccess);
  const wrong = { ...moves.error?.fields, ...save.error?.fields };
  return (
    <form
      className="flex flex-col gap-4 pb-4"
      onSubmit={(e: FormEvent) => {
        e.preventDefault();
        save.mutate(undefined);
      }}
    >
      <h1>{tr("Change settings")}</h1>
      {save.error && <Refusal error={save.error} />}
      <Numbers page={page} f={f} put={put} wrong={wrong} usual={opened.usual} />
      <Words f={f} put={put} wrong={wrong} usual={opened.usual} />
      <GateTable page={page} gates={f.gates} onChange={(gates) => put({ gates })} wrong={wrong} />
      <SegmentTable page={page} sheets={f.sheets} onChange={(sheets) => put({ sheets })} wrong={wrong} />
      {dirty && moves.data && (
        <Note title={tr("What moves:")} tone="lake">
          {moves.data.length === 0 && tr("nothing that is here.")}
          <ul>
            {moves.data.map((m) => (
              <li key={m}>{m}</li>
            ))}
          </ul>
        </Note>
      )}
      {dirty && moves.error && <p className="text-clay">{moves.error.message}</p>}
      <div className="flex flex-wrap gap-2">
        <Button type="submit" look="main" disabled={!dirty || save.isPending}>
          {tr("Save settings")}
        </Button>
        <Button onClick={onDone}>{tr("Cancel")}</Button>
        <Button look="quiet" onClick={() => set({ ...opened.usual, zone: f.zone, week_start: f.week_start, signoffs: f.signoffs })}>
          {tr("Usual values")}
        </Button>
      </div>
    </form>
  );
}

type Part = { f: Form; put: (part: Partial<Form>) => void; wrong: Record<string, string>; usual: Form };

function Numbers({ page, f, put, wrong, usual }: Part & { page: S["AcademyPage"] }) {
  const share = (unit?: string) => (unit === "%" ? 100 : 1);
  const shown = (x: number, unit?: string) => Math.round(x * share(unit) * 100) / 100;
  return (
    <section className="grid grid-cols-2 gap-x-3 gap-y-2" aria-label={tr("Numbers")}>
      {page.numbers.map((n) => (
        <Input
          key={n.key}
          label={n.unit && !n.name.toLowerCase().includes(n.unit) ? `${n.name}, ${n.unit}` : n.name}
          type="number"
          min={shown(n.least, n.unit)}
          max={shown(n.most, n.unit)}
          step={shown(n.step, n.unit)}
          value={shown(f.numbers[n.key] ?? n.default, n.unit)}
          error={wrong[`numbers.${n.key}`]}
          hint={tr("{{meaning}}. Usually {{default}}", { meaning: n.meaning, default: shown(n.default, n.unit) })}
          onChange={(e) => put({ numbers: { ...f.numbers, [n.key]: Number(e.target.value) / share(n.unit) } })}
        />
      ))}
      {Object.entries(f.live_share).map(([kind, x]) => (
        <Input
          key={kind}
          label={tr("Share against live resistance: {{kind}}, %", { kind: word(kind) })}
          type="number"
          min={0}
          max={100}
          value={Math.round(x * 100)}
          error={wrong[`standard.live_share.${kind}`]}
          hint={tr("Instead, for this kind. Usually {{v}}", { v: Math.round((usual.live_share[kind] ?? x) * 100) })}
          onChange={(e) => put({ live_share: { ...f.live_share, [kind]: Number(e.target.value) / 100 } })}
        />
      ))}
    </section>
  );
}

function Words({ f, put, wrong, usual }: Part) {
  return (
    <section className="grid grid-cols-2 gap-x-3 gap-y-2" aria-label={tr("Words and days")}>
      <Input
        label={tr("Time zone")}
        value={f.zone}
        error={wrong.zone}
        hint={tr("What is today, and when a class begins")}
        onChange={(e) => put({ zone: e.target.value })}
      />
      <Select label={tr("First day of the week")} value={f.week_start} onChange={(e) => put({ week_start: Number(e.target.value) })}>
        {[tr("Monday"), tr("Tuesday"), tr("Wednesday"), tr("Thursday"), tr("Friday"), tr("Saturday"), tr("Sunday")].map((d, i) => (
          <option key={d} value={i + 1}>
            {d}
          </option>
        ))}
      </Select>
      <Input
        label={tr("Reviews after weeks")}
        defaultValue={f.spacing.join(", ")}
        error={wrong["spacing.weeks[0]"]}
        hint={tr("Between commas; usually {{spacing}}", { spacing: usual.spacing.join(", ") })}
        onChange={(e) => {
          const weeks = e.target.value
            .split(/[,; ]+/)
            .map(Number)
            .filter((n) => n > 0);
          if (weeks.length) put({ spacing: weeks });
        }}
      />
      <label className="flex items-center gap-2 self-center">
        <input type="checkbox" checked={f.second_factor} onChange={(e) => put({ second_factor: e.target.checked })} />
        {tr("Head instructors give a code besides their password")}
      </label>
      <fieldset className="col-span-2">
        <legend className="text-[12.5px] text-soft">{tr("Grades of resistance, 0 to 4")}</legend>
        <div className="grid grid-cols-5 gap-2">
          {f.resistance.map((word, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a grade is its number
            <div key={i}>
              <Input
                label={tr("Grade {{i}}", { i })}
                value={word}
                error={wrong[`resistance[${i}]`]}
                hint={usual.resistance[i]}
                onChange={(e) => put({ resistance: f.resistance.map((w, k) => (k === i ? e.target.value : w)) })}
              />
            </div>
          ))}
        </div>
      </fieldset>
      <div className="col-span-2">
        <TextArea
          label={tr("Sign-offs")}
          rows={3}
          defaultValue={f.signoffs.join("\n")}
          error={Object.entries(wrong).find(([k]) => k.startsWith("signoffs"))?.[1]}
          hint={tr("What a coach can be signed off to teach, one on each line")}
          onChange={(e) =>
            put({
              signoffs: e.target.value
                .split("\n")
                .map((s) => s.trim())
                .filter(Boolean),
            })
          }
        />
      </div>
    </section>
  );
}
