import { useState } from "react";
import { useMay } from "../../api/actions";
import type { S } from "../../api/client";
import { Button } from "../../kit/Button";
import { Input } from "../../kit/Field";
import { Empty } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { percent, shortDate } from "../../kit/words";
import { Proposal } from "./Repair";
import { useRepair } from "./useRepair";

/** Load shows what each coach leads, week by week, against their share and limit, and what happens when one is away. */
export function Load({ page }: { page: S["SeasonPage"] }) {
  const may = useMay();
  const [away, setAway] = useState<S["LoadLine"] | null>(null);
  if (!page.line.planned) return <Empty title={tr("No load yet")}>{tr("Plan the season first.")}</Empty>;
  return (
    <>
      <div className="mt-1 relative overflow-x-auto">
        <table className="grid-lines" data-load>
          <thead>
            <tr>
              <th>{tr("Coach")}</th>
              <th className="text-right">{tr("Classes")}</th>
              <th className="text-right">{tr("Share")}</th>
              <th className="text-right">{tr("Wanted")}</th>
              <th className="text-right">{tr("Most a week")}</th>
              {page.weeks.map((w) => (
                <th key={w.week} className="w-9 text-center text-[11px]" title={tr("Week {{week}}", { week: w.week })}>
                  {shortDate(w.start)}
                </th>
              ))}
              <td />
            </tr>
          </thead>
          <tbody>
            {page.load.map((l) => (
              <tr key={l.id}>
                <td className="whitespace-nowrap">{l.name}</td>
                <td className="num text-right">{l.classes}</td>
                <td className={`num text-right ${Math.abs(l.share - l.wanted) > 0.1 ? "font-semibold text-clay" : ""}`}>
                  {percent(l.share)}
                </td>
                <td className="num text-right text-soft">{percent(l.wanted)}</td>
                <td className="num text-right">
                  {l.most} <span className="text-soft">{tr("of {{limit}}", { limit: l.limit })}</span>
                </td>
                {l.weeks.map((n, i) => (
                  <td key={page.weeks[i]?.week} className="num !px-0 text-center">
                    <LoadBar n={n} limit={l.limit} away={l.out.includes(i + 1)} />
                    {l.out.includes(i + 1) ? (
                      <span className="text-[11px] text-soft">{tr("away")}</span>
                    ) : n === 0 ? (
                      <span className="text-soft">·</span>
                    ) : (
                      <span
                        className={`inline-block w-6 leading-4 ${n >= l.limit ? "border border-ink font-bold" : ""}`}
                        title={n >= l.limit ? tr("at the limit") : undefined}
                      >
                        {n}
                      </span>
                    )}
                  </td>
                ))}
                <td className="whitespace-nowrap">
                  {may("propose-repair") && (
                    <button type="button" className="link no-print text-[13px]" onClick={() => setAway(l)}>
                      {tr("If away…")}
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="mt-1 text-[12.5px] text-soft">
        {tr(
          "Each bar is a week, filled as far as the coach’s limit is; hatched where they are away. A framed number is at the limit. Shares more than ten points off are marked.",
        )}
      </p>
      {away && <Away key={away.id} page={page} coach={away} onDone={() => setAway(null)} />}
    </>
  );
}

/** LoadBar is one week of a coach: how much of their limit it takes. The number beneath says the same. */
function LoadBar({ n, limit, away }: { n: number; limit: number; away: boolean }) {
  const filled = Math.min(1, n / Math.max(1, limit)) * 22;
  return (
    <svg viewBox="0 0 20 24" className="mx-auto block h-6 w-5" aria-hidden="true" data-full={n >= limit && !away}>
      {away && <path d="M1 23L19 5M1 13L11 3M9 23L19 13" stroke="var(--color-rule)" strokeWidth={1} />}
      <path d="M2.5 1.5h15" stroke="var(--color-rule)" strokeWidth={1} />
      {!away && <rect x={5} y={23 - filled} width={10} height={filled} fill={n >= limit ? "var(--color-ink)" : "var(--color-lake)"} />}
      <path d="M2 23.5h16" stroke="var(--color-ink)" strokeWidth={1} />
    </svg>
  );
}

function Away({ page, coach, onDone }: { page: S["SeasonPage"]; coach: S["LoadLine"]; onDone: () => void }) {
  const first = page.weeks.find((w) => w.start >= page.today)?.week ?? page.weeks.length;
  const [week, setWeek] = useState(String(first));
  const [weeks, setWeeks] = useState("2");
  const id = page.line.id;
  const body = { kind: "coach_out" as const, coach: coach.id, week: Number(week), weeks: Number(weeks) || 1 };
  const { propose, accept } = useRepair(id, body, onDone);
  const p = propose.data;
  return (
    <section className="mt-3 max-w-3xl border-t border-rule pt-2" data-away>
      <h2>{tr("If {{name}} is away", { name: coach.name })}</h2>
      <div className="mt-1 flex flex-wrap items-end gap-2">
        <div className="w-28">
          <Input label={tr("From week")} inputMode="numeric" value={week} onChange={(e) => setWeek(e.target.value.replace(/\D/g, ""))} />
        </div>
        <div className="w-28">
          <Input label={tr("Weeks away")} inputMode="numeric" value={weeks} onChange={(e) => setWeeks(e.target.value.replace(/\D/g, ""))} />
        </div>
        <Button disabled={propose.isPending} onClick={() => propose.mutate(undefined)}>
          {tr("Show what happens")}
        </Button>
        <Button onClick={onDone}>{tr("Close")}</Button>
      </div>
      {propose.error && <p className="text-clay">{propose.error.message}</p>}
      {p && (
        <>
          <Proposal p={p} />
          <Button className="mt-2" look="main" disabled={accept.isPending} onClick={() => accept.mutate(undefined)}>
            {tr("Repair plan")}
          </Button>
        </>
      )}
    </section>
  );
}
