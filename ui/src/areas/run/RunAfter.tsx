import { useState } from "react";
import { Choice } from "../../kit/Choice";
import { tr } from "../../kit/tr";
import { newId } from "../../kit/words";
import { useOutbox } from "../../outbox/OutboxProvider";
import { CaughtUp } from "../mat/CaughtUp";
import { faultsOf, useReport } from "../mat/report";
import { Sides } from "../mat/Sides";
import { Unreached } from "../mat/Unreached";
import { IncidentForm } from "./IncidentForm";
import type { Page } from "./Run";
import { big } from "./RunNow";

/** RunAfter says what was reached, with what was counted already in it, and leaves a note for the next coach. */
export function RunAfter({ page }: { page: Page }) {
  const { send } = useOutbox();
  const report = useReport(page);
  const { items, note, setNote, lead, setLead, set, reach, words } = report;
  const [kept, setKept] = useState(false);
  const session = page.summary.session;
  if (page.techniques.length === 0 && page.makeups.length === 0)
    return (
      <>
        <p className="mt-6 text-soft">{tr("Nothing was taught in this class yet.")}</p>
        <IncidentForm page={page} />
      </>
    );
  return (
    <>
      <form
        className="flex flex-col gap-4 pt-3"
        onSubmit={async (e) => {
          e.preventDefault();
          await send({
            kind: "report",
            session,
            words: tr("What the class reached"),
            method: "POST",
            path: `/api/classes/${encodeURIComponent(session)}/record`,
            body: { id: newId(), ...words, faults: faultsOf(page) },
          });
          setKept(true);
        }}
      >
        {page.techniques.map((t) => {
          const item = items.find((i) => i.technique === t.id);
          if (!item) return null;
          return (
            <section key={t.id}>
              <h2>{t.name}</h2>
              <Choice
                big
                label={tr("What was reached of {{name}}", { name: t.name })}
                value={item.reached}
                onChange={(reached) => reach(t.id, reached)}
                options={[
                  { value: "all", label: tr("All") },
                  { value: "part", label: tr("Part") },
                  { value: "not", label: tr("Not") },
                ]}
              />
              {item.reached === "part" && (
                <select
                  aria-label={tr("As far as, of {{name}}", { name: t.name })}
                  value={item.point ?? ""}
                  onChange={(e) => set(t.id, { point: e.target.value || undefined })}
                  className="mt-2 h-[52px] w-full rounded-sm border-[1.5px] border-ink bg-white px-2 text-[17px]"
                >
                  <option value="">{tr("As far as which key point?")}</option>
                  {t.points.map((p) => (
                    <option key={p.id} value={p.id}>
                      {p.name}
                    </option>
                  ))}
                </select>
              )}
              {t.sided && (
                <div className="mt-2">
                  <Sides big name={t.name} taught={t.taught} item={item} set={(change) => set(t.id, change)} />
                </div>
              )}
            </section>
          );
        })}
        <CaughtUp big page={page} report={report} />
        <label>
          <span className="text-[14px] text-soft">{tr("Led by")}</span>
          <select
            value={lead}
            onChange={(e) => setLead(e.target.value)}
            className="h-[52px] w-full rounded-sm border-[1.5px] border-ink bg-white px-2 text-[17px]"
          >
            {!lead && <option value="">{tr("whoever was to lead")}</option>}
            {page.coaches.map((c) => (
              <option key={c.id} value={c.id}>
                {c.name}
              </option>
            ))}
          </select>
        </label>
        <label>
          <span className="text-[14px] text-soft">{tr("Note for the next coach")}</span>
          <textarea
            rows={3}
            maxLength={1000}
            value={note}
            placeholder={tr("Reached key point 4; left side not done.")}
            onChange={(e) => setNote(e.target.value)}
            className="w-full rounded-sm border-[1.5px] border-ink bg-white p-2 text-[17px]"
          />
        </label>
        <p className="text-[14px] text-soft">
          {tr("{{reduce}} faults counted tonight go with it. They can be changed under Tally.", {
            reduce: faultsOf(page).reduce((n, f) => n + f.seen, 0),
          })}
        </p>
        <div className="flex">
          <button type="submit" className={big} data-main="true">
            {page.recorded || kept ? tr("Save record again") : tr("Save record")}
          </button>
        </div>
        {(page.recorded || kept) && (
          <p className="text-moss">{tr("Recorded. Saving it again corrects the record; the earlier one stays in the log.")}</p>
        )}
      </form>
      <Unreached page={page} />
      <IncidentForm page={page} />
    </>
  );
}
