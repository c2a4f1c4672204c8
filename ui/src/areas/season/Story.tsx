import { useQuery } from "@tanstack/react-query";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { tr, word } from "../../kit/tr";
import { decimal, percent } from "../../kit/words";

/** Story reads a plan aloud: for each track the line it follows, and every week in a few sentences. */
export function Story({ page }: { page: S["SeasonPage"] }) {
  const may = useMay();
  const id = page.line.id;
  const story = useQuery({
    queryKey: ["season-story", id],
    queryFn: () => unwrap(client.GET("/api/seasons/{id}/story", { params: { path: { id } } })),
  });
  if (story.error) return <p className="text-clay">{story.error.message}</p>;
  if (!story.data) return null;
  if (story.data.tracks.length === 0)
    return <p className="mt-2 text-soft">{tr("There is no plan yet: press Plan, and it can be read here.")}</p>;
  const now = page.line.weeks && Math.floor((Date.parse(page.today) - Date.parse(page.line.start)) / (7 * 86400e3)) + 1;
  return (
    <>
      {story.data.tracks.map((t) => (
        <section key={t.id} aria-label={tr("The line of {{name}}", { name: t.name })} className="mb-5 break-inside-avoid-page">
          <h2>{t.name}</h2>
          <Line track={t} weeks={page.line.weeks} />
          {t.asks.length > 0 && (
            <p className="text-[12.5px] text-soft">
              {tr("Rules of its classes:")} {t.asks.join("; ")}.
            </p>
          )}
          <ol className="mt-1">
            {t.weeks.map((w) => (
              <li
                key={w.week}
                data-now={w.week === now}
                className="grid grid-cols-[64px_minmax(0,1fr)] border-b border-hair py-1 data-[now=true]:bg-wash"
              >
                <span className="head num text-soft">{tr("Week {{week}}", { week: w.week })}</span>
                <span className="max-w-prose">{w.says}</span>
              </li>
            ))}
          </ol>
        </section>
      ))}
      {may("cost-of-rules") && <Costs season={id} />}
    </>
  );
}

/** Line is the path through the areas, a stretch as wide as its weeks. */
function Line({ track: t, weeks }: { track: S["TrackStory"]; weeks: number }) {
  return (
    <ul
      className="my-1 grid gap-px"
      style={{ gridTemplateColumns: `repeat(${weeks}, minmax(0, 1fr))` }}
      aria-label={`${t.name}: ${t.line.map((s) => tr("{{area}}, week {{from}}{{to}}", { area: word(s.area), from: s.from, to: s.to > s.from ? ` ${tr("to {{to}}", { to: s.to })}` : "" })).join("; ")}`}
    >
      {t.line.map((s, i) => (
        <li
          key={s.from}
          title={tr("{{area}}, week {{from}}{{to}}", {
            area: word(s.area),
            from: s.from,
            to: s.to > s.from ? ` ${tr("to {{to}}", { to: s.to })}` : "",
          })}
          style={{ gridColumn: `${s.from} / ${s.to + 1}` }}
          className={`head overflow-hidden border-t-[3px] pt-0.5 pr-1 text-[12px] leading-[14px] text-ellipsis ${i % 2 ? "border-soft" : "border-ink"}`}
        >
          {word(s.area)}
        </li>
      ))}
    </ul>
  );
}

/** Costs says what each rule takes from the coverage, so that one can choose. */
function Costs({ season: id }: { season: string }) {
  const costs = useAction((_: undefined) => unwrap(client.POST("/api/seasons/{id}/rules/costs", { params: { path: { id } } })));
  const c = costs.data;
  return (
    <section className="no-print mt-4 border-t-[1.5px] border-ink pt-2" aria-label={tr("What the rules cost")}>
      <div className="flex items-center gap-3">
        <h2 className="flex-1">{tr("What the rules cost")}</h2>
        <Button disabled={costs.isPending} onClick={() => costs.mutate(undefined)}>
          {costs.isPending ? tr("Planning without each of them") : c ? tr("Work it out again") : tr("Work it out")}
        </Button>
      </div>
      {costs.error && <p className="text-clay">{costs.error.message}</p>}
      {c && (
        <>
          <p>
            {tr("Coverage found in {{seconds}} s:", { seconds: c.seconds })} <b>{percent(c.coverage)}</b> {tr("as the tracks ask,")}{" "}
            <b>{percent(c.free)}</b> {tr("with nothing asked.")}
          </p>
          {c.rules.length === 0 ? (
            <p className="text-soft">
              {tr("No track asks anything of its evenings. Rules are set with the track, under Timetable and coaches.")}
            </p>
          ) : (
            <table className="grid-lines mt-1">
              <thead>
                <tr>
                  <th>{tr("Rule")}</th>
                  <th>{tr("Required by")}</th>
                  <th className="text-right">{tr("Without it")}</th>
                  <th className="text-right">{tr("Costs")}</th>
                </tr>
              </thead>
              <tbody>
                {c.rules.map((r) => (
                  <tr key={r.id}>
                    <td>{r.words}</td>
                    <td>{r.tracks.join(", ")}</td>
                    <td className="num text-right">{percent(r.coverage)}</td>
                    <td className="num text-right">
                      {r.cost < 0.0005 ? tr("nothing") : tr("{{cost}} points", { cost: decimal(r.cost * 100, 1) })}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </>
      )}
    </section>
  );
}
