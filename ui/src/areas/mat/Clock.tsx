import { useCallback, useEffect, useRef } from "react";
import { Link, useParams } from "react-router";
import type { S } from "../../api/client";
import { tr } from "../../kit/tr";
import { clockWords, place } from "./clock";
import { chime, wakeSound } from "./sound";
import { useAwake, useClock } from "./useClock";

/** Clock is the clock on the wall: dark, readable from ten metres, with a sound at every change. Phones drive it. */
export default function Clock() {
  const { session = "" } = useParams();
  const clock = useClock(session);
  useAwake();
  if (!clock.page && clock.error) return <p className="min-h-screen bg-night p-8 text-3xl text-chalk">{clock.error.message}</p>;
  if (!clock.page) return <div className="min-h-screen bg-night" />;
  return <Face clock={clock} page={clock.page} session={session} />;
}

/** useChimes sounds at every change of stretch, and for each of the last three seconds. */
export function useChimes(at: number, left: number, rest: boolean, running: boolean) {
  const last = useRef(at);
  useEffect(() => {
    if (at !== last.current) chime(rest ? "change" : "start");
    last.current = at;
  }, [at, rest]);
  useEffect(() => {
    if (running && left <= 3 && left > 0) chime("count");
  }, [left, running]);
}

function Face({ clock, page, session }: { clock: ReturnType<typeof useClock>; page: S["ClockPage"]; session: string }) {
  const { stretches, total, passed, running, turn } = clock;
  const { at, left } = place(stretches, passed);
  const stretch = stretches[at];
  useChimes(at, left, !!stretch?.rest, running);
  const toggle = useCallback(() => {
    wakeSound();
    if (!running) chime("start");
    void turn({ do: running ? "stop" : "start" });
  }, [running, turn]);
  const jump = useCallback(
    (to: number) => void turn({ do: "jump", to: Math.max(0, Math.min(to, stretches.length - 1)) }),
    [turn, stretches.length],
  );
  useEffect(() => {
    function onKey(e: KeyboardEvent) {
      if ((e.target as HTMLElement).matches("a")) return;
      if (e.key === " ") toggle();
      else if (e.key === "ArrowRight") jump(at + 1);
      else if (e.key === "ArrowLeft") jump(at - 1);
      else return;
      e.preventDefault();
    }
    if (!page.may_run) return;
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [toggle, jump, at, page.may_run]);
  if (!stretch) {
    return (
      <main className="flex min-h-screen flex-col items-center justify-center gap-6 bg-night text-chalk">
        <p className="head text-5xl">{tr("This class has no sheet yet.")}</p>
        <Link to={`/mat/${session}`} className="text-2xl underline">
          {tr("Choose what it teaches")}
        </Link>
      </main>
    );
  }
  const done = passed >= total;
  return (
    <main className={`flex h-screen flex-col overflow-hidden text-chalk ${stretch.rest ? "bg-[#3a2416]" : "bg-night"}`}>
      <header className="flex items-baseline justify-between px-8 pt-5 text-[3vh]">
        <Link to={`/mat/${session}`} className="underline underline-offset-4">
          {page.name}
        </Link>
        <span className="num">{tr("{{total}} left of the class", { total: clockWords(total - passed) })}</span>
      </header>
      <div className="flex min-h-0 flex-1 flex-col items-center justify-center text-center">
        <p className="head px-4 text-[7.5vh] leading-[1.05] font-semibold">{done ? tr("Close") : stretch.summary}</p>
        <p
          role="timer"
          aria-label={tr("Time left in this stretch")}
          data-running={running}
          className="head num text-[min(47vh,30vw)] leading-[0.92] font-bold tabular-nums"
        >
          {clockWords(left)}
        </p>
        <p className="text-[3.6vh]">{stretch.detail}</p>
        <Pairs page={page} round={stretch.round} />
      </div>
      <Line stretches={stretches} passed={passed} total={total} />
      <footer className="flex flex-wrap items-center gap-3 px-8 py-4 text-xl">
        {page.may_run && (
          <>
            <Big onClick={toggle}>{running ? tr("Stop") : passed > 0 ? tr("Go on") : tr("Start")}</Big>
            <Big onClick={() => jump(at - 1)}>{tr("Back")}</Big>
            <Big onClick={() => jump(at + 1)}>{tr("Next")}</Big>
          </>
        )}
        <Big
          onClick={() => {
            wakeSound();
            chime("start");
          }}
        >
          {tr("Try the sound")}
        </Big>
        {clock.alone && <span className="text-[2.4vh]">{tr("No network: this clock runs by itself")}</span>}
        <span className="flex-1 text-right text-[2.4vh] text-rule">
          {stretches[at + 1] ? tr("Next: {{summary}}", { summary: stretches[at + 1]?.summary }) : ""}
          {page.fell_out.length > 0 && ` ${tr("· fell out: {{fell_out}}", { fell_out: page.fell_out.join(", ") })}`}
        </span>
        {page.may_run && <Big onClick={() => void turn({ do: "refit" })}>{tr("Refit what is left")}</Big>}
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
      {r.groups.map((g) => (
        <li key={g[0]?.id}>{g.map((x) => x.name.split(" ")[0]).join(" – ")}</li>
      ))}
      {r.coach.length > 0 && (
        <li>
          {r.coach.map((x) => x.name.split(" ")[0]).join(", ")} {tr("with the coach")}
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
