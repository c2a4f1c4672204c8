import { useState } from "react";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Input, Select } from "../../kit/Field";
import { tr } from "../../kit/tr";
import { date } from "../../kit/words";
import { Proposal } from "./Repair";
import { useRepair } from "./useRepair";

type Line = S["AcademySeasonDate"];

export const kinds: Record<Line["kind"], string> = {
  grading: tr("Grading day"),
  competition: tr("Competition"),
  seminar: tr("Seminar"),
  guest: tr("Guest coach"),
};

/** Dates are the days a season works toward, or around, and how the plan stands to each. */
export function Dates({ page }: { page: S["SeasonPage"] }) {
  const may = useMay();
  const [open, edit] = useState<number | "new" | null>(null);
  const was = page.dates.map((d) => d.date);
  const id = page.line.id;
  const keep = useAction(
    (dates: Line[]) => unwrap(client.PUT("/api/seasons/{id}/dates", { params: { path: { id } }, body: { dates, was } })),
    () => tr("Saved the dates of {{name}}.", { name: page.line.name }),
    () => edit(null),
  );
  const change = may("set-dates");
  const lacking = page.dates.filter((d) => !d.past).length > 0 && page.line.planned && page.breaks.some((b) => !b.own);
  const fields = (i: number) =>
    Object.fromEntries(
      Object.entries(keep.error?.fields ?? {})
        .filter(([at]) => at.startsWith(`dates[${i}].`))
        .map(([at, what]) => [at.slice(`dates[${i}].`.length), what]),
    );
  return (
    <section aria-label={tr("Dates")}>
      <div className="flex flex-wrap items-center gap-3">
        <h2 className="flex-1">{tr("Dates of {{name}}", { name: page.line.name })}</h2>
        {change && open === null && (
          <Button
            look={page.dates.length === 0 ? "main" : undefined}
            onClick={() => {
              keep.reset();
              edit("new");
            }}
          >
            {tr("New date")}
          </Button>
        )}
      </div>
      {page.dates.length === 0 && open === null && (
        <p className="mt-1 max-w-prose text-soft">
          {tr(
            "A grading day, a competition, a seminar, a guest coach: what must be taught before it, what is kept out of the weeks before it, and which classes it takes the place of. The planner keeps to all of it.",
          )}
        </p>
      )}
      {open === "new" && (
        <DateForm
          page={page}
          wrong={fields(was.length)}
          error={keep.error?.message}
          onCancel={() => edit(null)}
          onSave={(d) => keep.mutate([...was, d])}
        />
      )}
      <ul className="mt-1">
        {page.dates.map((d, i) => (
          <li key={d.date.id} className="border-b border-hair py-1.5">
            {open === i ? (
              <DateForm
                page={page}
                begin={d.date}
                wrong={fields(i)}
                error={keep.error?.message}
                onCancel={() => edit(null)}
                onSave={(x) => keep.mutate(was.map((y, j) => (i === j ? x : y)))}
              />
            ) : (
              <div className="flex flex-wrap items-start gap-x-3">
                <div className="min-w-0 flex-1">
                  <p>
                    <b className="head">{d.date.name}</b>{" "}
                    <span className="text-soft">
                      {tr("{{kinds}}, {{on}}, week {{week}}", { kinds: kinds[d.date.kind], on: date(d.date.on), week: d.week })}
                      {d.past && tr(", over")}
                    </span>
                  </p>
                  {d.says && <p className={d.lacking > 0 && !d.past ? "text-clay" : undefined}>{d.says}</p>}
                  {d.seen.length > 0 && (
                    <ul className="flex flex-wrap gap-x-4 text-[13px]">
                      {d.seen.map((s) => (
                        <li key={s.unit}>
                          {s.name}:{" "}
                          <span className={s.late ? "text-clay" : "text-soft"}>
                            {s.known
                              ? tr("known before")
                              : s.week > 0
                                ? tr("week {{week}}{{late}}", { week: s.week, late: s.late ? tr(", too late") : "" })
                                : tr("not taught")}
                          </span>
                        </li>
                      ))}
                    </ul>
                  )}
                </div>
                {change && open === null && (
                  <div className="no-print flex gap-2">
                    <Button
                      onClick={() => {
                        keep.reset();
                        edit(i);
                      }}
                    >
                      {tr("Edit")}
                    </Button>
                    <Button onClick={() => keep.mutate(was.filter((_, j) => j !== i))}>{tr("Delete")}</Button>
                  </div>
                )}
              </div>
            )}
          </li>
        ))}
      </ul>
      {keep.error && open === null && <p className="text-clay">{keep.error.message}</p>}
      {change && lacking && open === null && <Mend page={page} />}
    </section>
  );
}

/** Mend repairs a plan to what was set since it was made. */
function Mend({ page }: { page: S["SeasonPage"] }) {
  const id = page.line.id;
  const { propose, accept } = useRepair(id, { kind: "changed", week: 1 }, undefined, tr("Repaired the plan."));
  const rules = page.breaks.filter((b) => !b.own);
  return (
    <section aria-label={tr("Repair")} className="no-print mt-3">
      <p>
        {tr("The plan breaks {{n}}: {{what}}", {
          n: rules.length === 1 ? tr("one rule") : tr("{{rules}} rules", { rules: rules.length }),
          what: rules[0]?.what,
        })}
      </p>
      <div className="mt-1 flex gap-2">
        <Button disabled={propose.isPending} onClick={() => propose.mutate(undefined)}>
          {tr("Show the repair")}
        </Button>
        {propose.data && (
          <Button look="main" disabled={accept.isPending} onClick={() => accept.mutate(undefined)}>
            {tr("Repair plan")}
          </Button>
        )}
      </div>
      {(propose.error ?? accept.error) && <p className="mt-1 text-clay">{(propose.error ?? accept.error)?.message}</p>}
      {propose.data && <Proposal p={propose.data} />}
    </section>
  );
}

