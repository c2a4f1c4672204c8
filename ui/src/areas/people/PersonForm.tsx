import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { useOpened, useUnsaved } from "../../kit/draft";
import { Input, Select, TextArea } from "../../kit/Field";
import { Refusal } from "../../kit/Refusal";
import { tr } from "../../kit/tr";

const blank: S["Fields"] = { name: "", student: true };

type Props = {
  id?: string;
  fields?: S["Fields"];
  version?: number;
  decided?: boolean;
  people?: S["PersonRow"][];
  onDone: (id: string) => void;
};

/** PersonForm asks only what the work uses, and says what for. */
export function PersonForm({ id, fields, version, decided, people, onDone }: Props) {
  const opened = useOpened({ fields: fields ?? blank, version: version ?? 0 });
  const [f, set] = useState<S["Fields"]>(opened.fields);
  const ladders = useQuery({ queryKey: ["ladders"], queryFn: () => unwrap(client.GET("/api/ladders")) });
  const put = (part: Partial<S["Fields"]>) => set((had) => ({ ...had, ...part }));
  const ladder = (ladders.data ?? []).find((l) => l.id === f.ladder);
  const save = useAction(
    async (body: S["Fields"]): Promise<{ id: string; change?: string }> => {
      if (!id) {
        const out = await unwrap(client.POST("/api/people", { body }));
        return { id: out.id ?? "", change: out.change };
      }
      const out = await unwrap(client.PUT("/api/people/{id}", { params: { path: { id }, query: { version: opened.version } }, body }));
      return { id, change: out.change };
    },
    () => (id ? tr("Changed {{name}}.", { name: f.name }) : tr("Added {{name}}.", { name: f.name })),
    (out) => onDone(out.id),
  );
  useUnsaved(JSON.stringify(f) !== JSON.stringify(opened.fields) && !save.isPending && !save.isSuccess);
  const wrong = save.error?.fields ?? {};
  function send(e: FormEvent) {
    e.preventDefault();
    const g = f.guardian;
    save.mutate({
      ...f,
      birth: f.birth || undefined,
      joined: f.joined || undefined,
      rank_since: f.rank_since || undefined,
      jacket: f.jacket || undefined,
      guardian: g && (g.name || g.email || g.phone) ? g : undefined,
    });
  }
  return (
    <form
      onSubmit={send}
      className="flex flex-col gap-2.5 pb-4"
      aria-label={id ? tr("Change {{name}}", { name: opened.fields.name }) : tr("Add a person")}
    >
      <h1>{id ? f.name : tr("Add a person")}</h1>
      {save.error && <Refusal error={save.error} />}
      <div className="grid grid-cols-2 gap-x-3 gap-y-2">
        <Input label={tr("Name")} autoFocus={!id} value={f.name} error={wrong.name} onChange={(e) => put({ name: e.target.value })} />
        <Input
          label={tr("Called")}
          hint={tr("On the mat, where it is another name")}
          value={f.called ?? ""}
          error={wrong.called}
          onChange={(e) => put({ called: e.target.value || undefined })}
        />
        <Input
          label={tr("Born")}
          type="date"
          hint={tr("For gates by age; unknown counts as a minor")}
          value={f.birth ?? ""}
          error={wrong.birth}
          onChange={(e) => put({ birth: e.target.value || undefined })}
        />
        <Input
          label={tr("Weight, kg")}
          type="number"
          min={0}
          step="0.5"
          hint={tr("So that sizes are close in pairs")}
          value={f.weight_kg ?? ""}
          error={wrong.weight_kg}
          onChange={(e) => put({ weight_kg: e.target.value ? Number(e.target.value) : undefined })}
        />
        <Input
          label={tr("E-mail")}
          type="email"
          hint={tr("For notices and the invitation")}
          value={f.email ?? ""}
          error={wrong.email}
          onChange={(e) => put({ email: e.target.value || undefined })}
        />
        <Select
          label={tr("Trains in")}
          value={f.jacket ?? "both"}
          onChange={(e) => put({ jacket: e.target.value as S["Fields"]["jacket"] })}
        >
          <option value="both">{tr("with and without jacket")}</option>
          <option value="gi">{tr("with jacket (gi)")}</option>
          <option value="no-gi">{tr("without (no-gi)")}</option>
        </Select>
      </div>
      <label className="flex items-center gap-2">
        <input type="checkbox" checked={f.student} onChange={(e) => put({ student: e.target.checked })} />
        {tr("Trains here: counts in plans and in the ledger")}
      </label>
      {decided ? (
        <p className="text-[13px] text-soft">{tr("Their rank was decided here; another decision changes it.")}</p>
      ) : (
        (f.student || f.rank) && (
          <div className="grid grid-cols-3 gap-x-3 gap-y-2">
            <Select
              label={tr("Ladder")}
              value={f.ladder ?? ""}
              error={wrong.ladder}
              onChange={(e) =>
                put({
                  ladder: e.target.value || undefined,
                  rank: (ladders.data ?? []).find((l) => l.id === e.target.value)?.ranks[0]?.id,
                })
              }
            >
              <option value="">{tr("choose one")}</option>
              {(ladders.data ?? []).map((l) => (
                <option key={l.id} value={l.id}>
                  {l.name}
                </option>
              ))}
            </Select>
            <Select label={tr("Rank")} value={f.rank ?? ""} error={wrong.rank} onChange={(e) => put({ rank: e.target.value || undefined })}>
              {!ladder && <option value="">{tr("choose a ladder first")}</option>}
              {(ladder?.ranks ?? []).map((r) => (
                <option key={r.id} value={r.id}>
                  {r.name}
                </option>
              ))}
            </Select>
            <Input
              label={tr("Since")}
              type="date"
              hint={tr("Today when empty")}
              value={f.rank_since ?? ""}
              onChange={(e) => put({ rank_since: e.target.value || undefined })}
            />
          </div>
        )
      )}
      <div className="grid grid-cols-3 gap-x-3 gap-y-2">
        <Input
          label={tr("Joined")}
          type="date"
          hint={tr("Classes before do not count")}
          value={f.joined ?? ""}
          onChange={(e) => put({ joined: e.target.value || undefined })}
        />
        <Input
          label={tr("Language")}
          hint={tr("Such as en or pt")}
          value={f.language ?? ""}
          error={wrong.language}
          onChange={(e) => put({ language: e.target.value || undefined })}
        />
        {!decided && (
          <Input
            label={tr("Stripes")}
            type="number"
            min={0}
            max={12}
            value={f.stripes ?? ""}
            error={wrong.stripes}
            onChange={(e) => put({ stripes: e.target.value ? Number(e.target.value) : undefined })}
          />
        )}
      </div>
      <TextArea
        label={tr("Build")}
        rows={2}
        hint={tr("What partners and coaches should know: long legs, a stiff shoulder. Health belongs under Hold")}
        value={f.body ?? ""}
        error={wrong.body}
        onChange={(e) => put({ body: e.target.value || undefined })}
      />
      <fieldset className="grid grid-cols-3 gap-x-3">
        <legend className="cap">{tr("Guardian of a minor: the desk sees whom to call")}</legend>
        <Input
          label={tr("Guardian")}
          value={f.guardian?.name ?? ""}
          error={wrong["guardian.name"]}
          onChange={(e) => put({ guardian: { ...f.guardian, name: e.target.value } })}
        />
        <Input
          label={tr("Guardian's e-mail")}
          value={f.guardian?.email ?? ""}
          error={wrong["guardian.email"]}
          onChange={(e) => put({ guardian: { ...f.guardian, name: f.guardian?.name ?? "", email: e.target.value || undefined } })}
        />
        <Input
          label={tr("Guardian's phone")}
          value={f.guardian?.phone ?? ""}
          error={wrong["guardian.phone"]}
          onChange={(e) => put({ guardian: { ...f.guardian, name: f.guardian?.name ?? "", phone: e.target.value || undefined } })}
        />
      </fieldset>
      {people && (
        <fieldset>
          <legend className="cap">{tr("Never paired with")}</legend>
          <div className="flex flex-wrap items-center gap-2">
            {(f.never_with ?? []).map((other) => (
              <span key={other} className="border border-rule px-1.5">
                {people.find((p) => p.id === other)?.name ?? other}{" "}
                <button
                  type="button"
                  aria-label={tr("Remove {{name}}", { name: people.find((p) => p.id === other)?.name ?? other })}
                  onClick={() => put({ never_with: (f.never_with ?? []).filter((x) => x !== other) })}
                >
                  ✕
                </button>
              </span>
            ))}
            <select
              aria-label={tr("Add somebody they are never paired with")}
              className="h-[31px] rounded-sm border border-rule bg-white px-2"
              value=""
              onChange={(e) => e.target.value && put({ never_with: [...(f.never_with ?? []), e.target.value] })}
            >
              <option value="">{tr("Add somebody")}</option>
              {people
                .filter((p) => p.id !== id && !p.archived && !(f.never_with ?? []).includes(p.id))
                .map((p) => (
                  <option key={p.id} value={p.id}>
                    {p.name}
                  </option>
                ))}
            </select>
          </div>
        </fieldset>
      )}
      <div className="flex gap-2">
        <Button type="submit" look="main" disabled={save.isPending}>
          {tr("Save person")}
        </Button>
        <Button onClick={() => onDone(id ?? "")}>{tr("Cancel")}</Button>
      </div>
    </form>
  );
}
