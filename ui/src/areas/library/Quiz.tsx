import { useCallback, useEffect, useLayoutEffect, useRef, useState } from "react";
import { client, type S, Trouble, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { tr } from "../../kit/tr";
import { decimal } from "../../kit/words";

/** Quiz draws situations of one fork table, times the answers, and brings missed ones more often. */
export function Quiz({ table }: { table: string }) {
  const [q, setQ] = useState<S["QuizQuestion"]>();
  const [v, setV] = useState<S["QuizVerdict"]>();
  const [free, setFree] = useState(false);
  const [words, setWords] = useState("");
  const [trouble, setTrouble] = useState("");
  const shown = useRef(0);
  const draw = useCallback(
    async (last: string) => {
      try {
        const next = await unwrap(
          client.GET("/api/fork-tables/{id}/quiz", { params: { path: { id: table }, query: { last: last || undefined } } }),
        );
        setQ(next);
        setV(undefined);
        setWords("");
        setTrouble("");
        shown.current = performance.now();
      } catch (e) {
        setTrouble(e instanceof Trouble ? e.message : String(e));
      }
    },
    [table],
  );
  useEffect(() => {
    draw("");
  }, [draw]);
  const answer = useCallback(
    async (given: string, inWords: boolean) => {
      if (!q || v) return;
      const ms = Math.round(performance.now() - shown.current);
      try {
        setV(
          await unwrap(
            client.POST("/api/fork-tables/{id}/quiz", {
              params: { path: { id: table } },
              body: { situation: q.situation, answer: given, free: inWords || undefined, ms },
            }),
          ),
        );
        setTrouble("");
      } catch (e) {
        setTrouble(e instanceof Trouble ? e.message : String(e));
      }
    },
    [q, v, table],
  );
  // In the same commit in which the situation is shown: a key that is pressed at once counts.
  useLayoutEffect(() => {
    function onKey(e: KeyboardEvent) {
      if ((e.target as HTMLElement).matches("input,textarea,select") || e.ctrlKey || e.metaKey || e.altKey) return;
      const choice = q?.choices[e.key.charCodeAt(0) - 97];
      if (v && e.key === "Enter") draw(v.row);
      else if (!v && !free && e.key.length === 1 && choice) answer(choice.id, false);
      else return;
      e.preventDefault();
      e.stopPropagation();
    }
    window.addEventListener("keydown", onKey, true);
    return () => window.removeEventListener("keydown", onKey, true);
  }, [q, v, free, draw, answer]);
  if (trouble && !q) return <p className="text-clay">{trouble}</p>;
  if (!q) return null;
  return (
    <section aria-label={tr("Quiz")}>
      <p className="cap">
        {q.name} · {q.position}, {q.part === "attack" ? tr("you are the attacker") : tr("you are the defender")}
      </p>
      <div className="my-3 border-y-[1.5px] border-ink py-3" data-situation>
        {q.situation.map((c) => (
          <p key={c.cue} className="grid grid-cols-[180px_minmax(0,1fr)] items-baseline">
            <span className="cap">{c.cue}</span>
            <b className="head text-[26px] leading-8">{c.value}</b>
          </p>
        ))}
      </div>
      {!v && !free && (
        <fieldset className="flex flex-col gap-1.5" aria-label={tr("Answers")}>
          {q.choices.map((c, i) => (
            <button
              key={c.id}
              type="button"
              onClick={() => answer(c.id, false)}
              className="grid min-h-11 grid-cols-[28px_minmax(0,1fr)] items-center border border-lake px-2 text-left text-[16px] hover:bg-wash"
            >
              <span className="head text-soft">{String.fromCharCode(97 + i)}</span>
              {c.name}
            </button>
          ))}
        </fieldset>
      )}
      {!v && free && (
        <form
          className="flex gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            answer(words, true);
          }}
        >
          <input
            aria-label={tr("Your answer")}
            placeholder={tr("A name, or what you call it")}
            className="h-11 flex-1 rounded-sm border border-rule bg-white px-2 text-[16px]"
            value={words}
            onChange={(e) => setWords(e.target.value)}
          />
          <Button type="submit" look="main" className="!h-11" disabled={!words.trim()}>
            {tr("Answer")}
          </Button>
        </form>
      )}
      {v && (
        <div role="status" data-right={v.right} className={`border-l-[3px] py-1 pl-3 ${v.right ? "border-moss" : "border-clay"}`}>
          <p className="text-[16px]">
            <b className={v.right ? "text-moss" : "text-clay"}>{v.right ? tr("Right.") : tr("Not this time.")}</b> {v.answer.name}
            {!v.right && <span className="text-soft"> {tr("· you said {{given}}", { given: v.given || tr("nothing") })}</span>}
          </p>
          <p className="text-[12.5px] text-soft">{tr("Row {{row}} lies in box {{box}} now.", { row: v.row, box: v.box })}</p>
          <Button look="main" className="mt-1.5" autoFocus onClick={() => draw(v.row)}>
            {tr("Next situation")}
          </Button>
        </div>
      )}
      {trouble && <p className="text-clay">{trouble}</p>}
      <div className="mt-4 flex flex-wrap items-end gap-6">
        <div>
          <h3>{tr("Card file")}</h3>
          <div
            className="flex items-end gap-1.5"
            role="img"
            aria-label={tr("Rows in boxes 1 to 5: {{boxes}}", { boxes: q.boxes.join(", ") })}
          >
            {q.boxes.map((n, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: box i is box i
              <span key={i} className="flex w-9 flex-col items-center">
                <span className="num text-[12.5px]">{n}</span>
                <span className="w-full bg-ink" style={{ height: 4 + 9 * n }} />
                <span className="cap">{i + 1}</span>
              </span>
            ))}
          </div>
        </div>
        <p className="num">
          {tr("{{correct}} of {{asked}} right", { correct: q.correct, asked: q.asked })}
          {q.asked > 0 && <>{tr(", {{seconds}} s an answer", { seconds: decimal(q.seconds, 1) })}</>}
        </p>
        <label className="flex gap-1.5">
          <input type="checkbox" checked={free} onChange={(e) => setFree(e.target.checked)} />
          {tr("Answer in my own words")}
        </label>
      </div>
      <p className="mt-2 max-w-prose text-[12.5px] text-soft">{q.scheme}</p>
    </section>
  );
}
