import type { S } from "../../api/client";
import { Button } from "../../kit/Button";
import { tr } from "../../kit/tr";

/** patternWords says a pattern as one says it on the mat. */
function patternWords(pattern: S["CueValues"][]): string {
  if (pattern.length === 0) return tr("every situation");
  return pattern.map((c) => `${c.cue} ${c.values.join(tr(" or "))}`).join(", ");
}

export function Verdict(props: {
  verdict: S["TableVerdict"];
  writes: boolean;
  onHole: (pattern: S["CueValues"][]) => void;
  onDrop: (id: string) => void;
  onTake: () => void;
}) {
  const { verdict: v, writes } = props;
  const f = v.findings;
  const hard = v.problems.filter((p) => !p.warn);
  return (
    <section aria-label={tr("What the table says of itself")} aria-live="polite" className="mt-4">
      <h2 className="border-b-[1.5px] border-ink pb-0.5">{tr("Live check")}</h2>
      {hard.map((p) => (
        <p key={p.field + p.what} className="text-clay">
          {p.field
            .replace(/rows\[(\d+)\]/, (_, n) => tr("row {{n}}", { n: Number(n) + 1 }))
            .replace(/cues\[(\d+)\]/, (_, n) => tr("cue {{n}}", { n: Number(n) + 1 }))}
          : {p.what}
        </p>
      ))}
      {f && (
        <>
          <p className="num py-1" data-answered={f.answered}>
            <b>{f.answered}</b> {tr("of {{situations}} situations have an answer", { situations: f.situations })}
            {f.contradicted > 0 && (
              <>
                , <b className="text-clay">{f.contradicted}</b> {tr("of them two")}
              </>
            )}
            .
          </p>
          <div className="grid gap-x-6 md:grid-cols-2">
            <div>
              <h3>{tr("No answer yet")}</h3>
              {f.uncovered_count === 0 && <p className="text-moss">{tr("Every situation is answered.")}</p>}
              <ul>
                {f.uncovered.map((p) => (
                  <li key={patternWords(p)} className="border-b border-hair py-0.5" data-hole>
                    <span className="text-clay">{patternWords(p)}</span>{" "}
                    {writes && (
                      <button type="button" className="link no-print text-[12.5px]" onClick={() => props.onHole(p)}>
                        {tr("Add a row for it")}
                      </button>
                    )}
                  </li>
                ))}
              </ul>
              {f.uncovered_count > f.uncovered.length && (
                <p className="text-soft">
                  {tr("and {{uncoveredcount}} patterns more", { uncoveredcount: f.uncovered_count - f.uncovered.length })}
                </p>
              )}
            </div>
            <div>
              <h3>{tr("Two answers")}</h3>
              {f.contradiction_count === 0 && <p className="text-moss">{tr("No two rows contradict each other.")}</p>}
              <ul>
                {f.contradictions.map((c) => (
                  <li key={c.rows.join() + patternWords(c.pattern)} className="border-b border-hair py-0.5">
                    <b>{c.rows.join(tr(" and "))}</b>: <span className="text-clay">{patternWords(c.pattern)}</span>
                  </li>
                ))}
              </ul>
              {f.contradiction_count > f.contradictions.length && (
                <p className="text-soft">
                  {tr("and {{contradictioncount}} more", { contradictioncount: f.contradiction_count - f.contradictions.length })}
                </p>
              )}
            </div>
            <div className="mt-2">
              <h3>{tr("Rows that could go")}</h3>
              {f.unreachable.length + f.redundant.length === 0 && <p className="text-soft">{tr("None: each row decides something.")}</p>}
              {f.unreachable.map((id) => (
                <Drop
                  key={id}
                  id={id}
                  why={tr("never applies: stronger rows decide all it matches")}
                  writes={writes}
                  onDrop={props.onDrop}
                />
              ))}
              {f.redundant.map((id) => (
                <Drop key={id} id={id} why={tr("could go: no answer would change")} writes={writes} onDrop={props.onDrop} />
              ))}
            </div>
            <div className="mt-2">
              <h3>{tr("Smallest table that means the same")}</h3>
              {v.smaller ? (
                <>
                  <ul>
                    {v.minimal.map((r) => (
                      <li key={r.id} className="border-b border-hair py-0.5">
                        {patternWords(Object.entries(r.when).map(([cue, values]) => ({ cue, values })))} → {v.names[r.then] ?? r.then}
                      </li>
                    ))}
                  </ul>
                  <p className="text-[12.5px] text-soft">
                    {tr("{{minimal}} rows, {{minimalexact}}.", {
                      minimal: v.minimal.length,
                      minimalexact: v.minimal_exact ? tr("proven: there is no smaller one") : tr("not proven to be the smallest"),
                    })}
                  </p>
                  {writes && <Button onClick={props.onTake}>{tr("Use the smaller table")}</Button>}
                </>
              ) : (
                <p className="text-soft">
                  {tr("This one{{minimalexact}}", {
                    minimalexact: v.minimal_exact
                      ? tr(": no table with fewer rows means the same.")
                      : tr(", as far as was looked; not proven."),
                  })}
                </p>
              )}
            </div>
          </div>
        </>
      )}
    </section>
  );
}

function Drop({ id, why, writes, onDrop }: { id: string; why: string; writes: boolean; onDrop: (id: string) => void }) {
  return (
    <p>
      <b>{id}</b> {why}{" "}
      {writes && (
        <button type="button" className="link no-print text-[12.5px]" onClick={() => onDrop(id)}>
          {tr("Remove row")}
        </button>
      )}
    </p>
  );
}
