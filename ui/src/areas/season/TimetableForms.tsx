import { type FormEvent, type ReactNode, useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { useOpened } from "../../kit/draft";
import { Input, Select } from "../../kit/Field";
import { Ticks } from "../../kit/Ticks";
import { weekday, whole } from "../../kit/words";
import { useUnits } from "./Units";

function Form({
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
        <Button onClick={onDone}>Cancel</Button>
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
  const keep = useAction(
    (_: undefined) => unwrap(client.PUT("/api/timetable/classes", { params: { query: { version } }, body: c })),
    () => (entry.id ? `Changed the class ${c.name}.` : `Added the class ${c.name}.`),
    onDone,
  );
  const out = useAction(
    (_: undefined) => unwrap(client.DELETE("/api/timetable/classes/{id}", { params: { path: { id: entry.id } } })),
    () => `Took out the class ${entry.name}.`,
    onDone,
  );
  const wrong = keep.error?.fields ?? {};
  return (
    <Form
      title={entry.id ? entry.name : "A new class"}
      send={() => keep.mutate(undefined)}
      onDone={onDone}
      keep="Save class"
      wrong={keep.error?.message ?? out.error?.message}
    >
      <div className="col-span-2">
        <Input label="Class name" value={c.name} error={wrong.name} onChange={(e) => set({ ...c, name: e.target.value })} />
      </div>
      <Select label="Its track" value={c.track} error={wrong.track} onChange={(e) => set({ ...c, track: e.target.value })}>
        {tracks.map((t) => (
          <option key={t.id} value={t.id}>
            {t.name}
          </option>
        ))}
      </Select>
      <Select label="Weekday" value={c.weekday} onChange={(e) => set({ ...c, weekday: Number(e.target.value) })}>
        {[1, 2, 3, 4, 5, 6, 7].map((d) => (
          <option key={d} value={d}>
            {weekday(d)}
          </option>
        ))}
      </Select>
      <Input label="Start" placeholder="18:00" value={c.start} error={wrong.start} onChange={(e) => set({ ...c, start: e.target.value })} />
      <Input
        label="Minutes in all"
        inputMode="numeric"
        value={c.minutes || ""}
        error={wrong.minutes}
        onChange={(e) => set({ ...c, minutes: whole(e.target.value) })}
      />
      <Input
        label="Minutes to teach"
        inputMode="numeric"
        value={c.teach_minutes || ""}
        error={wrong.teach_minutes}
        hint="For teaching and drilling what the season plans"
        onChange={(e) => set({ ...c, teach_minutes: whole(e.target.value) })}
      />
      <Input label="Mat" value={c.mat} onChange={(e) => set({ ...c, mat: e.target.value })} />
      {entry.id && (
        <Button className="self-end justify-self-start" look="quiet" onClick={() => out.mutate(undefined)}>
          Take it out
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
    () => (track.id ? `Changed the track ${t.name}.` : `Added the track ${t.name}.`),
    onDone,
  );
  const wrong = keep.error?.fields ?? {};
  const units = useUnits("");
  const known = t.assumed ?? [];
  const teaches = (units.data?.units ?? []).filter((u) => known.includes(u.id) || (track.id && u.tracks.includes(track.id)));
  return (
    <Form
      title={track.id ? track.name : "A new track"}
      send={() => keep.mutate(undefined)}
      onDone={onDone}
      keep="Save track"
      wrong={keep.error?.message}
    >
      <Input label="Track name" value={t.name} error={wrong.name} onChange={(e) => set({ ...t, name: e.target.value })} />
      <Select label="For whom" value={t.audience} onChange={(e) => set({ ...t, audience: e.target.value as "all" })}>
        <option value="all">everybody</option>
        <option value="adult">adults</option>
        <option value="youth">youth</option>
      </Select>
      <Select label="Jacket" value={t.context} onChange={(e) => set({ ...t, context: e.target.value })}>
        <option value="both">with or without</option>
        <option value="gi">with</option>
        <option value="no-gi">without</option>
      </Select>
      <Input
        label="Youngest"
        inputMode="numeric"
        value={t.min_age || ""}
        error={wrong.min_age}
        hint="Years; gates by age go by it"
        onChange={(e) => set({ ...t, min_age: whole(e.target.value) || undefined })}
      />
      {teaches.length > 0 && (
        <Ticks
          label="Known before: taught to nobody, and may be reviewed at once"
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

/** CoachForm writes a coach's terms: availability, sign-offs, limit, share, days away, address. */
export function CoachForm({
  coach,
  fresh,
  classes,
  signoffs,
  onDone,
}: {
  coach: S["CoachLine"];
  fresh: boolean;
  classes: S["AcademyClass"][];
  signoffs: string[];
  onDone: () => void;
}) {
  const [t, set] = useState({ ...coach.terms, out: coach.terms.out ?? [] });
  const [email, setEmail] = useState(coach.email ?? "");
  const version = useOpened(coach.version);
  const keep = useAction(
    (_: undefined) =>
      unwrap(
        client.PUT("/api/timetable/coaches/{id}", {
          params: { path: { id: coach.id }, query: { version } },
          body: { email: email || undefined, terms: t },
        }),
      ),
    () => (fresh ? `Made ${coach.name} a coach.` : `Changed the terms of ${coach.name}.`),
    onDone,
  );
  const out = useAction(
    (_: undefined) => unwrap(client.DELETE("/api/timetable/coaches/{id}", { params: { path: { id: coach.id } } })),
    () => `${coach.name} is no coach any more.`,
    onDone,
  );
  const wrong = keep.error?.fields ?? {};
  return (
    <Form
      title={fresh ? `${coach.name}, a new coach` : coach.name}
      send={() => keep.mutate(undefined)}
      onDone={onDone}
      keep="Save terms"
      wrong={keep.error?.message ?? out.error?.message}
    >
      <Ticks
        label="Available for"
        className="col-span-2"
        stacked
        all={classes.map((c) => ({
          id: c.id,
          name: (
            <>
              {c.name}{" "}
              <span className="text-soft">
                {weekday(c.weekday)} {c.start}
              </span>
            </>
          ),
        }))}
        chosen={t.available}
        onChange={(available) => set({ ...t, available })}
      />
      <Ticks
        label="Signed off for"
        className="col-span-2"
        stacked
        all={signoffs.map((s) => ({ id: s, name: s }))}
        chosen={t.signoffs}
        onChange={(signoffs) => set({ ...t, signoffs })}
      />
      <Input
        label="At most a week"
        inputMode="numeric"
        value={t.max_per_week}
        error={wrong.max_per_week}
        onChange={(e) => set({ ...t, max_per_week: whole(e.target.value) })}
      />
      <Input
        label="Share, per cent"
        inputMode="numeric"
        value={Math.round(t.share * 100)}
        error={wrong.share}
        onChange={(e) => set({ ...t, share: whole(e.target.value) / 100 })}
      />
      <div className="col-span-2">
        <Input label="Address for notices" type="email" value={email} error={wrong.email} onChange={(e) => setEmail(e.target.value)} />
      </div>
      {t.out.map((o, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the lines have no name of their own
        <div key={i} className="col-span-2 grid grid-cols-[1fr_1fr_auto] items-end gap-2">
          <Input
            label="Away from"
            type="date"
            value={o.from}
            error={wrong[`out[${i}]`]}
            onChange={(e) => set({ ...t, out: t.out.map((x, j) => (i === j ? { ...x, from: e.target.value } : x)) })}
          />
          <Input
            label="until"
            type="date"
            value={o.to}
            onChange={(e) => set({ ...t, out: t.out.map((x, j) => (i === j ? { ...x, to: e.target.value } : x)) })}
          />
          <Button aria-label={`Not away from ${o.from}`} onClick={() => set({ ...t, out: t.out.filter((_, j) => j !== i) })}>
            ✕
          </Button>
        </div>
      ))}
      <Button
        className="self-end justify-self-start"
        onClick={() => {
          const today = new Date().toISOString().slice(0, 10);
          set({ ...t, out: [...t.out, { from: today, to: today }] });
        }}
      >
        Add days away
      </Button>
      {!fresh && (
        <Button className="self-end justify-self-start" look="quiet" onClick={() => out.mutate(undefined)}>
          No coach any more
        </Button>
      )}
    </Form>
  );
}
