import { type FormEvent, useState } from "react";
import { Link } from "react-router";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { useOpened } from "../../kit/draft";
import { Input, Select } from "../../kit/Field";
import { Ticks } from "../../kit/Ticks";
import { tr } from "../../kit/tr";
import { whole } from "../../kit/words";
import { useTechniques } from "../library/words";
import { useUnits } from "./Units";

const blank: S["AcademyUnit"] = { id: "", name: "", area: "", techniques: [], tracks: [], minutes: 20, review_minutes: 8 };

/** UnitLeaf is one unit, or a new one, to be written. */
export function UnitLeaf({ season, id, onDone }: { season: string; id: string; onDone: (id?: string) => void }) {
  const units = useUnits(season);
  if (!units.data) return null;
  const line = units.data.units.find((x) => x.id === id);
  if (id !== "new" && !line) return <p className="text-clay">{tr("There is no unit of that name any more.")}</p>;
  return <UnitForm key={id} line={line} page={units.data} onDone={onDone} />;
}

function UnitForm({ line, page, onDone }: { line?: S["UnitLine"]; page: S["UnitsPage"]; onDone: (id?: string) => void }) {
  const [u, set] = useState<S["AcademyUnit"]>(() => (line ? written(line) : blank));
  const version = useOpened(line?.version ?? 0);
  const library = useTechniques();
  const keep = useAction(
    (_: undefined) => unwrap(client.PUT("/api/units", { params: { query: { version } }, body: u })),
    () => (line ? tr("Changed the unit {{name}}.", { name: u.name }) : tr("Added the unit {{name}}.", { name: u.name })),
    (done) => onDone(done.id),
  );
  const out = useAction(
    (_: undefined) => unwrap(client.DELETE("/api/units/{id}", { params: { path: { id: u.id } } })),
    () => tr("Deleted the unit {{name}}.", { name: u.name }),
    () => onDone(),
  );
  const wrong = keep.error?.fields ?? {};
  const under = (field: string) => Object.entries(wrong).find(([k]) => k === field || k.startsWith(`${field}[`))?.[1];
  const techniques = library.filter((t) => t.kind !== "movement");
  const name = (id: string) =>
    library.find((t) => t.id === id)?.name ??
    page.units.find((x) => x.id === id)?.name ??
    line?.teaches.find((t) => t.id === id)?.name ??
    id;
  function send(e: FormEvent) {
    e.preventDefault();
    keep.mutate(undefined);
  }
  return (
    <form onSubmit={send} aria-label={line ? line.name : tr("A new unit")} className="flex flex-col gap-2.5" data-unit-form>
      <div>
        <p className="cap">{tr("Unit")}</p>
        <h1>{line ? line.name : tr("A new unit")}</h1>
      </div>
      <Input
        label={tr("Unit name")}
        autoFocus={!line}
        value={u.name}
        error={wrong.name}
        onChange={(e) => set({ ...u, name: e.target.value })}
      />
      <div className="grid grid-cols-[minmax(0,2fr)_minmax(0,1fr)_minmax(0,1fr)] gap-2">
        <Input
          label={tr("Area")}
          list="unit-areas"
          value={u.area}
          error={wrong.area}
          hint={tr("Blocks stay in one")}
          onChange={(e) => set({ ...u, area: e.target.value })}
        />
        <datalist id="unit-areas">
          {page.areas.map((a) => (
            <option key={a} value={a} />
          ))}
        </datalist>
        <Input
          label={tr("Minutes")}
          inputMode="numeric"
          value={u.minutes || ""}
          error={wrong.minutes}
          hint={tr("Taught")}
          onChange={(e) => set({ ...u, minutes: whole(e.target.value) })}
        />
        <Input
          label={tr("Review minutes")}
          inputMode="numeric"
          value={u.review_minutes || ""}
          error={wrong.review_minutes}
          hint={tr("Reviewed")}
          onChange={(e) => set({ ...u, review_minutes: whole(e.target.value) })}
        />
      </div>
      <Picked
        title={tr("Teaches")}
        add={tr("Add a technique")}
        ids={u.techniques}
        all={techniques}
        name={name}
        link
        error={under("techniques")}
        onChange={(techniques) => set({ ...u, techniques })}
      />
      <Select
        label={tr("Movement it stands on")}
        value={u.movement ?? ""}
        error={wrong.movement}
        onChange={(e) => set({ ...u, movement: e.target.value || undefined })}
      >
        <option value="">{tr("none")}</option>
        {page.movements.map((m) => (
          <option key={m.id} value={m.id}>
            {m.name}
          </option>
        ))}
      </Select>
      <Ticks
        label={tr("Tracks that teach it")}
        all={page.tracks}
        chosen={u.tracks}
        onChange={(tracks) => set({ ...u, tracks })}
        error={under("tracks")}
      />
      <Picked
        title={tr("Stands on")}
        add={tr("Add a unit it stands on")}
        ids={u.requires ?? []}
        all={page.units.filter((x) => x.id !== u.id)}
        name={name}
        error={under("requires")}
        onChange={(requires) => set({ ...u, requires })}
      />
      <Input
        label={tr("Sign-off its coach needs")}
        list="unit-signoffs"
        value={u.signoff ?? ""}
        error={wrong.signoff}
        hint={tr("Left empty: every coach may teach it")}
        onChange={(e) => set({ ...u, signoff: e.target.value || undefined })}
      />
      <datalist id="unit-signoffs">
        {page.signoffs.map((s) => (
          <option key={s} value={s} />
        ))}
      </datalist>
      {(keep.error || out.error) && <p className="text-clay">{(keep.error ?? out.error)?.message}</p>}
      <div className="flex gap-2">
        <Button type="submit" look="main" disabled={keep.isPending}>
          {tr("Save unit")}
        </Button>
        <Button onClick={() => onDone()}>{tr("Cancel")}</Button>
        {line && (
          <Button look="quiet" onClick={() => out.mutate(undefined)}>
            {tr("Delete")}
          </Button>
        )}
      </div>
      {line && line.opens.length > 0 && (
        <p className="text-[13px] text-soft">
          {line.opens.join(", ")} {tr("stand on it.")}
        </p>
      )}
      <p className="text-[12.5px] text-soft">
        {tr("A plan stays as it is when a unit changes; what breaks is marked in it. Plan again to use the new minutes.")}
      </p>
    </form>
  );
}

