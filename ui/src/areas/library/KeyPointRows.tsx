import type { S } from "../../api/client";
import { Input, Options, Select } from "../../kit/Field";
import { Rows } from "../../kit/Rows";
import { tr } from "../../kit/tr";
import { PickPlace } from "./Pick";
import { type Draft, type PartProps, short } from "./TechniqueEditor";

export function PickPoint({ label, t, value, onChange }: { label: string; t: Draft; value?: string; onChange: (id?: string) => void }) {
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

export function KeyPointRows({ t, put, wrong, words, positions }: PartProps & { positions: S["PositionLine"][] }) {
  return (
    <Rows
      title={tr("Key points")}
      add={tr("Add a key point")}
      items={t.key_points ?? []}
      blank={(): S["LibraryKeyPoint"] => ({ id: `k${short()}`, cue: "" })}
      onChange={(key_points) => put({ key_points })}
    >
      {(k, set, i) => (
        <>
          <div className="grid grid-cols-[minmax(0,1fr)_auto_auto] items-end gap-3">
            <Input
              label={tr("Cue")}
              hint={tr("The few words said on the mat")}
              value={k.cue}
              error={wrong[`key_points[${i}].cue`]}
              onChange={(e) => set({ ...k, cue: e.target.value })}
            />
            <label className="flex gap-1.5 pb-6" title={tr("Until it holds, going on hands the partner something")}>
              <input type="checkbox" checked={!!k.gate} onChange={(e) => set({ ...k, gate: e.target.checked || undefined })} />
              {tr("Gate")}
            </label>
            <label className="flex gap-1.5 pb-6" title={tr("A thing one can see that proves the control is real")}>
              <input type="checkbox" checked={!!k.checkpoint} onChange={(e) => set({ ...k, checkpoint: e.target.checked || undefined })} />
              {tr("Checkpoint")}
            </label>
          </div>
          <Input
            label={tr("Detail")}
            value={k.detail ?? ""}
            error={wrong[`key_points[${i}].detail`]}
            onChange={(e) => set({ ...k, detail: e.target.value || undefined })}
          />
          <div className="grid grid-cols-3 gap-2">
            <Input label={tr("Limb")} value={k.limb ?? ""} onChange={(e) => set({ ...k, limb: e.target.value || undefined })} />
            <Input label={tr("Moment")} value={k.moment ?? ""} onChange={(e) => set({ ...k, moment: e.target.value || undefined })} />
            <Input label={tr("Closes")} value={k.closes ?? ""} onChange={(e) => set({ ...k, closes: e.target.value || undefined })} />
          </div>
          <div className="grid grid-cols-[150px_minmax(0,1fr)] gap-2">
            <Select
              label={tr("Measure")}
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
              <option value="">{tr("none")}</option>
              <Options of={words.measures} />
            </Select>
            {k.measure && (
              <Input
                label={tr("How much")}
                hint={tr("70 %; shallow, middle or deep; a hand's width; 45°")}
                value={k.measure.value}
                error={wrong[`key_points[${i}].measure`]}
                onChange={(e) => k.measure && set({ ...k, measure: { ...k.measure, value: e.target.value } })}
              />
            )}
          </div>
          <Rows
            plain
            title={tr("Faults at {{i}}", { i: i + 1 })}
            add={tr("Add a fault at key point {{i}}", { i: i + 1 })}
            items={k.faults ?? []}
            blank={(): S["LibraryFault"] => ({ id: `f${short()}`, what: "", consequence: "", correction: "" })}
            onChange={(faults) => set({ ...k, faults: faults.length ? faults : undefined })}
          >
            {(f, setFault, j) => (
              <>
                <div className="grid grid-cols-3 gap-2">
                  <Input
                    label={tr("What goes wrong")}
                    value={f.what}
                    error={wrong[`key_points[${i}].faults[${j}].what`]}
                    onChange={(e) => setFault({ ...f, what: e.target.value })}
                  />
                  <Input
                    label={tr("What it gives the partner")}
                    value={f.consequence}
                    onChange={(e) => setFault({ ...f, consequence: e.target.value })}
                  />
                  <Input label={tr("Fix")} value={f.correction} onChange={(e) => setFault({ ...f, correction: e.target.value })} />
                </div>
                <div className="grid grid-cols-[minmax(0,1fr)_auto] items-end gap-3">
                  <PickPlace
                    label={tr("You end up in")}
                    none={tr("nowhere else")}
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
                    {tr("Someone can be hurt")}
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
