import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense } from "react";
import { Link } from "react-router";
import { useMe } from "../api/actions";
import { client, type S, unwrap } from "../api/client";
import { SplitPane } from "../kit/SplitPane";
import { tr, word } from "../kit/tr";
import { date, percent, shortDate } from "../kit/words";

const CoverageLine = lazy(() => import("./season/CoverageLine").then((m) => ({ default: m.CoverageLine })));

/** Today says what needs a person, the most pressing first, and shows the week beside it. */
export default function Today() {
  const me = useMe();
  const page = useQuery({ queryKey: ["today"], queryFn: () => unwrap(client.GET("/api/today")), refetchInterval: 120_000 });
  const p = page.data;
  return (
    <SplitPane
      wide="even"
      left={
        <>
          <div className="flex items-baseline gap-3">
            <h1>{tr("Today")}</h1>
            {p && <span className="text-soft">{date(p.on)}</span>}
          </div>
          {page.error && <p className="text-clay">{page.error.message}</p>}
          {p && p.lines.length === 0 && (
            <p className="mt-2 text-[16px] text-moss">
              {tr("Nothing waits for you, {{split}}. What will is computed again as it happens.", { split: me.name.split(" ")[0] })}
            </p>
          )}
          {p && p.lines.length > 0 && (
            <ol aria-label={tr("What needs you")} className="mt-1 border-t-[1.5px] border-ink">
              {p.lines.map((l) => (
                <Line key={l.area + l.what} line={l} />
              ))}
            </ol>
          )}
        </>
      }
      right={p && <Week page={p} />}
    />
  );
}

function Line({ line: l }: { line: S["AppTodayLine"] }) {
  return (
    <li className="grid grid-cols-[74px_minmax(0,1fr)_auto] items-start gap-x-3 border-b border-hair py-2 max-sm:grid-cols-[minmax(0,1fr)_auto]">
      <span className="cap pt-0.5 max-sm:col-span-2">
        {word(l.area)}
        {l.due && <span className="block font-sans text-[12px] normal-case max-sm:ml-2 max-sm:inline">{shortDate(l.due)}</span>}
      </span>
      <span>
        <b className="text-[15px]">{l.what}</b>
        <span className="block max-w-prose text-[13.5px] leading-[18px] text-soft">{l.why}</span>
      </span>
      <Link
        to={l.to}
        className="inline-flex min-h-[29px] items-center rounded-sm border-[1.5px] border-lake px-2.5 font-semibold text-lake no-underline hover:bg-wash"
        aria-label={`${l.action}: ${l.what}`}
      >
        {l.action}
      </Link>
    </li>
  );
}

/** Week is the seven days from today with who leads, how many will likely come and what is taught, and how the season stands. */
function Week({ page: p }: { page: S["AppTodayPage"] }) {
  const days = p.days.filter((d) => d.classes.length > 0);
  return (
    <>
      <h2>{tr("The week from here")}</h2>
      {days.length === 0 && <p className="text-soft">{tr("No classes in the next seven days.")}</p>}
      <table className="grid-lines mt-1" aria-label={tr("The week from here")}>
        <tbody>
          {days.map((d) =>
            d.classes.map((c, i) => (
              <tr key={c.session} className="align-top">
                <td className="w-20 whitespace-nowrap">{i === 0 && <b className="head">{date(d.on).replace(/ \d{4}$/, "")}</b>}</td>
                <td className="w-36">
                  <Link className="link" to={`/mat/${c.session}`}>
                    {c.start} {c.name}
                  </Link>
                  <span className={`block text-[12.5px] ${c.state === "no coach" ? "text-clay" : "text-soft"}`}>
                    {c.state === "closed" ? tr("closed") : c.lead || (c.state === "no coach" ? tr("no coach") : "")}
                  </span>
                </td>
                <td className="text-[13px] leading-[17px]">
                  {c.summary || (c.state === "not planned" ? <span className="text-soft">{tr("not planned")}</span> : "")}
                </td>
                <td className="num w-14 text-right whitespace-nowrap" title={tr("People expected, by their chances of coming")}>
                  {c.state !== "closed" && c.expected > 0.5 && `≈ ${Math.round(c.expected)}`}
                </td>
              </tr>
            )),
          )}
        </tbody>
      </table>
      {p.season && (
        <section className="mt-4">
          <h2>
            <Link className="link" to={`/season/${p.season.id}`}>
              {p.season.name}
            </Link>
            {tr(", week {{week}} of {{weeks}}", { week: p.season.week, weeks: p.season.weeks })}
          </h2>
          {p.season.planned && p.season.published === 0 && (
            <p>
              {tr("{{coverage}} of what is asked is expected to be covered by its end", { coverage: percent(p.season.coverage) })}
              {tr(", once it is published")}.
            </p>
          )}
          {p.season.published > 0 && (
            <Suspense fallback={null}>
              <CoverageLine season={p.season.id} />
            </Suspense>
          )}
        </section>
      )}
      {p.later.map((s) => (
        <p key={s.id} className="mt-1">
          {tr("Then")}{" "}
          <Link className="link" to={`/season/${s.id}`}>
            {s.name}
          </Link>
          .
        </p>
      ))}
    </>
  );
}
