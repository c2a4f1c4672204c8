import { useState } from "react";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Input, Options, Select } from "../../kit/Field";
import { Refusal } from "../../kit/Refusal";
import { Rows } from "../../kit/Rows";
import { tr, word } from "../../kit/tr";

/** RequiredCells are the cells of the position-by-kind matrix that the audit asks to be filled. */
export function RequiredCells({ page }: { page: S["AcademyPage"] }) {
  const may = useMay();
  const [list, setList] = useState<S["CurriculumRequiredCell"][]>();
  const save = useAction(
    (required_cells: S["CurriculumRequiredCell"][] | undefined) =>
      unwrap(client.PUT("/api/academy/required-cells", { body: { required_cells } })),
    () => tr("Set the cells that may not stay empty."),
    () => setList(undefined),
  );
  const wrong = save.error?.fields ?? {};
  return (
    <section aria-label={tr("Cells that may not stay empty")}>
      <div className="mt-4 flex items-center gap-2">
        <h2 className="flex-1">{tr("Cells that may not stay empty")}</h2>
        {may("set-required-cells") && !list && <Button onClick={() => setList(page.required_cells)}>{tr("Change them")}</Button>}
      </div>
      <p className="text-soft">
        {tr(
          "By which rank something of a kind must be required from a family of positions; the audit of a curriculum says where it is not.",
        )}
        {page.usual && ` ${tr("These are the usual ones.")}`}
      </p>
      {!list && page.required_cells.length === 0 && <p>{tr("No cell is asked for.")}</p>}
      {!list && page.required_cells.length > 0 && (
        <table className="grid-lines mt-1">
          <thead>
            <tr>
              <th>{tr("Positions")}</th>
              <th>{tr("Kind")}</th>
              <th>{tr("Ladders")}</th>
              <th className="!text-right">{tr("From rank")}</th>
            </tr>
          </thead>
          <tbody>
            {page.required_cells.map((m) => (
              <tr key={`${m.family} ${m.kind} ${m.audience}`}>
                <td>{word(m.family)}</td>
                <td>{word(m.kind)}</td>
                <td className="text-soft">{word(m.audience ?? "all")}</td>
                <td className="num text-right">{m.from}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {list && (
        <form
          aria-label={tr("Cells that may not stay empty")}
          onSubmit={(e) => {
            e.preventDefault();
            save.mutate(list);
          }}
        >
          {save.error && <Refusal error={save.error} />}
          <Rows
            title={tr("Cells")}
            plain
            add={tr("Add a cell")}
            items={list}
            blank={(): S["CurriculumRequiredCell"] => ({ family: page.families[0] ?? "", kind: page.kinds[0] ?? "", from: 1 })}
            onChange={setList}
          >
            {(m, set, i) => (
              <div className="grid grid-cols-[minmax(0,1.4fr)_minmax(0,1.4fr)_minmax(0,1fr)_80px] gap-2">
                <Select
                  label={tr("Positions")}
                  value={m.family}
                  error={wrong[`required_cells[${i}].family`]}
                  onChange={(e) => set({ ...m, family: e.target.value })}
                >
                  <Options of={page.families} />
                </Select>
                <Select
                  label={tr("Kind")}
                  value={m.kind}
                  error={wrong[`required_cells[${i}].kind`]}
                  onChange={(e) => set({ ...m, kind: e.target.value })}
                >
                  <Options of={page.kinds} />
                </Select>
                <Select
                  label={tr("Ladders")}
                  value={m.audience ?? ""}
                  onChange={(e) => set({ ...m, audience: (e.target.value || undefined) as S["CurriculumRequiredCell"]["audience"] })}
                >
                  <option value="">{tr("all")}</option>
                  <Options of={["adult", "youth"]} />
                </Select>
                <Input
                  label={tr("From rank")}
                  type="number"
                  value={m.from}
                  error={wrong[`required_cells[${i}].from`]}
                  onChange={(e) => set({ ...m, from: Number(e.target.value) })}
                />
              </div>
            )}
          </Rows>
          <div className="mt-2 flex gap-2">
            <Button type="submit" look="main" disabled={save.isPending}>
              {tr("Save cells")}
            </Button>
            {!page.usual && <Button onClick={() => save.mutate(undefined)}>{tr("Back to the usual ones")}</Button>}
            <Button onClick={() => setList(undefined)}>{tr("Cancel")}</Button>
          </div>
        </form>
      )}
    </section>
  );
}
