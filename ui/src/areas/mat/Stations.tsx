import { useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { Input } from "../../kit/Field";
import { Empty, Note } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { newId } from "../../kit/words";
import { StationTable } from "./StationTable";
import { Ways } from "./Ways";

type Wanted = S["AcademyStations"];

/** Stations makes groups of those who are here and sends them from station to station, a coach at each that needs one. */
export function Stations({ page }: { page: S["SessionPage"] }) {
  return page.stations ? <Planner page={page} s={page.stations} /> : null;
}

function Planner({ page, s }: { page: S["SessionPage"]; s: S["StationsPage"] }) {
  const id = page.summary.session;
  const [draft, setDraft] = useState<Wanted>(() => begin(s));
  const people = new Map([...page.here, ...page.others].map((p) => [p.id, p.name]));
  const put = (part: Partial<Wanted>) => setDraft({ ...draft, ...part });
  const plan = useAction(
    () =>
      unwrap(
        client.PUT("/api/classes/{id}/stations", {
          params: { path: { id } },
          body: { ...draft, plan: undefined, stations: draft.stations.map((x) => ({ ...x, room: x.room || undefined })) },
        }),
      ),
    () => tr("Planned the stations."),
  );
  const clear = useAction(
    () => unwrap(client.DELETE("/api/classes/{id}/stations", { params: { path: { id } } })),
    () => tr("Removed the stations."),
  );
  return (
    <>
      <div className="grid grid-cols-[1fr_1fr_1fr_auto] gap-3">
        <Input
          label={tr("Groups")}
          type="number"
          min={1}
          max={20}
          value={draft.groups}
          onChange={(e) => put({ groups: Number(e.target.value) })}
        />
        <Input
          label={tr("Minutes in all")}
          type="number"
          min={1}
          max={300}
          value={draft.minutes}
          onChange={(e) => put({ minutes: Number(e.target.value) })}
        />
        <Input
          label={tr("To change over")}
          type="number"
          min={0}
          max={30}
          value={draft.change_minutes}
          onChange={(e) => put({ change_minutes: Number(e.target.value) })}
        />
        <div className="self-end">
          <Choice
            label={tr("Groups by")}
            value={draft.by}
            onChange={(by) => put({ by })}
            options={[
              { value: "mixed", label: tr("Mixed") },
              { value: "rank", label: tr("Rank") },
              { value: "size", label: tr("Size") },
            ]}
          />
        </div>
      </div>
      <fieldset className="mt-2 flex flex-wrap gap-x-4">
        <legend className="text-[12.5px] text-soft">{tr("Coaches who are here")}</legend>
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
      <StationTable
        stations={draft.stations}
        onChange={(stations) => put({ stations })}
        here={s.here}
        coaches={draft.coaches}
        people={people}
      />
      <div className="mt-2 flex flex-wrap gap-2">
        <Button
          onClick={() =>
            put({
              stations: [
                ...draft.stations,
                {
                  id: newId().slice(0, 8),
                  name: tr("Station {{n}}", { n: draft.stations.length + 1 }),
                  minutes: 6,
                  must: true,
                  coach: "any",
                },
              ],
            })
          }
        >
          {tr("Add a station")}
        </Button>
        {!draft.stations.some((x) => x.checks) && (
          <Button
            title={tr("The ledger says whom to check there, for each group")}
            onClick={() =>
              put({
                stations: [
                  ...draft.stations,
                  { id: newId().slice(0, 8), name: tr("Checks"), minutes: 8, must: true, coach: "any", checks: true },
                ],
              })
            }
          >
            {tr("Add a check station")}
          </Button>
        )}
        <Button look="main" disabled={plan.isPending || draft.stations.length === 0} onClick={() => plan.mutate(undefined)}>
          {tr("Plan the stations")}
        </Button>
        {s.given && (
          <Button look="quiet" onClick={() => clear.mutate(undefined)}>
            {tr("Remove the stations")}
          </Button>
        )}
      </div>
      {plan.error && <Note tone="clay">{plan.error.message}</Note>}
      {s.stale && s.rows.length > 0 && (
        <Note tone="clay" title={tr("Somebody came or left.")}>
          {tr("Plan the stations again.")}
        </Note>
      )}
      {s.rows.length > 0 ? (
        <Ways s={s} />
      ) : (
        <Empty title={tr("No stations planned")}>
          {tr("Each group is at every station that must be, once, and nobody waits longer than must be.")}
        </Empty>
      )}
    </>
  );
}

/** begin is the form as it opens: the stations of the class, or those the server proposes. */
function begin(s: S["StationsPage"]): Wanted {
  const { stations, coaches, minutes, change_minutes, groups, by } = s;
  return { stations, coaches, minutes, change_minutes, groups, by };
}
