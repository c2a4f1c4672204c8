import { useState } from "react";
import { Link } from "react-router";
import type { S } from "../../api/client";
import { tr } from "../../kit/tr";
import type { Row } from "./TableEditor";

export function CueHead({
  cue,
  onChange,
  onRemove,
}: {
  cue: S["LibraryCue"];
  onChange: (cue: S["LibraryCue"]) => void;
  onRemove: () => void;
}) {
  const [values, setValues] = useState(cue.values.join(", "));
  const read = (text: string) =>
    text
      .split(",")
      .map((v) => v.trim())
      .filter(Boolean);
  return (
    <div className="flex flex-col gap-1 font-sans font-normal text-ink">
      <div className="flex gap-1">
        <input
          aria-label={tr("Cue {{id}}", { id: cue.id })}
          value={cue.id}
          onChange={(e) => onChange({ ...cue, id: e.target.value })}
          className="h-6 w-full min-w-0 rounded-sm border border-rule bg-white px-1 font-semibold"
        />
        <button
          type="button"
          aria-label={tr("Remove cue {{id}}", { id: cue.id })}
          className="no-print min-h-6 min-w-6 px-0.5 text-soft"
          onClick={onRemove}
        >
          ✕
        </button>
      </div>
      <input
        aria-label={tr("Values of {{id}}", { id: cue.id })}
        title={tr("Values, between commas")}
        value={values}
        onChange={(e) => {
          setValues(e.target.value);
          onChange({ ...cue, values: read(e.target.value) });
        }}
        onBlur={() => setValues(cue.values.join(", "))}
        className="no-print h-6 w-full min-w-0 rounded-sm border border-rule bg-white px-1 text-[12.5px]"
      />
    </div>
  );
}

export function RowLine(props: {
  row: Row;
  cues: S["LibraryCue"][];
  writes: boolean;
  answers: S["TechniqueLine"][];
  others: S["TechniqueLine"][];
  name: string;
  mark?: string;
  onChange: (row: Row) => void;
  onRemove: () => void;
}) {
  const { row, cues, writes } = props;
  const toggle = (cue: S["LibraryCue"], value: string) => {
    const had = row.when[cue.id] ?? [];
    const next = had.includes(value) ? had.filter((v) => v !== value) : cue.values.filter((v) => v === value || had.includes(v));
    const { [cue.id]: _, ...rest } = row.when;
    // All of them, or none of them, is the same as any.
    props.onChange({ ...row, when: next.length === 0 || next.length === cue.values.length ? rest : { ...rest, [cue.id]: next } });
  };
  return (
    <tr className="align-top">
      <td className="num text-soft">
        {row.id}
        {props.mark && <span className="block text-[11.5px] leading-3 font-semibold text-clay">{props.mark}</span>}
      </td>
      {cues.map((c) => {
        const chosen = row.when[c.id];
        return (
          <td key={c.id}>
            {writes ? (
              <fieldset aria-label={`${row.id}, ${c.id}`} className="flex flex-wrap gap-x-1.5 gap-y-px">
                {c.values.map((v) => (
                  <button
                    key={v}
                    type="button"
                    aria-pressed={!!chosen?.includes(v)}
                    aria-label={`${row.id}: ${c.id} ${v}`}
                    onClick={() => toggle(c, v)}
                    className={`rounded-sm border px-1 min-h-[25px] min-w-6 text-[12.5px] leading-[18px] ${
                      chosen?.includes(v) ? "border-ink bg-ink text-white" : "border-transparent text-soft hover:border-rule"
                    }`}
                  >
                    {v}
                  </button>
                ))}
                {!chosen && <span className="text-[12.5px] text-soft italic">{tr("any")}</span>}
              </fieldset>
            ) : chosen ? (
              chosen.join(" or ")
            ) : (
              <span className="text-soft italic">{tr("any")}</span>
            )}
          </td>
        );
      })}
      <td>
        {writes ? (
          <select
            aria-label={tr("Answer of {{id}}", { id: row.id })}
            value={row.then}
            onChange={(e) => props.onChange({ ...row, then: e.target.value })}
            className={`h-7 w-full rounded-sm border bg-white px-1 ${row.then ? "border-rule" : "border-clay"}`}
          >
            <option value="">{tr("Choose an answer")}</option>
            <optgroup label={tr("Starts here")}>
              {props.answers.map((a) => (
                <option key={a.id} value={a.id}>
                  {a.name}
                </option>
              ))}
            </optgroup>
            <optgroup label={tr("Elsewhere")}>
              {props.others
                .filter((o) => !props.answers.some((a) => a.id === o.id))
                .map((a) => (
                  <option key={a.id} value={a.id}>
                    {a.name}
                  </option>
                ))}
            </optgroup>
          </select>
        ) : (
          <Link className="link" to={`/library/${row.then}`}>
            {props.name}
          </Link>
        )}
      </td>
      <td>
        {writes ? (
          <input
            type="number"
            min={1}
            aria-label={tr("Priority of {{id}}", { id: row.id })}
            value={row.priority}
            onChange={(e) => props.onChange({ ...row, priority: Number(e.target.value) })}
            className="num h-7 w-12 rounded-sm border border-rule bg-white px-1"
          />
        ) : (
          <span className="num">{row.priority}</span>
        )}
      </td>
      {writes && (
        <td>
          <button
            type="button"
            aria-label={tr("Remove {{id}}", { id: row.id })}
            className="no-print px-1 text-soft"
            onClick={props.onRemove}
          >
            ✕
          </button>
        </td>
      )}
    </tr>
  );
}
