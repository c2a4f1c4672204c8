import { Fragment } from "react";
import type { S } from "../../api/client";
import { tr } from "../../kit/tr";

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
    <table className="grid-lines mt-2" aria-label={tr("Stations")}>
      <thead>
        <tr>
          <th>{tr("Station")}</th>
          <th>{tr("Min")}</th>
          <th>{tr("Room")}</th>
          <th>{tr("Coach")}</th>
          <th>{tr("Signed off for")}</th>
          <th>{tr("After")}</th>
          <th>{tr("Must")}</th>
          <td />
        </tr>
      </thead>
      <tbody>
        {stations.map((x, i) => (
          <Fragment key={x.id}>
            <tr>
              <td>
                <Cell label={tr("Name of station {{i}}", { i: i + 1 })} value={x.name} wide onChange={(name) => set(i, { name })} />
              </td>
              <td>
                <Cell
                  label={tr("Minutes: {{name}}", { name: x.name })}
                  value={String(x.minutes)}
                  onChange={(v) => set(i, { minutes: Number(v) || 0 })}
                />
              </td>
              <td>
                <Cell
                  label={tr("Room: {{name}}", { name: x.name })}
                  value={x.room ? String(x.room) : ""}
                  onChange={(v) => set(i, { room: Number(v) || 0 })}
                />
              </td>
              <td>
                <Pick label={tr("Coach: {{name}}", { name: x.name })} value={x.coach || "none"} onChange={(coach) => set(i, { coach })}>
                  <option value="none">{tr("none")}</option>
                  <option value="any">{tr("any")}</option>
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
                  label={tr("Signed off for: {{name}}", { name: x.name })}
                  value={x.signoff ?? ""}
                  wide
                  onChange={(signoff) => set(i, { signoff: signoff || undefined })}
                />
              </td>
              <td>
                <Pick
                  label={tr("After: {{name}}", { name: x.name })}
                  value={x.after?.[0] ?? ""}
                  onChange={(a) => set(i, { after: a ? [a] : undefined })}
                >
                  <option value="">{tr("any time")}</option>
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
                  aria-label={tr("Must: {{name}}", { name: x.name })}
                  checked={!!x.must}
                  onChange={(e) => set(i, { must: e.target.checked })}
                />
              </td>
              <td>
                <button
                  type="button"
                  className="link"
                  aria-label={tr("Remove {{name}}", { name: x.name })}
                  onClick={() =>
                    onChange(
                      stations
                        .filter((y) => y.id !== x.id)
                        .map((y) => ({ ...y, after: y.after?.filter((a) => a !== x.id), instead: y.instead?.filter((a) => a !== x.id) })),
                    )
                  }
                >
                  {tr("Remove")}
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
        {tr("For")} {(x.for ?? []).map((id) => people.get(id) ?? id).join(", ")}
        {all.some((y) => !y.for?.length) && `${tr(", instead of")} `}
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