function DateForm({
  page,
  begin,
  wrong,
  error,
  onSave,
  onCancel,
}: {
  page: S["SeasonPage"];
  begin?: Line;
  wrong: Record<string, string>;
  error?: string;
  onSave: (d: Line) => void;
  onCancel: () => void;
}) {
  const [d, set] = useState<Line>(begin ?? { id: "", kind: "grading", name: "", on: "" });
  const to = (change: Partial<Line>) => set({ ...d, ...change });
  return (
    <form
      className="my-2 max-w-2xl border-t border-ink pt-2"
      aria-label={begin ? tr("Edit {{name}}", { name: begin.name }) : tr("New date")}
      onSubmit={(e) => {
        e.preventDefault();
        onSave(d);
      }}
    >
      <div className="grid grid-cols-2 gap-2 md:grid-cols-4">
        <Select label={tr("Kind")} value={d.kind} error={wrong.kind} onChange={(e) => to({ kind: e.target.value as Line["kind"] })}>
          {Object.entries(kinds).map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </Select>
        <Input
          label={tr("Name")}
          required
          maxLength={120}
          value={d.name}
          error={wrong.name}
          onChange={(e) => to({ name: e.target.value })}
        />
        <Input
          label={tr("Day")}
          type="date"
          required
          min={page.line.start}
          max={page.line.end}
          value={d.on}
          error={wrong.on}
          onChange={(e) => to({ on: e.target.value })}
        />
        <Select label={tr("For")} value={d.track ?? ""} error={wrong.track} onChange={(e) => to({ track: e.target.value || undefined })}>
          <option value="">{tr("all tracks")}</option>
          {page.ways.map((t) => (
            <option key={t.track} value={t.track}>
              {t.name}
            </option>
          ))}
        </Select>
      </div>
      <Pick
        label={tr("Taught before it")}
        hint={tr("By the end of the week before.")}
        all={page.units}
        chosen={d.seen ?? []}
        error={wrong.seen}
        onChange={(seen) => to({ seen })}
      />
      <Pick
        label={tr("Kept out before it")}
        hint={
          d.kind === "guest" || d.kind === "seminar"
            ? tr("What will be shown on the day need not be taught just before.")
            : tr("Nothing of it in the weeks before.")
        }
        all={page.units}
        chosen={d.kept ?? []}
        error={wrong.kept}
        onChange={(kept) => to({ kept })}
      />
      <div className="mt-2 flex flex-wrap items-end gap-3">
        <div className="w-28">
          <Input
            label={tr("Weeks before")}
            inputMode="numeric"
            value={d.weeks || 1}
            error={wrong.weeks}
            onChange={(e) => to({ weeks: Number(e.target.value.replace(/\D/g, "")) || undefined })}
          />
        </div>
        <label className="flex min-h-6 items-center gap-1.5">
          <input type="checkbox" checked={!!d.calm} onChange={(e) => to({ calm: e.target.checked || undefined })} />
          {tr("Nothing in them that loads a neck or twists a leg")}
        </label>
      </div>
      <Pick
        label={tr("Takes the place of")}
        hint={tr("Classes of that week that are not taught.")}
        all={page.rows.map((r) => ({ id: r.class, name: r.name }))}
        chosen={d.classes ?? []}
        error={wrong.classes}
        onChange={(classes) => to({ classes })}
      />
      {error && <p className="mt-1 text-clay">{error}</p>}
      <div className="mt-2 flex gap-2">
        <Button look="main" type="submit">
          {tr("Save")}
        </Button>
        <Button onClick={onCancel}>{tr("Cancel")}</Button>
      </div>
    </form>
  );
}

/** Pick chooses several of a list: what is chosen stands as a line that can be taken off. */
function Pick({
  label,
  hint,
  all,
  chosen,
  error,
  onChange,
}: {
  label: string;
  hint: string;
  all: S["Named"][];
  chosen: string[];
  error?: string;
  onChange: (to: string[]) => void;
}) {
  const name = (id: string) => all.find((x) => x.id === id)?.name ?? id;
  const [next, choose] = useState("");
  return (
    <div className="mt-2 grid grid-cols-1 gap-x-3 md:grid-cols-2">
      <div className="flex items-start gap-2">
        <div className="min-w-0 flex-1">
          <Select label={label} hint={hint} error={error} value={next} onChange={(e) => choose(e.target.value)}>
            <option value="">{tr("Choose")}</option>
            {all
              .filter((x) => !chosen.includes(x.id))
              .map((x) => (
                <option key={x.id} value={x.id}>
                  {x.name}
                </option>
              ))}
          </Select>
        </div>
        <Button
          className="mt-[19px]"
          aria-label={tr("Add: {{label}}", { label })}
          disabled={!next}
          onClick={() => {
            onChange([...chosen, next]);
            choose("");
          }}
        >
          {tr("Add")}
        </Button>
      </div>
      <ul className="flex flex-wrap content-start gap-1.5 md:pt-5">
        {chosen.map((id) => (
          <li key={id}>
            <button
              type="button"
              className="min-h-6 rounded-sm border border-rule px-1.5 text-[13px]"
              aria-label={tr("Remove {{id}}", { id: name(id) })}
              onClick={() => onChange(chosen.filter((x) => x !== id))}
            >
              {name(id)} <span aria-hidden>✕</span>
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
