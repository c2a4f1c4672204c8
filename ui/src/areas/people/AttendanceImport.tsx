import { useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { textFile } from "../../kit/file";
import { tr } from "../../kit/tr";

const kinds = {
  attendance: {
    preview: "/api/people/attendance/preview",
    take: "/api/people/attendance",
    title: tr("Import past attendance"),
    label: tr("Attendance (CSV)"),
    press: tr("Import attendance"),
    done: (n: number) => tr("Imported {{n}} visits.", { n }),
    help: tr(
      "Columns: student, date, and class or time where a day has several; part (late, early) may be there. One line for each student and class. Taken again it doubles nothing.",
    ),
  },
  checks: {
    preview: "/api/people/checks/preview",
    take: "/api/people/checks",
    title: tr("Import past checks"),
    label: tr("Checks (CSV)"),
    press: tr("Import checks"),
    done: (n: number) => tr("Imported {{n}} checks.", { n }),
    help: tr(
      "Columns: student, date, technique, side, result (met or not met); rung (passed, live, teaches) and coach may be there. Taken again it doubles nothing.",
    ),
  },
} as const;

/** AttendanceImport takes past attendance, or past checks, from a file: seen line by line before anything is kept. */
export function AttendanceImport({ onDone, kind = "attendance" }: { onDone?: () => void; kind?: keyof typeof kinds }) {
  const k = kinds[kind];
  const [file, setFile] = useState<S["ExchangeTextFile"]>();
  const look = useAction((body: S["ExchangeTextFile"]) => unwrap(client.POST(k.preview, { body })));
  const keep = useAction(
    (body: S["ExchangeTextFile"]) => unwrap(client.POST(k.take, { body })),
    k.done,
    () => {
      look.reset();
      setFile(undefined);
      onDone?.();
    },
  );
  async function choose(f: File | undefined) {
    if (!f) return;
    const body = await textFile(f);
    setFile(body);
    look.mutate(body);
  }
  const p = look.data;
  return (
    <section>
      <h1>{k.title}</h1>
      <label className="text-[13px]">
        <span className="cap block">{k.label}</span>
        <input type="file" accept=".csv,.tsv,.txt,text/csv" onChange={(e) => void choose(e.target.files?.[0])} />
      </label>
      <p className="text-[12.5px] text-soft">{k.help}</p>
      {look.error && <p className="text-clay">{look.error.message}</p>}
      {p && file && (
        <>
          <div className="my-1 flex items-center gap-3 border-b-[1.5px] border-ink py-1.5">
            <b className={`flex-1 ${p.ready ? "text-moss" : "text-clay"}`}>{p.summary}</b>
            <Button look="main" disabled={!p.ready || keep.isPending} onClick={() => keep.mutate(file)}>
              {k.press}
            </Button>
          </div>
          {keep.error && <p className="text-clay">{keep.error.message}</p>}
          <table className="grid-lines" data-import>
            <tbody>
              {p.rows.slice(0, 40).map((r) => (
                <tr key={r.line}>
                  <td className="num whitespace-nowrap text-soft">{tr("line {{line}}", { line: r.line })}</td>
                  <td>{r.student}</td>
                  <td>{r.class}</td>
                  <td className={r.wrong ? "text-clay" : "text-soft"}>{r.wrong || r.summary}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </section>
  );
}
