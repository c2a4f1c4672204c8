import type { S } from "../../api/client";
import { Input, Options, Select } from "../../kit/Field";
import { Rows } from "../../kit/Rows";
import { tr } from "../../kit/tr";
import { type PartProps, short } from "./TechniqueEditor";

export function DrillRows({ t, put, wrong, words }: PartProps) {
  return (
    <Rows
      title={tr("Drills")}
      add={tr("Add a drill")}
      items={t.drills ?? []}
      blank={(): S["LibraryDrill"] => ({
        id: `d${short()}`,
        name: "",
        form: "set-up repetitions",
        pace: "slow",
        resistance: 1,
        how: "",
      })}
      onChange={(drills) => put({ drills })}
    >
      {(d, set, i) => (
        <>
          <div className="grid grid-cols-[minmax(0,1fr)_170px_90px_140px] gap-2">
            <Input
              label={tr("Drill")}
              value={d.name}
              error={wrong[`drills[${i}].name`]}
              onChange={(e) => set({ ...d, name: e.target.value })}
            />
            <Select label={tr("Form")} value={d.form} onChange={(e) => set({ ...d, form: e.target.value as typeof d.form })}>
              <Options of={words.forms} />
            </Select>
            <Select label={tr("Pace")} value={d.pace} onChange={(e) => set({ ...d, pace: e.target.value as typeof d.pace })}>
              <Options of={words.paces} />
            </Select>
            <Select label={tr("Resistance")} value={d.resistance} onChange={(e) => set({ ...d, resistance: Number(e.target.value) })}>
              {words.resistance.map((r, n) => (
                <option key={r} value={n}>
                  {n} · {r}
                </option>
              ))}
            </Select>
          </div>
          <div className="grid grid-cols-2 gap-2">
            <Input label={tr("How")} value={d.how} error={wrong[`drills[${i}].how`]} onChange={(e) => set({ ...d, how: e.target.value })} />
            <Input label={tr("Who wins by what")} value={d.wins ?? ""} onChange={(e) => set({ ...d, wins: e.target.value || undefined })} />
          </div>
        </>
      )}
    </Rows>
  );
}
