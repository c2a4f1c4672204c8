import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Empty, SplitPane } from "../../kit/SplitPane";
import { tr, word } from "../../kit/tr";
import { date, decimal, percent } from "../../kit/words";
import { Chances } from "./Chances";
import { Compare } from "./Compare";
import { CoverageBar } from "./CoverageBar";
import { CoverageLine } from "./CoverageLine";
import { Dates } from "./Dates";
import { LaySeason } from "./LaySeason";
import { Load } from "./Load";
import { Misses } from "./Misses";
import { Trial, together } from "./Moves";
import { Planning } from "./Planning";
import { Publishing } from "./Publishing";
import { SeasonGrid } from "./SeasonGrid";
import { Story } from "./Story";
import type { Carried, Spot } from "./spot";
import { Taught } from "./Taught";
import { Timetable } from "./Timetable";
import { UnitLeaf } from "./UnitForm";
import { Units } from "./Units";
import { Why } from "./Why";
import { Year } from "./Year";

const views = [
  ["", tr("The plan"), "get-season"],
  ["story", tr("Read it"), "season-story"],
  ["misses", tr("Who misses what"), "who-misses-what"],
  ["taught", tr("Taught"), "season-taught"],
  ["year", tr("The year"), "see-year"],
  ["dates", tr("Dates"), "set-dates"],
  ["load", tr("Load"), "get-season"],
  ["ways", tr("Block or spiral"), "compare-ways"],
  ["chances", tr("Who comes"), "list-chances"],
  ["timetable", tr("Timetable and coaches"), "get-timetable"],
  ["units", tr("Units"), "list-units"],
  ["publish", tr("Publish"), "preview-publishing"],
] as const;

/** Season: which class teaches what, who leads it, and why. */
export default function Season() {
  const { id } = useParams();
  const [search, setSearch] = useSearchParams();
  const view = search.get("view") ?? "";
  const unit = search.get("unit") ?? "";
  const openUnit = (x?: string) => setSearch(x ? { view: "units", unit: x } : { view: "units" }, { replace: true });
  const may = useMay();
  const [laying, lay] = useState(false);
  const [spot, setSpot] = useState<Spot | null>(null);
  const [carried, carry] = useState<Carried | null>(null);
  const [target, aim] = useState<Spot | null>(null);
  const list = useQuery({ queryKey: ["seasons"], queryFn: () => unwrap(client.GET("/api/seasons")) });
  const open = id ?? list.data?.[0]?.id;
  const page = useQuery({
    queryKey: ["season", open],
    enabled: !!open,
    queryFn: () => unwrap(client.GET("/api/seasons/{id}", { params: { path: { id: open ?? "" } } })),
  });
  const p = page.data;
  function drop() {
    carry(null);
    aim(null);
  }
  function pick(s: Spot | null) {
    if (carried && s) aim(s);
    else setSpot(s);
  }
  if (!id && list.data && list.data.length === 0) {
    return (
      <SplitPane
        left={
          <>
            <div className="flex flex-wrap items-center gap-3">
              <h1>{tr("No season yet")}</h1>
              {may("lay-season") && (
                <Button look="main" onClick={() => lay(true)}>
                  {tr("New season")}
                </Button>
              )}
            </div>
            <p className="mt-1 text-soft">
              {tr("A season is some weeks of the weekly timetable. Make one, and the planner says which class teaches what.")}
            </p>
            {may("get-timetable") && <Views base="/season" view={view || "timetable"} only={["timetable", "units"]} />}
            {may("get-timetable") && (view === "units" ? <Units season="" open={unit} onOpen={openUnit} /> : <Timetable />)}
          </>
        }
        right={
          laying ? (
            <LaySeason onDone={() => lay(false)} />
          ) : view === "units" && unit ? (
            <UnitLeaf season="" id={unit} onDone={openUnit} />
          ) : (
            <Empty title={tr("Nothing planned")} />
          )
        }
      />
    );
  }
  return (
    <SplitPane
      prints="left"
      left={
        <>
          {page.error && <p className="text-clay">{page.error.message}</p>}
          {p && (
            <div className={view === "" ? "season-page" : undefined}>
              <Head page={p} others={list.data ?? []} onLay={() => lay(true)} />
              <Views base={`/season/${p.line.id}`} view={view} />
              {view === "" && (
                <>
                  <Planning page={p} onDone={() => setSpot(null)} />
                  <SeasonGrid page={p} spot={target ?? spot} onSpot={pick} carried={carried} onCarry={carry} onDrop={aim} onLeave={drop} />
                </>
              )}
              {view === "story" && <Story page={p} />}
              {view === "misses" && <Misses season={p.line.id} />}
              {view === "taught" && (
                <>
                  <CoverageLine season={p.line.id} />
                  <Taught season={p.line.id} />
                </>
              )}
              {view === "year" && <Year />}
              {view === "dates" && <Dates page={p} />}
              {view === "load" && <Load page={p} />}
              {view === "ways" && <Compare page={p} />}
              {view === "chances" && <Chances season={p.line.id} />}
              {view === "timetable" && <Timetable page={p} />}
              {view === "units" && <Units season={p.line.id} open={unit} onOpen={openUnit} />}
              {view === "publish" && <Publishing season={p.line.id} />}
            </div>
          )}
        </>
      }
      right={
        laying ? (
          <LaySeason onDone={() => lay(false)} />
        ) : p && view === "units" && unit ? (
          <UnitLeaf season={p.line.id} id={unit} onDone={openUnit} />
        ) : p && view === "" && carried ? (
          <Trial key={JSON.stringify([carried, target])} page={p} carried={carried} target={target} onDone={drop} />
        ) : p && view === "" && spot ? (
          <Why key={`${spot.week} ${spot.class}`} page={p} spot={spot} onCarry={carry} />
        ) : (
          p && <Coverage page={p} />
        )
      }
    />
  );
}

