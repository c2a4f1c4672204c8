import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { client, type S, unwrap } from "../../api/client";
import { Empty } from "../../kit/SplitPane";
import { inLanguage, tr, word } from "../../kit/tr";
import { date } from "../../kit/words";

const words: Record<S["TaughtUnit"]["reached"], [string, string]> = {
  whole: ["●", tr("reached")],
  part: ["◐", tr("in part")],
  not: ["○", tr("not reached")],
  unknown: ["?", tr("not reported")],
  besides: ["+", tr("not planned")],
};

function count(t: S["TaughtTotals"]): string {
  const parts = [tr("{{whole}} of {{planned}} planned units reached", { whole: t.whole, planned: t.planned })];
  if (t.part) parts.push(tr("{{part}} in part", { part: t.part }));
  if (t.not) parts.push(tr("{{not}} not", { not: t.not }));
  if (t.unknown) parts.push(tr("{{unknown}} not reported", { unknown: t.unknown }));
  if (t.besides) parts.push(tr("{{besides}} besides", { besides: t.besides }));
  return parts.join(" · ");
}

/** Taught is the plan against what was taught, week by week. */
export function Taught({ season }: { season: string }) {
  const page = useQuery({
    queryKey: ["season", season, "taught"],
    queryFn: () => unwrap(client.GET("/api/seasons/{id}/taught", { params: { path: { id: season } } })),
  });
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  if (!page.data) return null;
  const weeks = page.data.weeks.filter((w) => w.lines.length > 0);
  if (weeks.length === 0)
    return (
      <Empty title={tr("Nothing was held yet")}>
        {tr("As classes of this season are held and reported, what they reached stands here beside the plan.")}
      </Empty>
    );
  return (
    <div>
      <p className="num mt-1 flex flex-wrap gap-x-4">
        <span className="flex-1">{count(page.data.totals)}.</span>
        <a className="link no-print text-[12.5px]" href={inLanguage(`/api/seasons/${season}/report.pdf`)} download>
          {tr("Report (PDF)")}
        </a>
        <a className="link no-print text-[12.5px]" href={inLanguage(`/api/seasons/${season}/report.html`)} download>
          {tr("as HTML")}
        </a>
      </p>
      <p className="text-[12.5px] text-soft">
        {Object.values(words)
          .map(([sign, w]) => `${sign} ${w}`)
          .join(" · ")}
      </p>
      {weeks.map((w) => (
        <section key={w.week} className="mt-3" data-week={w.week}>
          <h2>
            {tr("Week {{week}}", { week: w.week })} <span className="num text-[13px] font-normal text-soft">{count(w.totals)}</span>
          </h2>
          <table className="grid-lines w-full">
            <tbody>
              {w.lines.map((l) => (
                <tr key={l.session} className="align-top">
                  <td className="w-36 whitespace-nowrap">
                    <Link className="link" to={`/mat/${l.session}?view=after`}>
                      {date(l.on)}
                    </Link>
                    <span className="block text-[12px] text-soft">{l.class}</span>
                  </td>
                  <td>
                    {l.closed && <span className="text-soft">{tr("closed: {{closed}}", { closed: l.closed })}</span>}
                    {l.units.map((u) => (
                      <div key={u.unit + u.kind}>
                        <span aria-hidden="true" className="mr-1.5 inline-block w-3 text-center">
                          {words[u.reached][0]}
                        </span>
                        {word(u.kind)} {u.name}{" "}
                        <span className={u.reached === "not" ? "text-clay" : "text-soft"}>{u.short || words[u.reached][1]}</span>
                      </div>
                    ))}
                  </td>
                  <td className="w-40 text-soft">
                    {l.lead}
                    {l.planned && <span className="block text-[12px]">{tr("for {{planned}}", { planned: l.planned })}</span>}
                  </td>
                  <td className="num w-16 text-right text-soft">{l.here > 0 ? tr("{{here}} here", { here: l.here }) : ""}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      ))}
    </div>
  );
}
