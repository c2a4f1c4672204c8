import { useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { Select, TextArea } from "../../kit/Field";
import { Empty, Note } from "../../kit/SplitPane";
import { tr, word } from "../../kit/tr";
import { CaughtUp } from "./CaughtUp";
import { faultsOf, useReport } from "./report";
import { Sides } from "./Sides";
import { Unreached } from "./Unreached";

type Count = S["AcademyFaultCount"];

/** AfterClass says what was reached and which faults were seen, and leaves a note. This, not the plan, feeds the ledger. */
export function AfterClass({ page }: { page: S["SessionPage"] }) {
  const had = page.recorded;
  const report = useReport(page);
  const { items, note, setNote, lead, setLead, set, reach, words } = report;
  const [counts, setCounts] = useState<Count[]>(() => faultsOf(page));
  const record = useAction(
    () =>
      unwrap(
        client.POST("/api/classes/{id}/record", {
          params: { path: { id: page.summary.session } },
          body: { ...words, faults: counts },
        }),
      ),
    () => tr("Saved the record of the class."),
  );
  if (page.techniques.length === 0 && page.makeups.length === 0)
    return <Empty title={tr("Nothing to record")}>{tr("Choose what the class teaches first, on the left.")}</Empty>;
  const tries = Math.max(1, page.here.length);
  function count(technique: string, fault: string, by: number) {
    const at = counts.find((c) => c.technique === technique && c.fault === fault) ?? { technique, fault, seen: 0, tries };
    const seen = Math.min(Math.max(0, at.seen + by), Math.max(at.tries, tries));
    const rest = counts.filter((c) => c !== at);
    setCounts(seen > 0 ? [...rest, { ...at, seen, tries: Math.max(at.tries, tries) }] : rest);
  }
  return (
    <div className="flex flex-col gap-4">
      {had && <Note title={tr("Recorded.")}>{tr("Saving it again corrects the record; the earlier one stays in the log.")}</Note>}
      {page.techniques.map((t) => {
        const item = items.find((i) => i.technique === t.id);
        if (!item) return null;
        return (
          <section key={t.id}>
            <h2>
              {t.name} <span className="cap">{word(item.kind)}</span>
            </h2>
            <div className="mt-1 flex flex-wrap items-center gap-4">
              <Choice
                label={tr("What was reached of {{name}}", { name: t.name })}
                value={item.reached}
                onChange={(reached) => reach(t.id, reached)}
                options={[
                  { value: "all", label: tr("All") },
                  { value: "part", label: tr("Part") },
                  { value: "not", label: tr("Not reached") },
                ]}
              />
              {item.reached === "part" && (
                <select
                  aria-label={tr("As far as, of {{name}}", { name: t.name })}
                  className="h-[29px] max-w-56 rounded-sm border border-rule bg-white px-1"
                  value={item.point ?? ""}
                  onChange={(e) => set(t.id, { point: e.target.value || undefined })}
                >
                  <option value="">{tr("as far as…")}</option>
                  {t.points.map((p) => (
                    <option key={p.id} value={p.id}>
                      {p.name}
                    </option>
                  ))}
                </select>
              )}
              {t.sided && <Sides name={t.name} taught={t.taught} item={item} set={(change) => set(t.id, change)} />}
            </div>
            <h3 className="mt-2">{tr("Faults seen, of {{tries}} here", { tries })}</h3>
            <ul>
              {t.faults.map((f) => {
                const seen = counts.find((c) => c.technique === t.id && c.fault === f.id)?.seen ?? 0;
                return (
                  <li key={f.id} className="flex items-center gap-2 border-b border-hair py-0.5">
                    <span className="min-w-0 flex-1">{f.what}</span>
                    <Button
                      className="w-9 !px-0"
                      aria-label={tr("One less: {{what}}", { what: f.what })}
                      disabled={seen === 0}
                      onClick={() => count(t.id, f.id, -1)}
                    >
                      −
                    </Button>
                    <b className="num w-6 text-center">{seen}</b>
                    <Button
                      className="w-9 !px-0"
                      aria-label={tr("One more: {{what}}", { what: f.what })}
                      onClick={() => count(t.id, f.id, 1)}
                    >
                      +
                    </Button>
                  </li>
                );
              })}
            </ul>
          </section>
        );
      })}
      <CaughtUp page={page} report={report} />
      <Select label={tr("Led by")} value={lead} onChange={(e) => setLead(e.target.value)}>
        {!lead && <option value="">{tr("whoever was to lead")}</option>}
        {page.coaches.map((c) => (
          <option key={c.id} value={c.id}>
            {c.name}
          </option>
        ))}
      </Select>
      <TextArea
        label={tr("Note for the next coach")}
        rows={2}
        maxLength={1000}
        value={note}
        placeholder={tr("Reached key point 4; left side not done.")}
        onChange={(e) => setNote(e.target.value)}
      />
      {record.error && (
        <div className="text-clay">
          <p>{record.error.message}</p>
          {Object.entries(record.error.fields).map(([field, words]) => (
            <p key={field}>{words}</p>
          ))}
        </div>
      )}
      <Button look="main" className="self-start" disabled={record.isPending} onClick={() => record.mutate(undefined)}>
        {tr("Save record")}
      </Button>
      <Unreached page={page} />
    </div>
  );
}
