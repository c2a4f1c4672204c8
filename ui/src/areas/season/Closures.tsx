import { useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Input, Select } from "../../kit/Field";

export function Closures({ page, classes }: { page: S["SeasonPage"]; classes: S["AcademyClass"][] }) {
  const [was, begin] = useState(page.closures); // what the form began with
  const [all, set] = useState(page.closures);
  const keep = useAction(
    (_: undefined) =>
      unwrap(client.PUT("/api/seasons/{id}/closures", { params: { path: { id: page.line.id } }, body: { closures: all, was } })),
    () => `Set the closures of ${page.line.name}.`,
    () => begin(all),
  );
  const wrong = keep.error?.fields ?? {};
  const change = (i: number, to: Partial<S["AcademyClosure"]>) => set(all.map((c, j) => (i === j ? { ...c, ...to } : c)));
  return (
    <section aria-label="Closures">
      <h2 className="mt-4">Closed in {page.line.name}</h2>
      {all.map((c, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the lines have no name of their own
        <div key={i} className="mt-1 grid max-w-2xl grid-cols-[70px_minmax(0,1fr)_minmax(0,1fr)_auto] items-end gap-2">
          <Input
            label="Week"
            inputMode="numeric"
            value={c.week || ""}
            error={wrong[`closures[${i}].week`]}
            onChange={(e) => change(i, { week: Number(e.target.value.replace(/\D/g, "")) })}
          />
          <Select label="Which" value={c.class ?? ""} onChange={(e) => change(i, { class: e.target.value || undefined })}>
            <option value="">all classes</option>
            {classes.map((k) => (
              <option key={k.id} value={k.id}>
                {k.name}
              </option>
            ))}
          </Select>
          <Input label="Why" value={c.why ?? ""} onChange={(e) => change(i, { why: e.target.value })} />
          <Button aria-label={`Open again: line ${i + 1}`} onClick={() => set(all.filter((_, j) => j !== i))}>
            ✕
          </Button>
        </div>
      ))}
      <div className="mt-2 flex gap-2">
        <Button onClick={() => set([...all, { week: 0 }])}>Add a closure</Button>
        {JSON.stringify(all) !== JSON.stringify(was) && (
          <Button look="main" onClick={() => keep.mutate(undefined)}>
            Save closures
          </Button>
        )}
      </div>
      {keep.error && <p className="text-clay">{keep.error.message}</p>}
      <p className="mt-1 text-[12.5px] text-soft">
        After closing, plan again; for one class in a finished plan, repair it from the plan instead.
      </p>
    </section>
  );
}
