import { type FormEvent, type ReactNode, useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { useOpened } from "../../kit/draft";
import { Input, Select } from "../../kit/Field";
import { Ticks } from "../../kit/Ticks";
import { tr } from "../../kit/tr";
import { weekday, whole } from "../../kit/words";
import { TrackRules } from "./TrackRules";
import { useUnits } from "./Units";

export function Form({
  title,
  children,
  send,
  onDone,
  keep,
  wrong,
}: {
  title: string;
  children: ReactNode;
  send: () => void;
  onDone: () => void;
  keep: string;
  wrong?: string;
}) {
  function submit(e: FormEvent) {
    e.preventDefault();
    send();
  }
  return (
    <form onSubmit={submit} className="mt-2 max-w-3xl border-y border-ink py-2" aria-label={title}>
      <h3>{title}</h3>
      <div className="mt-1 grid grid-cols-2 gap-2 md:grid-cols-4">{children}</div>
      {wrong && <p className="mt-1 text-clay">{wrong}</p>}
      <div className="mt-2 flex gap-2">
        <Button type="submit" look="main">
          {keep}
        </Button>
        <Button onClick={onDone}>{tr("Cancel")}</Button>
      </div>
    </form>
  );
}

/** ClassForm writes one weekly class. */
export function ClassForm({
  entry,
  tracks,
  onDone,
}: {
  entry: S["AcademyClass"] & { version: number };
  tracks: S["TrackLine"][];
  onDone: () => void;
}) {
  // The version is the one the form was opened at: a save over somebody else's is refused.
  const { version, ...opened } = useOpened(entry);
  const [c, set] = useState(opened);
  const [since, setSince] = useState("");
  const [always, setAlways] = useState(false);
  const keep = useAction(
    (_: undefined) =>
      unwrap(client.PUT("/api/timetable/classes", { params: { query: { version, since: always ? "always" : since } }, body: c })),
    () => (entry.id ? tr("Changed the class {{name}}.", { name: c.name }) : tr("Added the class {{name}}.", { name: c.name })),
    onDone,
  );
  const out = useAction(
    (_: undefined) => unwrap(client.DELETE("/api/timetable/classes/{id}", { params: { path: { id: entry.id } } })),
    () => tr("Deleted the class {{name}}.", { name: entry.name }),
    onDone,
  );
  const wrong = keep.error?.fields ?? {};
  const moved = entry.id !== "" && (["weekday", "start", "minutes", "teach_minutes", "mat"] as const).some((k) => c[k] !== opened[k]);
  return (
    <Form
      title={entry.id ? entry.name : tr("A new class")}
      send={() => keep.mutate(undefined)}
      onDone={onDone}
      keep={tr("Save class")}
      wrong={keep.error?.message ?? out.error?.message}
    >
      <div className="col-span-2">
        <Input label={tr("Class name")} value={c.name} error={wrong.name} onChange={(e) => set({ ...c, name: e.target.value })} />
      </div>
      <Select label={tr("Its track")} value={c.track} error={wrong.track} onChange={(e) => set({ ...c, track: e.target.value })}>
        {tracks.map((t) => (
          <option key={t.id} value={t.id}>
            {t.name}
          </option>
        ))}
      </Select>
      <Select label={tr("Weekday")} value={c.weekday} onChange={(e) => set({ ...c, weekday: Number(e.target.value) })}>
        {[1, 2, 3, 4, 5, 6, 7].map((d) => (
          <option key={d} value={d}>
            {weekday(d)}
          </option>
        ))}
      </Select>
      <Input
        label={tr("Start")}
        placeholder="18:00"
        value={c.start}
        error={wrong.start}
        onChange={(e) => set({ ...c, start: e.target.value })}
      />
      <Input
        label={tr("Minutes in all")}
        inputMode="numeric"
        value={c.minutes || ""}
        error={wrong.minutes}
        onChange={(e) => set({ ...c, minutes: whole(e.target.value) })}
      />
      <Input
        label={tr("Minutes to teach")}
        inputMode="numeric"
        value={c.teach_minutes || ""}
        error={wrong.teach_minutes}
        hint={tr("For teaching and drilling what the season plans")}
        onChange={(e) => set({ ...c, teach_minutes: whole(e.target.value) })}
      />
      <Input label={tr("Mat")} value={c.mat} onChange={(e) => set({ ...c, mat: e.target.value })} />
      <Input
        label={tr("First day")}
        type="date"
        value={c.from ?? ""}
        error={wrong.from}
        hint={tr("Empty: always there")}
        onChange={(e) => set({ ...c, from: e.target.value || undefined })}
      />
      <Input
        label={tr("Last day")}
        type="date"
        value={c.until ?? ""}
        error={wrong.until}
        hint={tr("Empty: no end")}
        onChange={(e) => set({ ...c, until: e.target.value || undefined })}
      />
      {moved && (
        <div className="col-span-2 flex flex-wrap items-end gap-3 border-l-2 border-ink pl-2" data-since>
          <Input
            label={tr("The change holds from")}
            type="date"
            value={since}
            disabled={always}
            error={wrong.since}
            hint={tr("Empty: today. The days before keep the hours they had.")}
            onChange={(e) => setSince(e.target.value)}
          />
          <Ticks
            label={tr("Or")}
            all={[{ id: "always", name: tr("It was always so: fix the past too") }]}
            chosen={always ? ["always"] : []}
            onChange={(ids) => setAlways(ids.length > 0)}
          />
        </div>
      )}
      {entry.id && (
        <Button className="self-end justify-self-start" look="quiet" onClick={() => out.mutate(undefined)}>
          {tr("Delete")}
        </Button>
      )}
    </Form>
  );
}

/** TrackForm writes one track. */
export function TrackForm({ track, onDone }: { track: S["AcademyTrack"] & { version: number }; onDone: () => void }) {
  const { version, ...opened } = useOpened(track);
  const [t, set] = useState(opened);
  const keep = useAction(
    (_: undefined) => unwrap(client.PUT("/api/timetable/tracks", { params: { query: { version } }, body: t })),
    () => (track.id ? tr("Changed the track {{name}}.", { name: t.name }) : tr("Added the track {{name}}.", { name: t.name })),
    onDone,
  );
  const wrong = keep.error?.fields ?? {};
  const units = useUnits("");
  const known = t.assumed ?? [];
  const teaches = (units.data?.units ?? []).filter((u) => known.includes(u.id) || (track.id && u.tracks.includes(track.id)));
  return (
    <Form
      title={track.id ? track.name : tr("A new track")}
      send={() => keep.mutate(undefined)}
      onDone={onDone}
      keep={tr("Save track")}
      wrong={keep.error?.message}
    >
      <Input label={tr("Track name")} value={t.name} error={wrong.name} onChange={(e) => set({ ...t, name: e.target.value })} />
      <Select label={tr("For whom")} value={t.audience} onChange={(e) => set({ ...t, audience: e.target.value as "all" })}>
        <option value="all">{tr("everybody")}</option>
        <option value="adult">{tr("adults")}</option>
        <option value="youth">{tr("youth")}</option>
      </Select>
      <Select label={tr("Jacket")} value={t.context} onChange={(e) => set({ ...t, context: e.target.value })}>
        <option value="both">{tr("with or without")}</option>
        <option value="gi">{tr("with")}</option>
        <option value="no-gi">{tr("without")}</option>
      </Select>
      <Input
        label={tr("Youngest")}
        inputMode="numeric"
        value={t.min_age || ""}
        error={wrong.min_age}
        hint={tr("Years; gates by age go by it")}
        onChange={(e) => set({ ...t, min_age: whole(e.target.value) || undefined })}
      />
      <TrackRules rules={t.rules ?? {}} wrong={wrong} onChange={(rules) => set({ ...t, rules })} />
      {teaches.length > 0 && (
        <Ticks
          label={tr("Known before: taught to nobody, and may be reviewed at once")}
          className="col-span-full columns-2 md:columns-3"
          stacked
          all={teaches}
          chosen={known}
          onChange={(assumed) => set({ ...t, assumed })}
        />
      )}
    </Form>
  );
}
