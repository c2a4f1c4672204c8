import type { S } from "../../api/client";
import { Input, Options, Select } from "../../kit/Field";
import { Rows } from "../../kit/Rows";
import { tr } from "../../kit/tr";
import type { PartProps } from "./TechniqueEditor";

/** LayerRows are the lessons of one technique, from no defence to a full one. */
export function LayerRows({ t, put, wrong, words }: PartProps) {
  return (
    <Rows
      title={tr("Layers")}
      add={tr("Add a layer")}
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
            label={tr("Against")}
            value={y.defence}
            error={wrong[`layers[${i}].defence`]}
            onChange={(e) => set({ ...y, defence: e.target.value as typeof y.defence })}
          >
            <Options of={words.defences} />
          </Select>
          <Input
            label={tr("Lesson")}
            value={y.lesson}
            error={wrong[`layers[${i}].lesson`]}
            onChange={(e) => set({ ...y, lesson: e.target.value })}
          />
          <Input label={tr("What the partner does")} value={y.partner} onChange={(e) => set({ ...y, partner: e.target.value })} />
        </div>
      )}
    </Rows>
  );
}
