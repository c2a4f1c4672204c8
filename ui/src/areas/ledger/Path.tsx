import { useQuery } from "@tanstack/react-query";
import { useId } from "react";
import { client, type S, unwrap } from "../../api/client";
import { tr } from "../../kit/tr";
import { day, percent } from "../../kit/words";

const days = (on: string) => Date.parse(`${on}T00:00:00Z`) / 86_400_000;
const left = 34;
const right = 394;
const foot = 104;
const head = 12;

/** Path is how somebody came toward the next rank since the present one: thick what is there as it is required, hatched what was met, and from today
 * a fan to the days on which all of it will likely be there. */
export function Path({ page }: { page: S["StudentPage"] }) {
  const hatch = useId();
  const outlook = useQuery({
    queryKey: ["outlook", page.person.id],
    queryFn: () => unwrap(client.GET("/api/students/{id}/outlook", { params: { path: { id: page.person.id } } })),
  });
  const path = page.path;
  const first = path[0];
  const now = path[path.length - 1];
  if (!first || !now || path.length < 3) return null;
  const today = days(now.on);
  const { p10, p90 } = outlook.data?.likely ?? {};
  // As far ahead as it went back, and a year at least: what lies beyond is said, not drawn.
  const ahead = today + Math.max(364, today - days(first.on));
  const fan = p10 && days(p10) > today && days(p10) <= ahead ? { p10, p90 } : undefined;
  const until = fan ? Math.min(ahead, fan.p90 ? days(fan.p90) : ahead) : today;
  const x = (on: number) => left + ((on - days(first.on)) / (until - days(first.on))) * (right - left);
  const y = (share: number) => foot - share * (foot - head);
  const line = (of: (p: S["LedgerPathPoint"]) => number) => path.map((p, i) => `${i ? "L" : "M"}${x(days(p.on))} ${y(of(p))}`).join("");
  const words = tr("{{share}} as required, {{met}} met", { share: percent(now.share), met: percent(now.met) });
  return (
    <figure className="mt-3" aria-label={tr("The path to {{rank}}", { rank: page.next ?? "" })}>
      <h2>{tr("The path to {{rank}}", { rank: page.next ?? "" })}</h2>
      <svg viewBox="0 0 400 124" className="w-full max-w-[520px]" role="img" aria-label={words}>
        <defs>
          <pattern id={hatch} width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <path d="M0 0V5" stroke="var(--color-soft)" strokeWidth="0.8" opacity="0.55" />
          </pattern>
        </defs>
        {[0, 0.5, 1].map((s) => (
          <g key={s}>
            <path d={`M${left} ${y(s)}H${right}`} stroke="var(--color-hair)" />
            <text x={left - 4} y={y(s) + 4} textAnchor="end" fontSize={11} fill="var(--color-soft)" className="num">
              {percent(s)}
            </text>
          </g>
        ))}
        <path d={`${line((p) => p.met)}L${x(today)} ${foot}L${left} ${foot}Z`} fill={`url(#${hatch})`} />
        <path d={line((p) => p.met)} fill="none" stroke="var(--color-soft)" />
        <path d={line((p) => p.share)} fill="none" stroke="var(--color-ink)" strokeWidth={2.5} />
        {fan && (
          <path
            data-fan
            d={`M${x(today)} ${y(now.share)}L${x(days(fan.p10))} ${y(1)}H${x(until)}Z`}
            fill="var(--color-lake)"
            fillOpacity={0.16}
            stroke="var(--color-lake)"
            strokeWidth={1}
          />
        )}
        <circle cx={x(today)} cy={y(now.share)} r={3.2} fill="var(--color-ink)" />
        <text x={left} y={120} fontSize={11} fill="var(--color-soft)" className="num">
          {day(first.on)}
        </text>
        {fan ? (
          <>
            {x(today) - left > 100 && right - x(today) > 110 && (
              <text x={x(today)} y={120} textAnchor="middle" fontSize={11} fill="var(--color-soft)" className="num">
                {tr("today")}
              </text>
            )}
            <text x={right} y={120} textAnchor="end" fontSize={11} fill="var(--color-lake)" className="num">
              {fan.p90 && days(fan.p90) <= ahead ? day(fan.p90) : tr("later")}
            </text>
          </>
        ) : (
          <text x={right} y={120} textAnchor="end" fontSize={11} fill="var(--color-soft)" className="num">
            {tr("today")}
          </text>
        )}
      </svg>
      <figcaption className="text-[12.5px] text-soft">
        {tr("By weight of what is required. Thick: there as it is required, and not faded. Hatched: met on every side.")}{" "}
        {fan && tr("Blue: to the days on which all of it will likely be there.")}
      </figcaption>
      <details className="text-[12.5px]">
        <summary className="link cursor-pointer">{tr("As a table")}</summary>
        <table className="grid-lines num">
          <thead>
            <tr>
              <th>{tr("Day")}</th>
              <th className="text-right">{tr("As required")}</th>
              <th className="text-right">{tr("Met on every side")}</th>
            </tr>
          </thead>
          <tbody>
            {path.map((p) => (
              <tr key={p.on}>
                <td>{day(p.on)}</td>
                <td className="text-right">{percent(p.share)}</td>
                <td className="text-right">{percent(p.met)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </details>
    </figure>
  );
}
