import { Fragment } from "react";
import type { S } from "../../api/client";

type Station = S["AcademyNamedStation"];

type Props = {
  stations: Station[];
  onChange: (stations: Station[]) => void;
  here: S["Named"][]; // the coaches who are there
  coaches: string[]; // those of them who take a station
  people: Map<string, string>;
};

/** StationTable writes each station: how long, how many at once, who leads it, what comes before it. */
export function StationTable({ stations, onChange, here, coaches, people }: Props) {
  const set = (at: number, part: Partial<Station>) => onChange(stations.map((x, i) => (i === at ? { ...x, ...part } : x)));
  return (
    <table className="grid-lines mt-2" aria-label="Stations">
      <thead>
        <tr>
          <th>Station</th>
          <th>Min</th>
          <th>Room</th>
          <th>Coach</th>
          <th>Signed off for</th>
          <th>After</th>
          <th>Must</th>
          <td />
        </tr>
      </thead>
      <tbody>
        {stations.map((x, i) => (
          <Fragment key={x.id}>
            <tr>
              <td>
                <Cell label={`Name of station ${i + 1}`} value={x.name} wide onChange={(name) => set(i, { name })} />
              </td>
              <td>
                <Cell label={`Minutes: ${x.name}`} value={String(x.minutes)} onChange={(v) => set(i, { minutes: Number(v) || 0 })} />
              </td>
              <td>
                <Cell label={`Room: ${x.name}`} value={x.room ? String(x.room) : ""} onChange={(v) => set(i, { room: Number(v) || 0 })} />
              </td>
              <td>
                <Pick label={`Coach: ${x.name}`} value={x.coach || "none"} onChange={(coach) => set(i, { coach })}>
                  <option value="none">none</option>
                  <option value="any">any</option>
                  {here
                    .filter((c) => coaches.includes(c.id))
                    .map((c) => (
                      <option key={c.id} value={c.id}>
                        {c.name}
                      </option>
                    ))}
                </Pick>
              </td>
              <td>
                <Cell
                  label={`Signed off for: ${x.name}`}
                  value={x.signoff ?? ""}
                  wide
                  onChange={(signoff) => set(i, { signoff: signoff || undefined })}
                />
              </td>
              <td>
                <Pick label={`After: ${x.name}`} value={x.after?.[0] ?? ""} onChange={(a) => set(i, { after: a ? [a] : undefined })}>
                  <option value="">any time</option>
                  {stations
                    .filter((y) => y.id !== x.id)
                    .map((y) => (
                      <option key={y.id} value={y.id}>
                        {y.name}
                      </option>
                    ))}
                </Pick>
              </td>
              <td>
                <input
                  type="checkbox"
                  aria-label={`Must: ${x.name}`}
                  checked={!!x.must}
                  onChange={(e) => set(i, { must: e.target.checked })}
                />
              </td>
              <td>
                <button
                  type="button"
                  className="link"
                  aria-label={`Remove ${x.name}`}
                  onClick={() =>
                    onChange(
                      stations
                        .filter((y) => y.id !== x.id)
                        .map((y) => ({ ...y, after: y.after?.filter((a) => a !== x.id), instead: y.instead?.filter((a) => a !== x.id) })),
                    )
                  }
                >
                  Remove
                </button>
              </td>
            </tr>
            {!!x.for?.length && <ForWhom x={x} all={stations} people={people} onChange={(part) => set(i, part)} />}
          </Fragment>
        ))}
      </tbody>
    </table>
  );
}

/** ForWhom is who catches up at a station, and which of the others they are not at meanwhile. */
function ForWhom({
  x,
  all,
  people,
  onChange,
}: {
  x: Station;
  all: Station[];
  people: Map<string, string>;
  onChange: (part: Partial<Station>) => void;
}) {
  const instead = x.instead ?? [];
  return (
    <tr data-for={x.id}>
      <td colSpan={8} className="!pt-0 text-[12.5px] text-soft">
        For {(x.for ?? []).map((id) => people.get(id) ?? id).join(", ")}
        {all.some((y) => !y.for?.length) && ", instead of "}
        {all
          .filter((y) => !y.for?.length)
          .map((y) => (
            <label key={y.id} className="mr-3 inline-flex min-h-6 items-center gap-1.5">
              <input
                type="checkbox"
                checked={instead.includes(y.id)}
                onChange={(e) => onChange({ instead: e.target.checked ? [...instead, y.id] : instead.filter((i) => i !== y.id) })}
              />
              {y.name}
            </label>
          ))}
      </td>
    </tr>
  );
}

function Cell(props: { label: string; value: string; wide?: boolean; onChange: (v: string) => void }) {
  return (
    <input
      aria-label={props.label}
      className={`h-[27px] rounded-sm border border-rule bg-white px-1 ${props.wide ? "w-full min-w-16" : "w-12"}`}
      value={props.value}
      onChange={(e) => props.onChange(e.target.value)}
    />
  );
}

function Pick(props: { label: string; value: string; onChange: (v: string) => void; children: React.ReactNode }) {
  return (
    <select
      aria-label={props.label}
      className="h-[27px] max-w-24 rounded-sm border border-rule bg-white"
      value={props.value}
      onChange={(e) => props.onChange(e.target.value)}
    >
      {props.children}
    </select>
  );
}
