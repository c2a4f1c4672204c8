import type { S } from "../../api/client";
import { Input, Options, Select, TextArea } from "../../kit/Field";
import { tr, word } from "../../kit/tr";
import { PickPlace } from "./Pick";
import type { PartProps } from "./TechniqueEditor";

type Props = PartProps & { positions: S["PositionLine"][]; aliases: string; onAliases: (aliases: string) => void };

/** Basics is what a technique is called, where it starts and ends, and what it loads. */
export function Basics({ t, put, wrong, words, positions, aliases, onAliases }: Props) {
  return (
    <>
      <div className="mt-2 grid grid-cols-2 gap-x-4 gap-y-2">
        <Input label={tr("Name")} autoFocus value={t.name} error={wrong.name ?? wrong.id} onChange={(e) => put({ name: e.target.value })} />
        <Input
          label={tr("Other names")}
          hint={tr("Between semicolons; all of them are found")}
          value={aliases}
          onChange={(e) => onAliases(e.target.value)}
        />
        <Select label={tr("Kind")} value={t.kind} error={wrong.kind} onChange={(e) => put({ kind: e.target.value })}>
          <Options of={words.kinds} />
        </Select>
        <div className="grid grid-cols-3 gap-2">
          <Select
            label={tr("Taught on")}
            value={t.taught ?? ""}
            error={wrong.taught}
            onChange={(e) => put({ taught: e.target.value || undefined })}
          >
            <option value="right">{tr("right side")}</option>
            <option value="left">{tr("left side")}</option>
            <option value="">{tr("no sides")}</option>
          </Select>
          <Input
            label={tr("Seconds a repetition")}
            type="number"
            value={t.seconds_per_rep}
            error={wrong.seconds_per_rep}
            onChange={(e) => put({ seconds_per_rep: Number(e.target.value) })}
          />
          <Input
            label={tr("Minutes to teach")}
            type="number"
            value={t.teach_minutes}
            error={wrong.teach_minutes}
            onChange={(e) => put({ teach_minutes: Number(e.target.value) })}
          />
        </div>
        <PickPlace
          label={tr("From")}
          value={t.from}
          positions={positions}
          none={tr("nowhere (a movement)")}
          error={wrong.from}
          onChange={(from) => put({ from })}
        />
        <PickPlace
          label={tr("To")}
          value={t.to}
          positions={positions}
          none={tr("nowhere")}
          error={wrong.to}
          onChange={(to) => put({ to })}
        />
        <label className="flex items-center gap-1.5">
          <input type="checkbox" checked={!t.to && !!t.finish} disabled={!!t.to} onChange={(e) => put({ finish: e.target.checked })} />
          {tr("Ends the round: the partner taps")}
        </label>
        <Select label={tr("Jacket")} value={t.context} error={wrong.context} onChange={(e) => put({ context: e.target.value })}>
          <option value="both">{tr("with and without")}</option>
          <option value="gi">{tr("with (gi)")}</option>
          <option value="no-gi">{tr("without (no-gi)")}</option>
        </Select>
      </div>
      <div className="mt-2 flex flex-col gap-2">
        <TextArea
          label={tr("In a sentence")}
          rows={2}
          value={t.summary}
          error={wrong.summary}
          onChange={(e) => put({ summary: e.target.value })}
        />
        <TextArea
          label={tr("With and without the jacket")}
          hint={tr("What changes between them")}
          rows={1}
          value={t.context_note ?? ""}
          error={wrong.context_note}
          onChange={(e) => put({ context_note: e.target.value || undefined })}
        />
        <fieldset>
          <legend className="cap">{tr("What it loads")}</legend>
          <div className="flex flex-wrap gap-x-4 gap-y-1">
            {words.risks.map((r) => (
              <label key={r} className="flex min-h-6 items-center gap-1.5">
                <input
                  type="checkbox"
                  checked={(t.risks ?? []).includes(r)}
                  onChange={(e) => {
                    const risks = (t.risks ?? []).filter((x) => x !== r).concat(e.target.checked ? [r] : []);
                    put({ risks: risks.length ? risks : undefined });
                  }}
                />
                {word(r)}
              </label>
            ))}
          </div>
          {wrong.risks && <p className="text-[12.5px] text-clay">{wrong.risks}</p>}
        </fieldset>
        <TextArea
          label={tr("Caution")}
          hint={tr("How it is drilled safely; the usual cautions of what it loads are shown as well")}
          rows={2}
          value={t.caution ?? ""}
          error={wrong.caution}
          onChange={(e) => put({ caution: e.target.value || undefined })}
        />
      </div>
    </>
  );
}
