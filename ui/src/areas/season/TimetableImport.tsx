import { useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Select } from "../../kit/Field";
import { textFile } from "../../kit/file";
import { tr } from "../../kit/tr";
import { weekday } from "../../kit/words";

export function Import({ tracks }: { tracks: S["TrackLine"][] }) {
  const [track, setTrack] = useState(tracks[0]?.id ?? "");
  const [file, setFile] = useState<S["ExchangeTextFile"]>();
  const look = useAction((body: S["ExchangeTextFile"]) =>
    unwrap(client.POST("/api/timetable/import/preview", { params: { query: { track } }, body })),
  );
  const keep = useAction(
    (body: S["ExchangeTextFile"]) => unwrap(client.POST("/api/timetable/import", { params: { query: { track } }, body })),
    () => tr("Brought the timetable in."),
    () => look.reset(),
  );
  async function choose(f: File | undefined) {
    if (!f) return;
    const body = await textFile(f);
    setFile(body);
    look.mutate(body);
  }
  const p = look.data;
  return (
    <section className="mt-2 border-l-[3px] border-rule pl-2.5">
      <div className="flex flex-wrap items-end gap-2">
        <label className="text-[13px]">
          <span className="cap block">{tr("Bring in a timetable (CSV or iCalendar)")}</span>
          <input type="file" accept=".csv,.tsv,.txt,.ics,text/calendar,text/csv" onChange={(e) => void choose(e.target.files?.[0])} />
        </label>
        <div className="w-44">
          <Select label={tr("Track where none is named")} value={track} onChange={(e) => setTrack(e.target.value)}>
            {tracks.map((t) => (
              <option key={t.id} value={t.id}>
                {t.name}
              </option>
            ))}
          </Select>
        </div>
      </div>
      <p className="text-[12.5px] text-soft">
        {tr("Columns: name, track, weekday, start, minutes, teach minutes, mat. Nothing is written before you say so.")}
      </p>
      {look.error && <p className="text-clay">{look.error.message}</p>}
      {p && (
        <>
          <table className="grid-lines mt-1" data-import>
            <tbody>
              {p.rows.map((r) => (
                <tr key={`${r.line} ${r.class.name} ${r.class.weekday} ${r.class.start}`}>
                  <td className="num text-soft">{r.line ? tr("line {{line}}", { line: r.line }) : ""}</td>
                  <td>{r.class.name}</td>
                  <td className="num">
                    {tr("{{weekday}} {{start}}, {{minutes}} min", {
                      weekday: weekday(r.class.weekday),
                      start: r.class.start,
                      minutes: r.class.minutes,
                    })}
                  </td>
                  <td className={r.wrong ? "text-clay" : "text-soft"}>{r.wrong || r.summary}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {p.left.map((l) => (
            <p key={l} className="text-[12.5px] text-soft">
              {tr("Left out: {{l}}", { l })}
            </p>
          ))}
          <Button className="mt-1" look="main" disabled={p.wrong > 0 || p.rows.length === 0} onClick={() => file && keep.mutate(file)}>
            {p.wrong > 0 ? tr("{{wrong}} rows are wrong", { wrong: p.wrong }) : tr("Bring in {{rows}} classes", { rows: p.rows.length })}
          </Button>
          {keep.error && <p className="text-clay">{keep.error.message}</p>}
        </>
      )}
    </section>
  );
}
