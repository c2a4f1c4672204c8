import { useState } from "react";
import type { S } from "../../api/client";

type Sheet = S["AcademyTrackSheet"];
type Rule = S["MatSegmentRule"];
type Rank = Rule["rank"];

/** SegmentTable sets how long each kind of segment of a class is and how much it matters, for all tracks or for one. */
export function SegmentTable(props: {
  page: S["AcademyPage"];
  sheets: Sheet[];
  onChange: (sheets: Sheet[]) => void;
  wrong: Record<string, string>;
}) {
  const { page, sheets } = props;
  const [track, show] = useState("");
  const own = sheets.findIndex((s) => (s.track ?? "") === track);
  const at = own < 0 ? sheets.findIndex((s) => !s.track) : own;
  const rules = sheets[at]?.segments ?? [];
  const keep = (segments: Rule[]) =>
    props.onChange(own < 0 ? [...sheets, { track, segments }] : sheets.map((s, i) => (i === own ? { ...s, segments } : s)));
  const change = (kind: string, part: Partial<Rule>) => keep(rules.map((r) => (r.kind === kind ? { ...r, ...part } : r)));
  return (
    <section>
      <h2>Segments of a class</h2>
      <div className="flex flex-wrap items-baseline gap-3 text-[12.5px] text-soft">
        <label>
          For{" "}
          <select
            aria-label="Segments of which track"
            className="h-[27px] rounded-sm border border-rule bg-white text-ink"
            value={track}
            onChange={(e) => show(e.target.value)}
          >
            <option value="">all tracks</option>
            {page.tracks.map((t) => (
              <option key={t.id} value={t.id}>
                {t.name}
                {sheets.some((s) => s.track === t.id) ? " (its own)" : ""}
              </option>
            ))}
          </select>
        </label>
        {track && own < 0 && <span>as for all tracks; what you change is this track's own</span>}
        {track && own >= 0 && (
          <button type="button" className="link" onClick={() => props.onChange(sheets.filter((_, i) => i !== own))}>
            As for all tracks again
          </button>
        )}
      </div>
      <table className="grid-lines mt-1">
        <thead>
          <tr>
            <th>Segment</th>
            <th>How much it matters</th>
            <th>Least</th>
            <th>Wanted</th>
            <th>Most</th>
            <th>In</th>
          </tr>
        </thead>
        <tbody>
          {page.segments.map((k) => {
            const r = rules.find((x) => x.kind === k.kind);
            if (!r) return null;
            const wrong = props.wrong[`sheets[${at}].segments[${rules.indexOf(r)}].min`];
            const length = (label: string, key: "min" | "want" | "max") => (
              <input
                aria-label={`${label}: ${k.name}`}
                aria-invalid={wrong ? true : undefined}
                type="number"
                min={1}
                max={500}
                className="h-[27px] w-14 rounded-sm border border-rule bg-white px-1"
                value={r[key]}
                onChange={(e) => change(k.kind, { [key]: Number(e.target.value) })}
              />
            );
            return (
              <tr key={k.kind}>
                <td>
                  {k.name}
                  {wrong && <span className="block text-[12.5px] text-clay">{wrong}</span>}
                </td>
                <td>
                  <select
                    aria-label={`How much it matters: ${k.name}`}
                    className="h-[27px] rounded-sm border border-rule bg-white"
                    value={r.rank}
                    onChange={(e) => change(k.kind, { rank: e.target.value as Rank })}
                  >
                    {(["must", "should", "if there is time", "never"] as const).map((w) => (
                      <option key={w}>{w}</option>
                    ))}
                  </select>
                </td>
                <td>{length("Least", "min")}</td>
                <td>{length("Wanted", "want")}</td>
                <td>{length("Most", "max")}</td>
                <td className="text-[12.5px] text-soft">{k.unit}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}
