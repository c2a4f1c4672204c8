import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import { useClassChanges } from "../../api/changes";
import { client, type S, unwrap } from "../../api/client";
import { clockWords, place, secondsBefore, useSeconds } from "./clock";
import { chime, wakeSound } from "./sound";

/** Clock is the clock on the wall: dark, readable from ten metres, with a sound at every change. */
export default function Clock() {
  const { session = "" } = useParams();
  useClassChanges(session);
  const [part, setPart] = useState<{ from: string; left: number } | null>(null);
  const page = useQuery({
    queryKey: ["clock", session, part],
    queryFn: () => unwrap(client.GET("/api/classes/{id}/clock", { params: { path: { id: session }, query: part ?? {} } })),
    refetchInterval: 120_000,
  });
  if (page.error) return <p className="min-h-screen bg-night p-8 text-3xl text-chalk">{page.error.message}</p>;
  if (!page.data) return <div className="min-h-screen bg-night" />;
  return (
    <Face
      key={JSON.stringify(part)}
      page={page.data}
      session={session}
      started={part !== null}
      onRefit={(from, left) => setPart({ from, left })}
    />
  );
}

function Face(props: { page: S["ClockPage"]; session: string; started: boolean; onRefit: (from: string, left: number) => void }) {
  const { stretches } = props.page;
  const total = secondsBefore(stretches, stretches.length);
  const [running, setRunning] = useState(props.started);
  const [passed, setPassed] = useState(0);
  useSeconds(running, (s) => setPassed((p) => Math.min(total, p + s)));
  const { at, left } = place(stretches, passed);
  const stretch = stretches[at];
  const last = useRef(at);
  useEffect(() => {
    if (at !== last.current) chime(stretch?.rest ? "change" : "start");
    last.current = at;
  }, [at, stretch]);
  useEffect(() => {
    if (running && left <= 3 && left > 0) chime("count");
  }, [left, running]);
  const toggle = useCallback(() => {
    wakeSound();
    if (!running) chime("start");
    setRunning(!running);
  }, [running]);
  const jump = useCallback((to: number) => setPassed(secondsBefore(stretches, to)), [stretches]);
  useEffect(() => {
    function onKey(e: KeyboardEvent) {
      if ((e.target as HTMLElement).matches("a")) return;
      if (e.key === " ") toggle();
      else if (e.key === "ArrowRight") jump(at + 1);
      else if (e.key === "ArrowLeft") jump(at - 1);
      else return;
      e.preventDefault();
    }
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [toggle, jump, at]);
  if (!stretch) {
    return (
      <main className="flex min-h-screen flex-col items-center justify-center gap-6 bg-night text-chalk">
        <p className="head text-5xl">This class has no sheet yet.</p>
        <Link to={`/mat/${props.session}`} className="text-2xl underline">
          Choose what it teaches
        </Link>
      </main>
    );
  }
  const done = passed >= total;
  const minutesLeft = Math.max(1, Math.round((total - passed) / 60));
  return (
    <main className={`flex h-screen flex-col overflow-hidden text-chalk ${stretch.rest ? "bg-[#3a2416]" : "bg-night"}`}>
      <header className="flex items-baseline justify-between px-8 pt-5 text-[3vh]">
        <Link to={`/mat/${props.session}`} className="underline underline-offset-4">
          {props.page.name}
        </Link>
        <span className="num">{clockWords(total - passed)} left of the class</span>
      </header>
      <div className="flex min-h-0 flex-1 flex-col items-center justify-center text-center">
        <p className="head px-4 text-[7.5vh] leading-[1.05] font-semibold">{done ? "Close" : stretch.summary}</p>
        <p
          role="timer"
          aria-label="Time left in this stretch"
          data-running={running}
          className="head num text-[min(47vh,30vw)] leading-[0.92] font-bold tabular-nums"
        >
          {clockWords(left)}
        </p>
        <p className="text-[3.6vh]">{stretch.detail}</p>
        <Pairs page={props.page} round={stretch.round} />
      </div>
      <Line stretches={stretches} passed={passed} total={total} />
      <footer className="flex flex-wrap items-center gap-3 px-8 py-4 text-xl">
        <Big onClick={toggle}>{running ? "Stop" : passed > 0 ? "Go on" : "Start"}</Big>
        <Big onClick={() => jump(at - 1)}>Back</Big>
        <Big onClick={() => jump(at + 1)}>Next</Big>
        <span className="flex-1 text-right text-[2.4vh] text-rule">
          {stretches[at + 1] ? `Next: ${stretches[at + 1]?.summary}` : ""}
          {props.page.fell_out.length > 0 && ` · fell out: ${props.page.fell_out.join(", ")}`}
        </span>
        <Big onClick={() => props.onRefit(stretch.segment, minutesLeft)}>Refit what is left</Big>
      </footer>
    </main>
  );
}

function Big({ onClick, children }: { onClick: () => void; children: string }) {
  return (
    <button
      type="button"
      onClick={onClick}
      className="min-h-[52px] rounded-sm border-2 border-chalk px-5 font-semibold hover:bg-chalk hover:text-night focus-visible:outline-chalk"
    >
      {children}
    </button>
  );
}

function Pairs({ page, round }: { page: S["ClockPage"]; round: number }) {
  const r = page.rotation.rounds[round - 1];
  if (!r) return null;
  return (
    <ul className="mt-3 flex max-w-[92vw] flex-wrap justify-center gap-x-8 text-[3.2vh] leading-snug">
      {r.pairs.map((p) => (
        <li key={p[0]?.id}>{p.map((x) => x.name.split(" ")[0]).join(" – ")}</li>
      ))}
      {r.odd && (
        <li>
          {r.odd} {r.with}
        </li>
      )}
    </ul>
  );
}

function Line({ stretches, passed, total }: { stretches: S["MatStretch"][]; passed: number; total: number }) {
  let x = 0;
  return (
    <svg viewBox="0 0 1000 14" preserveAspectRatio="none" className="h-3.5 w-full px-8" aria-hidden="true">
      {stretches.map((t, i) => {
        const w = (t.seconds / total) * 1000;
        const at = x;
        x += w;
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: a stretch is its number
          <rect key={i} x={at} width={Math.max(0.5, w - 1.5)} height={14} fill={t.rest ? "#7a5a3a" : t.round ? "#9fb8bf" : "#4d5c5e"} />
        );
      })}
      <rect x={(passed / total) * 1000 - 2} width={4} height={14} fill="#fff" />
    </svg>
  );
}
