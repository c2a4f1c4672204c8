import type { S } from "../../api/client";
import { Input } from "../../kit/Field";
import { Rows } from "../../kit/Rows";
import { tr } from "../../kit/tr";
import { PickPoint } from "./KeyPointRows";
import { PickPlace, PickTechnique } from "./Pick";
import { type PartProps, short } from "./TechniqueEditor";

type ForkProps = Omit<PartProps, "words"> & { techniques: S["TechniqueLine"][]; positions: S["PositionLine"][] };

/** ForkRows are what the partner does instead of yielding, and the answers to it. */
export function ForkRows({ t, put, wrong, techniques, positions }: ForkProps) {
  return (
    <Rows
      title={tr("Forks")}
      add={tr("Add a fork")}
      items={t.forks ?? []}
      blank={(): S["LibraryFork"] => ({ id: `r${short()}`, reaction: "" })}
      onChange={(forks) => put({ forks })}
    >
      {(f, set, i) => (
        <>
          <div className="grid grid-cols-[minmax(0,1fr)_150px] gap-2">
            <Input
              label={tr("The partner")}
              value={f.reaction}
              error={wrong[`forks[${i}].reaction`]}
              onChange={(e) => set({ ...f, reaction: e.target.value })}
            />
            <PickPoint label={tr("At key point")} t={t} value={f.key_point} onChange={(key_point) => set({ ...f, key_point })} />
          </div>
          <div className="grid grid-cols-[minmax(0,1fr)_150px] gap-2">
            <PickTechnique
              label={tr("Your answer")}
              none={tr("nobody has one yet")}
              value={f.answer ?? ""}
              all={techniques}
              error={wrong[`forks[${i}].answer`]}
              onChange={(answer) => set({ ...f, answer: answer || undefined })}
            />
            <PickPoint label={tr("Start over from")} t={t} value={f.back_to} onChange={(back_to) => set({ ...f, back_to })} />
          </div>
          <Input
            label={tr("Then")}
            value={f.then ?? ""}
            error={wrong[`forks[${i}].then`]}
            onChange={(e) => set({ ...f, then: e.target.value || undefined })}
          />
          <PickPlace
            label={tr("It leaves you in")}
            none={tr("where it starts or leads")}
            value={f.leaves}
            positions={positions}
            error={wrong[`forks[${i}].leaves`]}
            onChange={(leaves) => set({ ...f, leaves })}
          />
        </>
      )}
    </Rows>
  );
}