function Views({ base, view, only }: { base: string; view: string; only?: string[] }) {
  const may = useMay();
  return (
    <nav aria-label={tr("Views of the season")} className="no-print my-1.5 flex flex-wrap gap-x-4 border-b border-hair">
      {views
        .filter(([key, , needs]) => may(needs) && (!only || only.includes(key)))
        .map(([key, name]) => (
          <Link
            key={key}
            to={`${base}${key && `?view=${key}`}`}
            aria-current={view === key ? "page" : undefined}
            className={`head pb-0.5 text-[14px] no-underline ${view === key ? "border-b-2 border-ink font-bold" : "font-medium text-soft hover:text-ink"}`}
          >
            {name}
          </Link>
        ))}
    </nav>
  );
}

function Head({ page, others, onLay }: { page: S["SeasonPage"]; others: S["SeasonLine"][]; onLay: () => void }) {
  const may = useMay();
  return (
    <>
      <div className="flex flex-wrap items-center gap-x-3.5 gap-y-1">
        <h1>{page.line.name}</h1>
        <span className="cap">
          {tr("{{weeks}} weeks · {{start}} to {{end}}", { weeks: page.line.weeks, start: date(page.line.start), end: date(page.line.end) })}
        </span>
        <span className="text-[12.5px] text-soft">
          {page.published === 0
            ? tr("not published")
            : page.waiting === 0
              ? tr("published, number {{published}}", { published: page.published })
              : tr("published, number {{published}}; {{waiting}} classes changed since", {
                  published: page.published,
                  waiting: page.waiting,
                })}
        </span>
        <span className="flex-1" />
        {may("lay-season") && (
          <Button className="no-print" onClick={onLay}>
            {tr("New season")}
          </Button>
        )}
      </div>
      {others.length > 1 && (
        <p className="no-print text-[12.5px] text-soft">
          {tr("Other seasons:")}{" "}
          {others
            .filter((s) => s.id !== page.line.id)
            .map((s) => (
              <Link key={s.id} className="link mr-3" to={`/season/${s.id}`}>
                {s.name}
              </Link>
            ))}
        </p>
      )}
    </>
  );
}

function Coverage({ page }: { page: S["SeasonPage"] }) {
  if (!page.line.planned) {
    return (
      <Empty title={tr("Not planned yet")}>
        <p>
          {tr(
            "{{students}} students still need {{needs}} things that their next rank asks for. Press Plan: every class gets what helps most, prerequisites first, with a coach who is there and signed off.",
            { students: page.explained.students, needs: page.explained.needs },
          )}
        </p>
      </Empty>
    );
  }
  return (
    <>
      <h2>{tr("Expected coverage")}</h2>
      {page.explained.needs === 0 ? (
        <p>
          {tr(
            "There is nothing to cover: no student's next rank asks for a unit that can be planned here. Below it says what was left out and why; curricula and units say what is asked.",
          )}
        </p>
      ) : (
        <CoverageBar coverage={page.line.coverage} bound={page.bound} planned={page.as_planned} explained={page.explained} />
      )}
      {page.breaks.length > 0 && (
        <section className="mt-3" data-breaks>
          <h2 className="text-clay">{tr("Broken rules")}</h2>
          <ul>
            {together(page.breaks).map((b) => (
              <li key={`${b.week} ${b.what}`} className="border-b border-hair py-1">
                <b>
                  {b.names.some(Boolean)
                    ? tr("Week {{week}}, {{names}}.", { week: b.week, names: b.names.join(tr(" and ")) })
                    : tr("By week {{week}}.", { week: b.week })}
                </b>{" "}
                {b.what} {b.own && <span className="text-soft">{tr("It can be published so.")}</span>}
              </li>
            ))}
          </ul>
        </section>
      )}
      <p className="mt-3 text-soft">
        {tr("Pick a class in the plan to see why it stands there, to move what it teaches, or to repair the plan.")}
      </p>
      <h2 className="mt-4">{tr("What else counts")}</h2>
      <table className="grid-lines mt-1">
        <tbody>
          {page.scores.map((s) => (
            <tr key={s.name}>
              <td className="w-1/4">{word(s.name)}</td>
              <td className="num w-16 text-right">{percent(s.value)}</td>
              <td className="text-[12.5px] text-soft">
                {tr("{{summary}}. Worth up to {{weight}}% of coverage.", { summary: s.summary, weight: decimal(s.weight * 100, 0) })}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {page.unplaced.length > 0 && (
        <>
          <h2 className="mt-4">{tr("Left out")}</h2>
          {[...new Set(page.unplaced.map((u) => u.why))].map((why) => {
            const units = page.unplaced.filter((u) => u.why === why);
            return (
              <p key={why} className="border-b border-hair py-1">
                {units.map((u) => u.name).join(" · ")} <span className="block text-[13px] text-soft">{why}</span>
              </p>
            );
          })}
        </>
      )}
    </>
  );
}
