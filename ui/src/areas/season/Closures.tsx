import { useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Input, Select } from "../../kit/Field";
import { tr } from "../../kit/tr";

export function Closures({ page, classes }: { page: S["SeasonPage"]; classes: S["AcademyClass"][] }) {
  const [was, begin] = useState(page.closures); // what the form began with
  const [all, set] = useState(page.closures);
  const keep = useAction(
    (_: undefined) =>
      unwrap(client.PUT("/api/seasons/{id}/closures", { params: { path: { id: page.line.id } }, body: { closures: all, was } })),
    () => tr("Set the closures of {{name}}.", { name: page.line.name }),
    () => begin(all),
  );
  const wrong = keep.error?.fields ?? {};
  const change = (i: number, to: Partial<S["AcademyClosure"]>) => set(all.map((c, j) => (i === j ? { ...c, ...to } : c)));
  return (
    <section aria-label={tr("Closures")}>
      <h2 className="mt-4">{tr("Closed in {{name}}", { name: page.line.name })}</h2>
      {all.map((c, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the lines have no name of their own
        <div key={i} className="mt-1 grid max-w-2xl grid-cols-[70px_minmax(0,1fr)_minmax(0,1fr)_auto] items-end gap-2">
          <Input
            label={tr("Week")}
            inputMode="numeric"
            value={c.week || ""}
            error={wrong[`closures[${i}].week`]}
            onChange={(e) => change(i, { week: Number(e.target.value.replace(/\D/g, "")) })}
          />
          <Select label={tr("Which")} value={c.class ?? ""} onChange={(e) => change(i, { class: e.target.value || undefined })}>
            <option value="">{tr("all classes")}</option>
            {classes.map((k) => (
              <option key={k.id} value={k.id}>
                {k.name}
              </option>
            ))}
          </Select>
          <Input label={tr("Why")} value={c.why ?? ""} onChange={(e) => change(i, { why: e.target.value })} />
          <Button aria-label={tr("Open again: line {{i}}", { i: i + 1 })} onClick={() => set(all.filter((_, j) => j !== i))}>
            ✕
          </Button>
        </div>
      ))}
      <div className="mt-2 flex gap-2">
        <Button onClick={() => set([...all, { week: 0 }])}>{tr("Add a closure")}</Button>
        {JSON.stringify(all) !== JSON.stringify(was) && (
          <Button look="main" onClick={() => keep.mutate(undefined)}>
            {tr("Save closures")}
          </Button>
        )}
      </div>
      {keep.error && <p className="text-clay">{keep.error.message}</p>}
      <p className="mt-1 text-[12.5px] text-soft">
        {tr("After closing, plan again; for one class in a finished plan, repair it from the plan instead.")}
      </p>
    </section>
  );
}
