import { useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { textFile } from "../../kit/file";
import { tr } from "../../kit/tr";

/** RosterImport takes people from a file, row by row; nothing is written before it is said so. */
export function RosterImport({ onDone }: { onDone?: () => void }) {
  const [file, setFile] = useState<S["ExchangeTextFile"]>();
  const [decisions, setDecisions] = useState<S["RosterDecision"][]>([]);
  // What was seen last stays while it is looked through again: the focus stays in its row.
  const [p, see] = useState<S["RosterPreview"]>();
  const look = useAction(
    (body: { file: S["ExchangeTextFile"]; decisions: S["RosterDecision"][] }) =>
      unwrap(client.POST("/api/people/roster/preview", { body })),
    undefined,
    (out) => see(out),
  );
  const keep = useAction(
    (body: { file: S["ExchangeTextFile"]; decisions: S["RosterDecision"][] }) => unwrap(client.POST("/api/people/roster", { body })),
    () => tr("Imported the roster."),
    () => {
      look.reset();
      see(undefined);
      setFile(undefined);
      onDone?.();
    },
  );
  async function choose(f: File | undefined) {
    if (!f) return;
    const body = await textFile(f);
    setFile(body);
    setDecisions([]);
    see(undefined);
    look.mutate({ file: body, decisions: [] });
  }
  function decide(line: number, as: string) {
    if (!file) return;
    const next = decisions.filter((d) => d.line !== line).concat(as ? [{ line, as }] : []);
    setDecisions(next);
    look.mutate({ file, decisions: next });
  }
  const rows = (p?.rows ?? []).filter((r) => r.do !== "same");
  return (
    <section>
      <h1>{tr("Import a roster")}</h1>
      <label className="text-[13px]">
        <span className="cap block">{tr("Roster (CSV)")}</span>
        <input type="file" accept=".csv,.tsv,.txt,text/csv" onChange={(e) => void choose(e.target.files?.[0])} />
      </label>
      <p className="text-[12.5px] text-soft">
        {tr(
          "Columns, in any order: name (or first name and last name), born, rank, ladder, stripes, rank since, joined, weight, e-mail, guardian, guardian phone, role (student or coach). Only a name is needed. Taken again it doubles nobody; a roster promotes nobody.",
        )}
      </p>
      {look.error && <p className="text-clay">{look.error.message}</p>}
      {p && file && (
        <>
          <div className="sticky -top-3.5 my-1 flex items-center gap-3 border-b-[1.5px] border-ink bg-leaf py-1.5">
            <b className={`flex-1 ${p.ready ? "text-moss" : "text-clay"}`}>{p.summary}</b>
            <Button look="main" disabled={!p.ready || keep.isPending || look.isPending} onClick={() => keep.mutate({ file, decisions })}>
              {tr("Import people")}
            </Button>
          </div>
          {keep.error && <p className="text-clay">{keep.error.message}</p>}
          <table className="grid-lines" data-import>
            <tbody>
              {rows.slice(0, 200).map((r) => (
                <tr key={r.line} className="align-top">
                  <td className="num whitespace-nowrap text-soft">{tr("line {{line}}", { line: r.line })}</td>
                  <td>{r.name}</td>
                  <td className={r.do === "wrong" || r.do === "ask" ? "text-clay" : "text-soft"}>
                    {r.wrong.length > 0 ? r.wrong.join("; ") : r.summary}
                  </td>
                  <td className="text-right">
                    {(r.like.length > 0 || r.do === "leave" || r.do === "wrong" || decisions.some((d) => d.line === r.line)) && (
                      <select
                        aria-label={tr("What becomes of {{name}}", { name: r.name })}
                        className="h-[27px] rounded-sm border border-rule bg-white"
                        value={decisions.find((d) => d.line === r.line)?.as ?? ""}
                        onChange={(e) => decide(r.line, e.target.value)}
                      >
                        <option value="">{tr("decide")}</option>
                        {r.like.map((l) => (
                          <option key={l.id} value={l.id}>
                            {tr("is {{name}}", { name: l.name })}
                          </option>
                        ))}
                        <option value="new">{tr("is somebody new")}</option>
                        <option value="leave">{tr("leave out")}</option>
                      </select>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {rows.length > 200 && <p className="text-soft">{tr("and {{n}} more rows", { n: rows.length - 200 })}</p>}
        </>
      )}
    </section>
  );
}
