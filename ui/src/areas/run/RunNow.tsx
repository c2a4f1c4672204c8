import type { S } from "../../api/client";
import { Note } from "../../kit/SplitPane";
import { tr, word } from "../../kit/tr";
import { useChimes } from "../mat/Clock";
import { clockWords, place } from "../mat/clock";
import { Reactions } from "../mat/SeriesAndCare";
import { wakeSound } from "../mat/sound";
import { useAwake, type useClock } from "../mat/useClock";
import type { Page } from "./Run";

/** big is a button for a thumb. */
export const big =
  "min-h-[52px] flex-1 rounded-sm border-[1.5px] border-ink px-3 text-[17px] font-semibold disabled:opacity-50 data-[main=true]:bg-lake data-[main=true]:border-lake data-[main=true]:text-white";

/** RunNow is the segment at hand: how long it lasts still, what to look for in it, and what is next. */
export function RunNow({ page, clock }: { page: Page; clock: ReturnType<typeof useClock> }) {
  useAwake();
  const { stretches, passed, running, turn } = clock;
  const { at, left } = place(stretches, passed);
  const stretch = stretches[at];
  useChimes(at, left, !!stretch?.rest, running);
  if (!stretch) {
    return (
      <p className="mt-6 text-soft">
        {tr("Nothing is chosen for this class yet. Choose what it teaches at the desk, or ask the head instructor.")}
      </p>
    );
  }
  const segment = page.segments.find((s) => s.id === stretch.segment);
  const technique = page.techniques.find((t) => t.id === segment?.technique);
  const next = stretches.slice(at + 1).find((s) => s.segment !== stretch.segment);
  const nextName = page.segments.find((s) => s.id === next?.segment)?.name;
  const mayTurn = clock.page?.may_run;
  return (
    <>
      <section className="sticky top-0 z-10 -mx-4 border-b-[1.5px] border-ink bg-leaf px-4 pt-3 pb-3">
        <p className="head text-[20px] leading-6 font-bold">{segment?.name ?? stretch.summary}</p>
        <div className="flex items-end gap-3">
          <p
            role="timer"
            aria-label={tr("Time left in this stretch")}
            data-running={running}
            className="head num text-[72px] leading-[72px] font-bold"
          >
            {clockWords(left)}
          </p>
          <p className="flex-1 pb-2 text-[15px] leading-5">
            {stretch.summary !== segment?.name && stretch.summary}
            {segment && segment.repetitions > 0 && (
              <span className="block text-soft">
                {tr("{{repetitions}} repetitions each{{sides}}", {
                  repetitions: segment.repetitions,
                  sides: segment.sides === 2 ? tr(", each side") : "",
                })}
              </span>
            )}
            {nextName && <span className="block text-soft">{tr("Next: {{nextName}}", { nextName })}</span>}
          </p>
        </div>
        {mayTurn && (
          <div className="mt-2 flex gap-2">
            <button
              type="button"
              className={big}
              data-main={!running}
              onClick={() => {
                wakeSound();
                void turn({ do: running ? "stop" : "start" });
              }}
            >
              {running ? tr("Stop") : passed > 0 ? tr("Go on") : tr("Start")}
            </button>
            <button type="button" className={big} onClick={() => void turn({ do: "jump", to: Math.max(0, at - 1) })} disabled={at === 0}>
              {tr("Back")}
            </button>
            <button
              type="button"
              className={big}
              onClick={() => void turn({ do: "jump", to: at + 1 })}
              disabled={at + 1 >= stretches.length}
            >
              {tr("Next")}
            </button>
          </div>
        )}
        {mayTurn && (
          <div className="mt-2 flex gap-2">
            <button
              type="button"
              className={big}
              onClick={() => void turn({ do: "refit", more: Math.max(1, Math.ceil(left / 60) + 3) })}
              disabled={clock.alone}
            >
              {tr("3 minutes more")}
            </button>
            <button type="button" className={big} onClick={() => void turn({ do: "refit" })} disabled={clock.alone}>
              {tr("Refit the rest")}
            </button>
          </div>
        )}
        {clock.alone && (
          <p className="mt-1 text-clay">{tr("No network: this clock runs by itself and tells the others when it is back.")}</p>
        )}
        {(clock.page?.fell_out.length ?? 0) > 0 && (
          <p className="mt-1 text-[14px] text-soft">
            {tr("Fell out:")} {clock.page?.fell_out.join(", ")}
          </p>
        )}
      </section>
      {page.last_note && (
        <Note tone="lake" title={tr("Last note:")}>
          {page.last_note} <span className="text-soft">({page.last_note_by})</span>
        </Note>
      )}
      {technique ? <Look t={technique} /> : page.techniques.map((t) => <Look key={t.id} t={t} />)}
      {(!segment || segment.kind === "reaction") && <Reactions page={page} />}
      {page.cautions.length > 0 && (
        <section className="mt-4 border-l-4 border-clay pl-3">
          <h2>{tr("Cautions")}</h2>
          <ul className="list-disc pl-5">
            {page.cautions.map((c) => (
              <li key={c}>{c}</li>
            ))}
          </ul>
          <p className="text-[14px] text-soft">{page.defers}</p>
        </section>
      )}
    </>
  );
}

function Look({ t }: { t: S["TaughtTechnique"] }) {
  return (
    <section className="mt-4">
      <h2 className="border-b-[1.5px] border-ink text-[19px]">
        {t.name} {t.taught && <span className="cap">{word(t.taught)}</span>}
      </h2>
      {t.gates.length > 0 && <Lines title={tr("Gates: until it holds, do not go on")} lines={t.gates} />}
      {t.faults.length > 0 && (
        <>
          <h3 className="mt-2">{tr("What to watch")}</h3>
          <ul>
            {t.faults.slice(0, 3).map((f) => (
              <li key={f.id} className="border-b border-hair py-1.5">
                <b className={f.danger ? "text-clay" : ""}>{f.what}</b>
                <span className="block text-soft">
                  {f.gives} {f.correction}
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
      {t.asks.length > 0 && <Lines title={tr("Ask")} lines={t.asks} />}
      {t.forks.length > 0 && <Lines title={tr("Reactions and answers")} lines={t.forks} />}
    </section>
  );
}

function Lines({ title, lines }: { title: string; lines: string[] }) {
  return (
    <>
      <h3 className="mt-2">{title}</h3>
      <ul>
        {lines.map((l) => (
          <li key={l} className="border-b border-hair py-1">
            {l}
          </li>
        ))}
      </ul>
    </>
  );
}
