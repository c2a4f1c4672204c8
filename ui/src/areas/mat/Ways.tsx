import type { S } from "../../api/client";
import { tr } from "../../kit/tr";

/** Ways is each group's way along the stations, on one line of time. */
export function Ways({ s }: { s: S["StationsPage"] }) {
  const end = Math.max(1, ...s.rows.flatMap((r) => r.visits.map((v) => v.end)));
  const left = s.plan?.left_out ?? [];
  return (
    <section className="mt-3">
      <p className="num text-soft">
        {tr("{{end}} minutes; {{idleminutes}}", {
          end,
          idleminutes: s.plan?.idle_minutes
            ? tr("the groups wait {{idleminutes}} minutes in all; less than {{idlebound}} cannot be.", {
                idleminutes: s.plan.idle_minutes,
                idlebound: s.plan.idle_bound,
              })
            : tr("nobody waits."),
        })}
        {left.length > 0 &&
          ` ${tr("Left out: {{left}}.", { left: left.map((id) => s.stations.find((x) => x.id === id)?.name ?? id).join(", ") })}`}
      </p>
      {s.rows.map((r, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a group is its number
        <div key={i} className="mt-2 border-t border-rule pt-1" data-group>
          <p>
            <b>{tr("Group {{i}}", { i: i + 1 })}</b> <span className="text-soft">{r.people.map((p) => p.name).join(", ")}</span>
          </p>
          <ol className="mt-1">
            {r.visits.map((v) => (
              <li key={v.station} className="grid grid-cols-[64px_minmax(0,1fr)_90px] items-center gap-2">
                <span className="num">
                  {v.start}–{v.end}
                </span>
                <span>
                  {v.name}
                  {v.coach && <span className="text-soft"> · {v.coach}</span>}
                  {v.checks?.map((c) => (
                    <span key={`${c.student} ${c.technique}`} className="block text-[12.5px] leading-4 text-soft" data-check>
                      {c.name}: {c.label} {c.sides.join(" and ")}
                    </span>
                  ))}
                </span>
                <svg viewBox="0 0 100 8" preserveAspectRatio="none" className="h-2 w-full" aria-hidden="true">
                  <rect width={100} height={8} fill="var(--color-hair)" />
                  <rect x={(v.start / end) * 100} width={((v.end - v.start) / end) * 100} height={8} fill="var(--color-ink)" />
                </svg>
              </li>
            ))}
          </ol>
        </div>
      ))}
    </section>
  );
}
