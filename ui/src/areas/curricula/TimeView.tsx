import type { S } from "../../api/client";
import { tr, word } from "../../kit/tr";

/** TimeView shows what the rank takes against what the timetable offers, by family, and the smallest cut that would make it fit. */
export function TimeView({ page }: { page: S["CurriculumPage"] }) {
  const t = page.time;
  const most = Math.max(t.needed, t.offered, 1);
  const longest = Math.max(...t.families.map((f) => f.minutes), 1);
  const over = t.needed - t.offered;
  const bar = (label: string, minutes: number, of: number, tone: string) => (
    <div key={label} className="grid grid-cols-[130px_minmax(0,1fr)_90px] items-center gap-2 py-0.5">
      <span>{label}</span>
      <span className="h-3.5 border border-hair">
        <span className={`block h-full ${tone}`} style={{ width: `${(100 * minutes) / of}%` }} />
      </span>
      <span className="num text-right">{tr("{{minutes}} min", { minutes })}</span>
    </div>
  );
  return (
    <section aria-label={tr("Time")}>
      <h2>{tr("Time")}</h2>
      {bar(tr("It takes"), t.needed, most, over > 0 ? "bg-clay" : "bg-ink")}
      {bar(tr("Is offered"), t.offered, most, "bg-moss")}
      <p className={`num mt-1 font-semibold ${over > 0 ? "text-clay" : "text-moss"}`}>
        {over > 0
          ? tr("{{over}} minutes too many in the least time at the rank before.", { over })
          : tr("It fits, with {{over}} minutes to spare.", { over: -over })}
      </p>
      <h3 className="mt-3">{tr("By family")}</h3>
      {t.families.map((f) => bar(word(f.family), f.minutes, longest, "bg-lake"))}
      {t.cut.length > 0 && (
        <>
          <h3 className="mt-3">{tr("Smallest cut that makes it fit")}</h3>
          <p className="num text-soft">
            {tr(
              "Weight {{cutby}}; no set of requirements of less weight frees the minutes (exact). It is a measure, not advice: what others stand on may be among them.",
              { cutby: t.cut_by },
            )}
          </p>
          <p>{t.cut.map((c) => c.name).join(", ")}</p>
        </>
      )}
      <p className="mt-3 max-w-prose text-[12.5px] text-soft">{t.summary}</p>
    </section>
  );
}
