import { useState } from "react";
import type { S } from "../../api/client";
import { tr } from "../../kit/tr";
import { newId } from "../../kit/words";
import { useOutbox } from "../../outbox/OutboxProvider";
import type { Page } from "./Run";
import { big } from "./RunNow";

/** RunTally counts what is seen while walking round: one tap for a fault of the group, or a word for one person. */
export function RunTally({ page }: { page: Page }) {
  const { send } = useOutbox();
  const [technique, setTechnique] = useState(page.techniques[0]?.id ?? "");
  const [student, setStudent] = useState("");
  const [words, setWords] = useState("");
  const t = page.techniques.find((x) => x.id === technique);
  const session = page.summary.session;
  if (!t) return <p className="mt-6 text-soft">{tr("Nothing is taught in this class yet.")}</p>;
  const who = page.here.find((a) => a.id === student);
  const tell = (body: Partial<S["AddTally"]>, said: string) =>
    send({
      kind: "tally",
      session,
      student: body.student,
      words: said,
      method: "POST",
      path: `/api/classes/${encodeURIComponent(session)}/tally`,
      body: { id: newId(), technique: t.id, count: 0, ...body },
    });
  const fault = (f: S["FaultLine"], by: number) =>
    who
      ? tell({ fault: f.id, student: who.id, count: 0 }, `${who.name}: ${f.what}`).then(() => setStudent(""))
      : tell({ fault: f.id, count: by }, `${by > 0 ? tr("One more") : tr("One less")}: ${f.what}`);
  return (
    <>
      {page.techniques.length > 1 && (
        <div className="mt-3 flex flex-wrap gap-2">
          {page.techniques.map((x) => (
            <button key={x.id} type="button" className={big} data-main={x.id === technique} onClick={() => setTechnique(x.id)}>
              {x.name}
            </button>
          ))}
        </div>
      )}
      <label className="mt-3 block">
        <span className="text-[14px] text-soft">{tr("Of")}</span>
        <select
          aria-label={tr("Of whom")}
          value={student}
          onChange={(e) => setStudent(e.target.value)}
          className="h-[52px] w-full rounded-sm border-[1.5px] border-ink bg-white px-2 text-[18px]"
        >
          <option value="">{tr("the group")}</option>
          {page.here.map((a) => (
            <option key={a.id} value={a.id}>
              {a.name}
            </option>
          ))}
        </select>
      </label>
      {who && (
        <form
          className="mt-2 flex gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            if (!words.trim()) return;
            void tell({ student: who.id, words: words.trim() }, `${who.name}: ${words.trim()}`);
            setWords("");
            setStudent("");
          }}
        >
          <input
            aria-label={tr("A correction in words")}
            placeholder={tr("Grip at the heel")}
            maxLength={300}
            value={words}
            onChange={(e) => setWords(e.target.value)}
            className="h-[52px] min-w-0 flex-1 rounded-sm border-[1.5px] border-ink bg-white px-3 text-[18px]"
          />
          <button type="submit" className={`${big} !flex-none`}>
            {tr("Note it")}
          </button>
        </form>
      )}
      <ul className="mt-3">
        {t.faults.map((f) => {
          const seen = page.tally.find((x) => x.technique === t.id && x.fault === f.id)?.seen ?? 0;
          return (
            <li key={f.id} className="flex items-stretch border-b border-hair">
              <button
                type="button"
                className="min-h-[60px] flex-1 py-1.5 text-left"
                aria-label={tr("One more: {{what}}", { what: f.what })}
                onClick={() => fault(f, 1)}
              >
                <b className={f.danger ? "text-clay" : ""}>{f.what}</b>
                <span className="block text-[14px] leading-4 text-soft">{f.point}</span>
              </button>
              <b className="num flex w-12 items-center justify-center text-[24px]" aria-live="polite">
                {seen}
              </b>
              {!who && (
                <button
                  type="button"
                  className="min-w-[48px] text-2xl text-soft"
                  aria-label={tr("One less: {{what}}", { what: f.what })}
                  disabled={seen === 0}
                  onClick={() => fault(f, -1)}
                >
                  −
                </button>
              )}
            </li>
          );
        })}
      </ul>
      {page.told.length > 0 && (
        <section className="mt-4">
          <h2>{tr("Noted tonight")}</h2>
          <ul>
            {page.told.map((c, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: notes only ever grow
              <li key={i} className="border-b border-hair py-1">
                <b>{c.name}</b>: {c.summary}
              </li>
            ))}
          </ul>
        </section>
      )}
    </>
  );
}
