import { useQuery } from "@tanstack/react-query";
import { client, type S, unwrap } from "../../api/client";
import { Explain } from "../../kit/Explain";
import { tr } from "../../kit/tr";
import { date, percent } from "../../kit/words";

/** CoverageLine is the coverage over a season: thin as it was expected, thick as it came, banded as it is expected from here. */
export function CoverageLine({ season }: { season: string }) {
  const page = useQuery({
    queryKey: ["season", season, "coverage"],
    queryFn: () => unwrap(client.GET("/api/seasons/{id}/coverage", { params: { path: { id: season } } })),
  });
  const p = page.data;
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  if (!p) return null;
  if (!p.published)
    return <p className="text-soft">{tr("Once the season is published, what was expected and what came of it stand here as a line.")}</p>;
  const top = Math.max(0.1, ...[...p.forecast, ...(p.revised ?? []), ...p.from].map((w) => w.high), ...p.happened.map((w) => w.share));
  const x = (week: number) => 30 + (week / Math.max(1, p.weeks)) * 560;
  const y = (share: number) => 130 - (share / top) * 116;
  const line = (all: { week: number; at: number }[]) => all.map((w, i) => `${i ? "L" : "M"}${x(w.week)} ${y(w.at)}`).join("");
  const band = (all: S["SeasonWeekCoverage"][]) =>
    all.length > 1
      ? `${line(all.map((w) => ({ week: w.week, at: w.high })))}${[...all]
          .reverse()
          .map((w) => `L${x(w.week)} ${y(w.low)}`)
          .join("")}Z`
      : "";
  const last = p.happened[p.happened.length - 1];
  const end = p.from[p.from.length - 1];
  const was = p.forecast[p.forecast.length - 1];
  return (
    <figure className="mt-2" aria-label={tr("Coverage over the season")}>
      <svg viewBox="0 0 600 152" className="w-full" role="img" aria-label={tr("Coverage by week: forecast, happened, from here")}>
        {[0, top / 2, top].map((s) => (
          <g key={s}>
            <path d={`M30 ${y(s)}H590`} stroke="var(--color-hair)" />
            <text x={26} y={y(s) + 4} textAnchor="end" fontSize={11} fill="var(--color-soft)" className="num">
              {percent(s)}
            </text>
          </g>
        ))}
        {Array.from({ length: p.weeks + 1 }, (_, w) => w)
          .filter((w) => p.weeks <= 16 || w % 4 === 0)
          .map((w) => (
            <text key={w} x={x(w)} y={148} textAnchor="middle" fontSize={11} fill="var(--color-soft)" className="num">
              {w}
            </text>
          ))}
        <path d={band(p.from)} fill="var(--color-lake)" opacity={0.18} />
        <path
          d={line(p.forecast.map((w) => ({ week: w.week, at: w.mean })))}
          fill="none"
          stroke="var(--color-soft)"
          strokeDasharray="4 3"
        />
        {p.revised && (
          <path
            d={line(p.revised.map((w) => ({ week: w.week, at: w.mean })))}
            fill="none"
            stroke="var(--color-soft)"
            strokeDasharray="1 3"
          />
        )}
        <path d={line(p.from.map((w) => ({ week: w.week, at: w.mean })))} fill="none" stroke="var(--color-lake)" strokeWidth={1.5} />
        <path d={line(p.happened.map((w) => ({ week: w.week, at: w.share })))} fill="none" stroke="var(--color-ink)" strokeWidth={2.5} />
      </svg>
      <figcaption className="text-[12.5px] text-soft">
        {tr("Weeks along the foot. Broken: as it was expected on {{published}}", { published: date(p.published) })}
        {was && tr(", {{mean}} at the end", { mean: percent(was.mean) })}
        {p.again &&
          p.revised &&
          tr(". Dotted: as it was published again on {{again}}, {{mean}} at the end", {
            again: date(p.again),
            mean: percent(p.revised[p.revised.length - 1]?.mean ?? 0),
          })}
        {tr(". Thick: as it came")}
        {last && tr(", {{share}} by the end of week {{week}}", { share: percent(last.share), week: last.week })}.{" "}
        {end &&
          tr("Blue: from here, {{mean}} at the end, between {{low}} and {{high}} in eight of ten runs.", {
            mean: percent(end.mean),
            low: percent(end.low),
            high: percent(end.high),
          })}{" "}
        <Explain label={tr("How it is computed")} number={tr("How")}>
          {p.formula}
        </Explain>
      </figcaption>
    </figure>
  );
}
