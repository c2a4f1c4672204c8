import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { client, type S, unwrap } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { FirstStep } from "../../kit/FirstStep";
import { Note } from "../../kit/SplitPane";
import { tr, word } from "../../kit/tr";
import { shortDate } from "../../kit/words";

/** seenWords says how often a season gives something. */
export function seenWords(s: S["YearSeen"]): string {
  const parts: [number, string][] = [
    [s.taught, "taught"],
    [s.reviewed, "reviewed"],
    [s.planned, "planned"],
    [s.missed, tr("not reached")],
  ];
  return (
    parts
      .filter(([n]) => n > 0)
      .map(([n, what]) => `${n} ${what}`)
      .join(", ") || "nothing"
  );
}

/** Year is four seasons beside what is required: what nobody sees for a year stands first. */
export function Year() {
  const [all, showAll] = useState(false);
  const page = useQuery({ queryKey: ["year"], queryFn: () => unwrap(client.GET("/api/year")) });
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  const p = page.data;
  if (!p) return null;
  if (p.ranks.length === 0)
    return (
      <FirstStep
        title={tr("Nothing to set the year beside")}
        ways={[
          ["/curricula", tr("Write a curriculum")],
          ["/people", tr("Add people")],
        ]}
      >
        {tr(
          "Once a curriculum is published and somebody works toward its rank, this says what each season teaches of it, and what none does.",
        )}
      </FirstStep>
    );
  const ranks = all ? p.ranks : p.ranks.filter((r) => r.unseen > 0);
  return (
    <div data-year>
      {p.unseen === 0 ? (
        <Note>{tr("Everything that is required is taught or reviewed in one of these seasons.")}</Note>
      ) : (
        <Note title={tr("{{unseen}} of what is required is in none of these seasons;", { unseen: p.unseen })} tone="clay">
          {p.waiting === 0
            ? tr("nobody has any of it still open.")
            : tr("{{waiting}} of it somebody has still open. Plan it into the next season, or take a class for it.", {
                waiting: p.waiting,
              })}
        </Note>
      )}
      <label className="no-print flex gap-1.5">
        <input type="checkbox" checked={all} onChange={(e) => showAll(e.target.checked)} />
        {tr("Everything that is required, also what is seen")}
      </label>
      {ranks.map((r) => (
        <section key={r.curriculum} className="mt-3">
          <h2>
            <Belt belt={r.belt} rank={r.rank} />
            <Link className="no-underline hover:underline" to={`/curricula/${r.curriculum}`}>
              {r.rank}
            </Link>{" "}
            <span className="num text-[13px] font-normal text-soft">
              {tr("{{ladder}}; {{students}} {{students2}} toward it; {{unseen}} of {{rows}} in no season", {
                ladder: r.ladder,
                students: r.students,
                students2: r.students === 1 ? tr("works") : tr("work"),
                unseen: r.unseen,
                rows: r.rows.length,
              })}
            </span>
          </h2>
          <div className="relative overflow-x-auto">
            <table className="grid-lines w-full">
              <thead>
                <tr>
                  <th>{tr("Technique")}</th>
                  <th className="!text-right">{tr("Open for")}</th>
                  {!all && <th>{tr("Unit that teaches it")}</th>}
                  {all &&
                    p.seasons.map((s) => (
                      <th key={s.id} className="w-32">
                        <Link className="no-underline hover:underline" to={`/season/${s.id}`}>
                          {s.name}
                        </Link>
                        <span className="block text-[11.5px] font-normal text-soft">
                          {shortDate(s.start)}, {word(s.state)}
                        </span>
                      </th>
                    ))}
                </tr>
              </thead>
              <tbody>
                {r.rows
                  .filter((x) => all || x.unseen)
                  .map((x) => (
                    <tr key={x.technique} className="align-top">
                      <td>
                        <Link className="link" to={`/library/${x.technique}`}>
                          {x.name}
                        </Link>
                        {x.or.length > 0 && (
                          <span className="text-soft">
                            {" "}
                            {tr("or")} {x.or.join(", ")}
                          </span>
                        )}
                      </td>
                      <td className={`num text-right ${x.unseen && x.open > 0 ? "font-semibold text-clay" : "text-soft"}`}>
                        {x.open || ""}
                      </td>
                      {!all && (
                        <td>
                          {x.units.length === 0 && <span className="text-clay">{tr("none: no plan can have it")}</span>}
                          {x.units.map((n) => (
                            <Link key={n.id} className="link mr-3" to={`/season?view=units&unit=${n.id}`}>
                              {n.name}
                            </Link>
                          ))}
                        </td>
                      )}
                      {all &&
                        x.seen.map((s, i) => (
                          <td
                            key={p.seasons[i]?.id}
                            className={`text-[12.5px] ${s.taught + s.reviewed + s.planned > 0 ? "" : "text-soft"}`}
                          >
                            {seenWords(s)}
                          </td>
                        ))}
                    </tr>
                  ))}
              </tbody>
            </table>
          </div>
        </section>
      ))}
      <p className="mt-2 text-[12.5px] text-soft">
        {tr(
          "Of classes that were reported, what they reached counts; of the others, what their plan says. A variant counts as what it stands for.",
        )}
      </p>
    </div>
  );
}