/** written is the unit of a line, without the names around it. */
function written(x: S["UnitLine"]): S["AcademyUnit"] {
  const { id, name, techniques, movement, tracks, minutes, review_minutes, requires, area, signoff } = x;
  return { id, name, techniques, movement, tracks, minutes, review_minutes, requires, area, signoff };
}

function Picked(props: {
  title: string;
  add: string;
  ids: string[];
  all: { id: string; name: string }[];
  name: (id: string) => string;
  link?: boolean;
  error?: string;
  onChange: (ids: string[]) => void;
}) {
  const [picked, pick] = useState("");
  return (
    <fieldset>
      <legend className="cap">{props.title}</legend>
      {props.ids.map((id) => (
        <p key={id} className="flex items-baseline gap-2 border-b border-hair">
          {props.link ? (
            <Link className="link" to={`/library/${id}`}>
              {props.name(id)}
            </Link>
          ) : (
            <span>{props.name(id)}</span>
          )}
          <button
            type="button"
            className="link ml-auto text-[13px]"
            aria-label={tr("Remove from {{title}}: {{name}}", { title: props.title, name: props.name(id) })}
            onClick={() => props.onChange(props.ids.filter((x) => x !== id))}
          >
            {tr("remove")}
          </button>
        </p>
      ))}
      <div className="mt-1 grid grid-cols-[minmax(0,1fr)_auto] items-end gap-2">
        <Select label={props.add} error={props.error} value={picked} onChange={(e) => pick(e.target.value)}>
          <option value="">{tr("choose")}</option>
          {props.all
            .filter((x) => !props.ids.includes(x.id))
            .map((x) => (
              <option key={x.id} value={x.id}>
                {x.name}
              </option>
            ))}
        </Select>
        <Button
          disabled={!picked}
          aria-label={`${props.add}: ${props.name(picked)}`}
          onClick={() => {
            props.onChange([...props.ids, picked]);
            pick("");
          }}
        >
          {tr("Add")}
        </Button>
      </div>
    </fieldset>
  );
}
