import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { client, type S, take } from "../../api/client";
import { useDo, useMay } from "../../api/use";
import { Ask } from "../../kit/Ask";
import { Button } from "../../kit/Button";
import { Empty, Leaves } from "../../kit/Leaves";
import { date, percent } from "../../kit/words";
import { LaySeason } from "./LaySeason";
import { SeasonGrid } from "./SeasonGrid";
import { Why } from "./Why";

export type Spot = { week: number; class: string };

/** Season: which class teaches what, who leads it, and why. */
export default function Season() {
  const { id } = useParams();
  const may = useMay();
  const [laying, lay] = useState(false);
  const [spot, setSpot] = useState<Spot | null>(null);
  const list = useQuery({ queryKey: ["seasons"], queryFn: () => take(client.GET("/api/seasons")) });
  const open = id ?? list.data?.[0]?.id;
  const page = useQuery({
    queryKey: ["season", open],
    enabled: !!open,
    queryFn: () => take(client.GET("/api/seasons/{id}", { params: { path: { id: open ?? "" } } })),
  });
  const none = list.data && list.data.length === 0;
  return (
    <Leaves
      prints="left"
      left={
        <>
          {page.error && <p className="text-clay">{page.error.message}</p>}
          {none && (
            <Empty title="No season yet">
              <p>A season is some weeks of the weekly timetable. Lay one, and the planner says which class teaches what.</p>
              {may("lay-season") && !laying && (
                <Button look="main" onClick={() => lay(true)}>
                  Lay a season
                </Button>
              )}
            </Empty>
          )}
          {page.data && <Sheet page={page.data} spot={spot} onSpot={setSpot} others={list.data ?? []} onLay={() => lay(true)} />}
        </>
      }
      right={
        laying ? (
          <LaySeason onDone={() => lay(false)} />
        ) : page.data && spot ? (
          <Why key={`${spot.week} ${spot.class}`} season={page.data.line.id} spot={spot} />
        ) : (
          page.data && <Coverage page={page.data} />
        )
      }
    />
  );
}

function Sheet({
  page,
  spot,
  onSpot,
  others,
  onLay,
}: {
  page: S["SeasonPage"];
  spot: Spot | null;
  onSpot: (s: Spot | null) => void;
  others: S["SeasonLine"][];
  onLay: () => void;
}) {
  const may = useMay();
  const plan = useDo(
    () => take(client.POST("/api/seasons/{id}/plan", { params: { path: { id: page.line.id } } })),
    () => `Planned ${page.line.name}.`,
  );
  return (
    <>
      <div className="flex flex-wrap items-center gap-x-3.5 gap-y-1">
        <h1>{page.line.name}</h1>
        <span className="cap">
          {page.line.weeks} weeks · {date(page.line.start)} to {date(page.line.end)}
        </span>
        <span className="flex-1" />
        {may("lay-season") && <Button onClick={onLay}>Lay another</Button>}
        {may("plan-season") && (
          <Button look="main" disabled={plan.isPending} onClick={() => plan.mutate(undefined, { onSuccess: () => onSpot(null) })}>
            {plan.isPending ? "Planning…" : page.line.planned ? "Plan again" : "Plan"}
          </Button>
        )}
      </div>
      {plan.error && <p className="text-clay">{plan.error.message}</p>}
      {others.length > 1 && (
        <p className="text-[12.5px] text-soft">
          {others.map((s) => (
            <Link key={s.id} className="link mr-3" to={`/season/${s.id}`}>
              {s.name}
            </Link>
          ))}
        </p>
      )}
      <SeasonGrid page={page} spot={spot} onSpot={onSpot} />
      {page.line.planned && <Below page={page} />}
    </>
  );
}

function Below({ page }: { page: S["SeasonPage"] }) {
  return (
    <div className="mt-5 grid gap-6 xl:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]">
      <section>
        <h2>Who is likely to miss most</h2>
        <table className="grid-lines mt-1">
          <thead>
            <tr>
              <th>Student</th>
              <th className="text-right">Covered</th>
              <th>Least likely to meet</th>
            </tr>
          </thead>
          <tbody>
            {page.students.slice(0, 8).map((s) => (
              <tr key={s.id}>
                <td className="whitespace-nowrap">
                  <Link className="no-underline hover:underline" to={`/ledger/${s.id}`}>
                    {s.name}
                  </Link>
                </td>
                <td className="num text-right">{percent(s.mean)}</td>
                <td className="text-soft">{s.lowest.map((u) => u.name).join(", ")}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      <section>
        <h2>Load</h2>
        <table className="grid-lines mt-1">
          <thead>
            <tr>
              <th>Coach</th>
              <th className="text-right">Classes</th>
              <th className="text-right">Share</th>
              <th className="text-right">Wanted</th>
              <th className="text-right">Most a week</th>
            </tr>
          </thead>
          <tbody>
            {page.load.map((l) => (
              <tr key={l.id}>
                <td className="whitespace-nowrap">{l.name}</td>
                <td className="num text-right">{l.classes}</td>
                <td className="num text-right">{percent(l.share)}</td>
                <td className="num text-right text-soft">{percent(l.wanted)}</td>
                <td className="num text-right">
                  {l.most} <span className="text-soft">of {l.limit}</span>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
    </div>
  );
}

function Coverage({ page }: { page: S["SeasonPage"] }) {
  if (!page.line.planned) {
    return (
      <Empty title="Not planned yet">
        <p>
          {page.explained.students} students still need {page.explained.needs} things that their next rank asks for. Press Plan: every class
          gets what helps most, prerequisites first, with a coach who is there and signed off.
        </p>
      </Empty>
    );
  }
  return (
    <>
      <h2>Expected coverage</h2>
      <CoverageBar coverage={page.line.coverage} bound={page.bound} explained={page.explained} />
      <p className="mt-3 text-soft">Pick a class in the plan to see why it stands there, or to cancel it.</p>
      {page.unplaced.length > 0 && (
        <>
          <h2 className="mt-4">Left out</h2>
          <table className="grid-lines mt-1">
            <tbody>
              {page.unplaced.map((u) => (
                <tr key={u.unit} className="align-top">
                  <td className="w-2/5">{u.name}</td>
                  <td className="text-soft">{u.why}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </>
  );
}

/** CoverageBar shows the number, the most any plan could reach, and where both come from. */
export function CoverageBar({ coverage, bound, explained }: { coverage: number; bound: number; explained?: S["Explained"] }) {
  return (
    <div>
      <p className="flex items-baseline gap-3">
        <span className="head num text-[42px] leading-[46px] font-bold" data-coverage>
          {explained ? (
            <Ask label="Where the coverage comes from" number={percent(coverage)}>
              <p>{explained.formula}</p>
              <p className="num mt-1 text-soft">
                {explained.students} students, {explained.needs} open needs. The bound shares all teaching minutes out at their best yield,
                with order and prerequisites left out: no plan can reach more.
              </p>
            </Ask>
          ) : (
            percent(coverage)
          )}
        </span>
        <span className="text-soft">no plan can reach more than {percent(bound)}</span>
      </p>
      <svg viewBox="0 0 100 6" preserveAspectRatio="none" className="mt-1.5 h-2.5 w-full" aria-hidden="true">
        <path d="M0 3H100" stroke="var(--color-rule)" strokeWidth={0.8} />
        <rect width={coverage * 100} height={6} fill="var(--color-ink)" />
        <rect x={bound * 100 - 0.3} width={0.6} height={6} fill="var(--color-clay)" />
      </svg>
    </div>
  );
}
