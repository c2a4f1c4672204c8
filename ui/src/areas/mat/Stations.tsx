import { Fragment, useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { Input } from "../../kit/Field";
import { Empty, Note } from "../../kit/SplitPane";
import { newId } from "../../kit/words";

type Wanted = S["AcademyStations"];
type Station = S["AcademyNamedStation"];

/** Stations makes groups of those who are here and sends them from station to station, a coach at each that needs one. */
export function Stations({ page }: { page: S["SessionPage"] }) {
  const s = page.stations;
  const id = page.summary.session;
  const [draft, setDraft] = useState<Wanted>(() => begin(page));
  const people = new Map([...page.here, ...page.others].map((p) => [p.id, p.name]));
  const put = (part: Partial<Wanted>) => setDraft({ ...draft, ...part });
  const set = (at: number, part: Partial<Station>) => put({ stations: draft.stations.map((x, i) => (i === at ? { ...x, ...part } : x)) });
  const plan = useAction(
    () =>
      unwrap(
        client.PUT("/api/classes/{id}/stations", {
          params: { path: { id } },
          body: { ...draft, plan: undefined, stations: draft.stations.map((x) => ({ ...x, room: x.room || undefined })) },
        }),
      ),
    () => "Planned the stations.",
  );
  const clear = useAction(
    () => unwrap(client.DELETE("/api/classes/{id}/stations", { params: { path: { id } } })),
    () => "Took the stations out.",
  );
  if (!s) return null;
  return (
    <>
      <div className="grid grid-cols-[1fr_1fr_1fr_auto] gap-3">
        <Input
          label="Groups"
          type="number"
          min={1}
          max={20}
          value={draft.groups}
          onChange={(e) => put({ groups: Number(e.target.value) })}
        />
        <Input
          label="Minutes in all"
          type="number"
          min={1}
          max={300}
          value={draft.minutes}
          onChange={(e) => put({ minutes: Number(e.target.value) })}
        />
        <Input
          label="To change over"
          type="number"
          min={0}
          max={30}
          value={draft.change_minutes}
          onChange={(e) => put({ change_minutes: Number(e.target.value) })}
        />
        <div className="self-end">
          <Choice
            label="Groups by"
            value={draft.by}
            onChange={(by) => put({ by })}
            options={[
              { value: "mixed", label: "Mixed" },
              { value: "rank", label: "Rank" },
              { value: "size", label: "Size" },
            ]}
          />
        </div>
      </div>
      <fieldset className="mt-2 flex flex-wrap gap-x-4">
        <legend className="text-[12.5px] text-soft">Coaches who are here</legend>
        {s.here.map((c) => (
          <label key={c.id} className="flex gap-1.5">
            <input
              type="checkbox"
              checked={draft.coaches.includes(c.id)}
              onChange={(e) => put({ coaches: e.target.checked ? [...draft.coaches, c.id] : draft.coaches.filter((x) => x !== c.id) })}
            />
            {c.name}
          </label>
        ))}
      </fieldset>
      <table className="grid-lines mt-2">
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
          {draft.stations.map((x, i) => (
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
                    {s.here
                      .filter((c) => draft.coaches.includes(c.id))
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
                    {draft.stations
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
                      put({
                        stations: draft.stations
                          .filter((y) => y.id !== x.id)
                          .map((y) => ({ ...y, after: y.after?.filter((a) => a !== x.id), instead: y.instead?.filter((a) => a !== x.id) })),
                      })
                    }
                  >
                    Remove
                  </button>
                </td>
              </tr>
              {!!x.for?.length && <ForWhom x={x} all={draft.stations} people={people} onChange={(part) => set(i, part)} />}
            </Fragment>
          ))}
        </tbody>
      </table>
      <div className="mt-2 flex flex-wrap gap-2">
        <Button
          onClick={() =>
            put({
              stations: [
                ...draft.stations,
                { id: newId().slice(0, 8), name: `Station ${draft.stations.length + 1}`, minutes: 6, must: true, coach: "any" },
              ],
            })
          }
        >
          Add a station
        </Button>
        {!draft.stations.some((x) => x.checks) && (
          <Button
            title="The ledger says whom to check there, for each group"
            onClick={() =>
              put({
                stations: [
                  ...draft.stations,
                  { id: newId().slice(0, 8), name: "Checks", minutes: 8, must: true, coach: "any", checks: true },
                ],
              })
            }
          >
            Add a check station
          </Button>
        )}
        <Button look="main" disabled={plan.isPending || draft.stations.length === 0} onClick={() => plan.mutate(undefined)}>
          Plan the stations
        </Button>
        {s.given && (
          <Button look="quiet" onClick={() => clear.mutate(undefined)}>
            Take the stations out
          </Button>
        )}
      </div>
      {plan.error && <Note tone="clay">{plan.error.message}</Note>}
      {s.stale && s.rows.length > 0 && (
        <Note tone="clay" title="Somebody came or left.">
          Plan the stations again.
        </Note>
      )}
      {s.rows.length > 0 ? (
        <Ways s={s} />
      ) : (
        <Empty title="No stations planned">Each group is at every station that must be, once, and nobody waits longer than must be.</Empty>
      )}
    </>
  );
}

/** begin is the form as it opens: the stations of the class, or those the server proposes. */
function begin(page: S["SessionPage"]): Wanted {
  const { stations, coaches, minutes, change_minutes, groups, by } = page.stations as S["StationsPage"];
  return { stations, coaches, minutes, change_minutes, groups, by };
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

/** Ways is each group's way along the stations, on one line of time. */
export function Ways({ s }: { s: S["StationsPage"] }) {
  const end = Math.max(1, ...s.rows.flatMap((r) => r.visits.map((v) => v.end)));
  const left = s.plan?.left_out ?? [];
  return (
    <section className="mt-3">
      <p className="num text-soft">
        {end} minutes;{" "}
        {s.plan?.idle_minutes
          ? `the groups wait ${s.plan.idle_minutes} minutes in all; less than ${s.plan.idle_bound} cannot be.`
          : "nobody waits."}
        {left.length > 0 && ` Left out: ${left.map((id) => s.stations.find((x) => x.id === id)?.name ?? id).join(", ")}.`}
      </p>
      {s.rows.map((r, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a group is its number
        <div key={i} className="mt-2 border-t border-rule pt-1" data-group>
          <p>
            <b>Group {i + 1}</b> <span className="text-soft">{r.people.map((p) => p.name).join(", ")}</span>
          </p>
          <ol className="mt-1">
            {r.visits.map((v) => (
              <li key={v.station} className="grid grid-cols-[64px_minmax(0,1fr)_90px] items-center gap-2">
                <span className="num">
                  {v.start}–{v.end}
                </span>
                <span>
                  {v.name}
                  {v.coach && <span className="text-soft"> · {v.coach}</span>}
                  {v.checks?.map((c) => (
                    <span key={`${c.student} ${c.technique}`} className="block text-[12.5px] leading-4 text-soft" data-check>
                      {c.name}: {c.label} {c.sides.join(" and ")}
                    </span>
                  ))}
                </span>
                <svg viewBox="0 0 100 8" preserveAspectRatio="none" className="h-2 w-full" aria-hidden="true">
                  <rect width={100} height={8} fill="var(--color-hair)" />
                  <rect x={(v.start / end) * 100} width={((v.end - v.start) / end) * 100} height={8} fill="var(--color-ink)" />
                </svg>
              </li>
            ))}
          </ol>
        </div>
      ))}
    </section>
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
