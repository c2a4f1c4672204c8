import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useAction, useMay, useToast } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { tr } from "../../kit/tr";
import { decimal, percent } from "../../kit/words";

/** Planning starts the planner, shows how far it is with the best so far, and stops it. */
export function Planning({ page, onDone }: { page: S["SeasonPage"]; onDone: () => void }) {
  const may = useMay();
  const { say } = useToast();
  const queries = useQueryClient();
  const id = page.line.id;
  const [waiting, wait] = useState(false);
  const [seconds, setSeconds] = useState("0");
  const [climb, climbed] = useState<[share: number, coverage: number][]>([]);
  const state = useQuery({
    queryKey: ["planning", id],
    enabled: may("get-planning"),
    queryFn: () => unwrap(client.GET("/api/seasons/{id}/planning", { params: { path: { id } } })),
    refetchInterval: waiting ? 250 : false,
  });
  const start = useAction(
    (_: undefined) => unwrap(client.POST("/api/seasons/{id}/planning", { params: { path: { id } }, body: { seconds: Number(seconds) } })),
    undefined,
    () => wait(true),
  );
  const stop = useAction((_: undefined) => unwrap(client.DELETE("/api/seasons/{id}/planning", { params: { path: { id } } })));
  const now = state.data;
  const running = now?.state === "running";
  useEffect(() => {
    if (now?.state === "running" && now.coverage > 0) climbed((c) => [...c, [now.share, now.coverage]]);
    else climbed([]);
  }, [now]);
  useEffect(() => {
    if (running) wait(true);
    if (!waiting || !now || running) return;
    wait(false);
    if (now.state === "failed") say({ words: now.summary ?? tr("The planning failed."), bad: true });
    else say({ words: tr("Planned {{name}}.", { name: page.line.name }), change: now.change });
    onDone();
    void queries.invalidateQueries();
  }, [now, running, waiting, say, queries, onDone, page.line.name]);
  if (!may("plan-season")) return null;
  return (
    <div className="no-print my-1 flex flex-wrap items-center gap-2.5">
      <Button look="main" disabled={running || start.isPending} onClick={() => start.mutate(undefined)}>
        {running ? tr("Planning…") : page.line.planned ? tr("Plan again") : tr("Plan")}
      </Button>
      {running ? (
        <>
          <progress className="h-2 w-40" value={now?.share ?? 0} aria-label={tr("Planning")} />
          <span className="num" data-best>
            {tr("best so far {{coverage}}", { coverage: percent(now?.coverage ?? 0) })}
          </span>
          {climb.length > 2 && <Climb points={climb} />}
          <Button onClick={() => stop.mutate(undefined)}>{tr("Stop with the best so far")}</Button>
        </>
      ) : (
        <label className="flex items-center gap-1.5 text-[13px] text-soft">
          {tr("Look for")}
          <select
            className="rounded-sm border border-rule bg-white px-1 py-0.5"
            value={seconds}
            onChange={(e) => setSeconds(e.target.value)}
            data-label="Look for"
          >
            <option value="0">{tr("a second")}</option>
            <option value="5">{tr("five seconds")}</option>
            <option value="20">{tr("twenty seconds")}</option>
            <option value="60">{tr("a minute")}</option>
          </select>
          {page.line.planned && tr("What is past or pinned stays.")}
        </label>
      )}
      {now?.state === "failed" && !waiting && <span className="text-clay">{now.summary}</span>}
    </div>
  );
}

/** Climb is the best coverage found against the share of the work done, in steps: where it lies flat, more time will bring little. */
function Climb({ points }: { points: [share: number, coverage: number][] }) {
  const low = points[0]?.[1] ?? 0;
  const high = Math.max(...points.map(([, c]) => c), low + 0.001);
  const x = (share: number) => 1 + share * 138;
  const y = (c: number) => 25 - ((c - low) / (high - low)) * 22;
  let line = `M${x(points[0]?.[0] ?? 0)} ${y(low)}`;
  for (const [share, c] of points.slice(1)) line += `H${x(share)}V${y(c)}`;
  return (
    <svg
      viewBox="0 0 140 28"
      className="h-7 w-[140px]"
      role="img"
      aria-label={tr("Best so far: from {{low}} to {{high}}", { low: `${decimal(low * 100, 1)}%`, high: `${decimal(high * 100, 1)}%` })}
    >
      <path d="M0 26.5h140" stroke="var(--color-rule)" strokeWidth={1} />
      <path d={line} fill="none" stroke="var(--color-lake)" strokeWidth={1.5} />
    </svg>
  );
}
