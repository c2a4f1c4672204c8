import type { S } from "../../api/client";
import { Input } from "../../kit/Field";
import { tr } from "../../kit/tr";
import { whole } from "../../kit/words";

type Rules = S["SeasonRules"];

/** TrackRules says what is asked of the evenings of a track; a plan keeps all of it. */
export function TrackRules({ rules: r, onChange, wrong }: { rules: Rules; onChange: (r: Rules) => void; wrong: Record<string, string> }) {
  const number = (
    field: "most_units" | "most_new" | "main_minutes" | "teach_gap" | "review_gap" | "area_least" | "area_most",
    label: string,
    hint: string,
  ) => (
    <Input
      label={label}
      hint={hint}
      inputMode="numeric"
      value={r[field] || ""}
      error={wrong[`rules.${field}`]}
      onChange={(e) => onChange({ ...r, [field]: whole(e.target.value) || undefined })}
    />
  );
  const tick = (field: "teach_each" | "together" | "risk_apart" | "ease_in" | "deeper", label: string) => (
    <label className="flex gap-2">
      <input type="checkbox" checked={!!r[field]} onChange={(e) => onChange({ ...r, [field]: e.target.checked || undefined })} />
      {label}
    </label>
  );
  return (
    <fieldset className="col-span-full mt-1 border-t border-hair pt-1">
      <legend className="head pr-2 font-semibold">{tr("Rules of its classes")}</legend>
      <div className="grid grid-cols-2 gap-2 md:grid-cols-5">
        {number("most_units", tr("Units in a class"), tr("At most; empty for any"))}
        {number("most_new", tr("New ones in a class"), tr("At most"))}
        {number("main_minutes", tr("Main one, minutes"), tr("At least"))}
        {number("teach_gap", tr("Taught again after"), tr("Weeks at least"))}
        {number("review_gap", tr("Reviewed after"), tr("Weeks at least"))}
        {number("area_least", tr("In one area, least"), tr("Weeks in a row"))}
        {number("area_most", tr("In one area, most"), tr("Weeks; empty: any"))}
      </div>
      <div className="mt-1.5 grid gap-1 md:grid-cols-2">
        {tick("risk_apart", tr("No two units in one class that load a neck or twist a leg"))}
        {tick("ease_in", tr("None of those in the first week after a closed one"))}
        {tick("together", tr("What is taught in one class belongs together: one area, one stands on the other, or one answers the other"))}
        {tick("teach_each", tr("No class of reviews alone"))}
        {tick("deeper", tr("What comes back comes deeper: taught once for each of its layers, never the same again"))}
      </div>
      {r.teach_each && (
        <Input
          label={tr("But in these weeks")}
          hint={tr("Review weeks, with commas between: 6, 12")}
          defaultValue={(r.review_weeks ?? []).join(", ")}
          onChange={(e) => {
            const weeks = e.target.value.split(/\D+/).filter(Boolean).map(Number);
            onChange({ ...r, review_weeks: weeks.length ? weeks : undefined });
          }}
        />
      )}
    </fieldset>
  );
}
