import { useState } from "react";
import type { S } from "../../api/client";
import { Options } from "../../kit/Field";
import { tr } from "../../kit/tr";

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
      <h2>{tr("Segments of a class")}</h2>
      <div className="flex flex-wrap items-baseline gap-3 text-[12.5px] text-soft">
        <label>
          {tr("For")}{" "}
          <select
            aria-label={tr("Segments of which track")}
            className="h-[27px] rounded-sm border border-rule bg-white text-ink"
            value={track}
            onChange={(e) => show(e.target.value)}
          >
            <option value="">{tr("all tracks")}</option>
            {page.tracks.map((t) => (
              <option key={t.id} value={t.id}>
                {t.name}
                {sheets.some((s) => s.track === t.id) ? ` ${tr("(its own)")}` : ""}
              </option>
            ))}
          </select>
        </label>
        {track && own < 0 && <span>{tr("as for all tracks; what you change is this track's own")}</span>}
        {track && own >= 0 && (
          <button type="button" className="link" onClick={() => props.onChange(sheets.filter((_, i) => i !== own))}>
            {tr("As for all tracks again")}
          </button>
        )}
      </div>
      <table className="grid-lines mt-1">
        <thead>
          <tr>
            <th>{tr("Segment")}</th>
            <th>{tr("How much it matters")}</th>
            <th>{tr("Least")}</th>
            <th>{tr("Wanted")}</th>
            <th>{tr("Most")}</th>
            <th>{tr("In")}</th>
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
                    aria-label={tr("How much it matters: {{name}}", { name: k.name })}
                    className="h-[27px] rounded-sm border border-rule bg-white"
                    value={r.rank}
                    onChange={(e) => change(k.kind, { rank: e.target.value as Rank })}
                  >
                    <Options of={["must", "should", "if there is time", "never"]} />
                  </select>
                </td>
                <td>{length(tr("Least"), "min")}</td>
                <td>{length(tr("Wanted"), "want")}</td>
                <td>{length(tr("Most"), "max")}</td>
                <td className="text-[12.5px] text-soft">{k.unit}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}
