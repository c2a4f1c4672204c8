import { useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { useOpened } from "../../kit/draft";
import { Input } from "../../kit/Field";
import { Ticks } from "../../kit/Ticks";
import { tr } from "../../kit/tr";
import { weekday, whole } from "../../kit/words";
import { Form } from "./TimetableForms";

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
    () => (fresh ? tr("Made {{name}} a coach.", { name: coach.name }) : tr("Changed the terms of {{name}}.", { name: coach.name })),
    onDone,
  );
  const out = useAction(
    (_: undefined) => unwrap(client.DELETE("/api/timetable/coaches/{id}", { params: { path: { id: coach.id } } })),
    () => tr("{{name}} is no coach any more.", { name: coach.name }),
    onDone,
  );
  const wrong = keep.error?.fields ?? {};
  return (
    <Form
      title={fresh ? tr("{{name}}, a new coach", { name: coach.name }) : coach.name}
      send={() => keep.mutate(undefined)}
      onDone={onDone}
      keep={tr("Save terms")}
      wrong={keep.error?.message ?? out.error?.message}
    >
      <Ticks
        label={tr("Available for")}
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
        label={tr("Signed off for")}
        className="col-span-2"
        stacked
        all={signoffs.map((s) => ({ id: s, name: s }))}
        chosen={t.signoffs}
        onChange={(signoffs) => set({ ...t, signoffs })}
      />
      <Input
        label={tr("At most a week")}
        inputMode="numeric"
        value={t.max_per_week}
        error={wrong.max_per_week}
        onChange={(e) => set({ ...t, max_per_week: whole(e.target.value) })}
      />
      <Input
        label={tr("Share, per cent")}
        inputMode="numeric"
        value={Math.round(t.share * 100)}
        error={wrong.share}
        onChange={(e) => set({ ...t, share: whole(e.target.value) / 100 })}
      />
      <div className="col-span-2">
        <Input
          label={tr("Address for notices")}
          type="email"
          value={email}
          error={wrong.email}
          onChange={(e) => setEmail(e.target.value)}
        />
      </div>
      {t.out.map((o, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the lines have no name of their own
        <div key={i} className="col-span-2 grid grid-cols-[1fr_1fr_auto] items-end gap-2">
          <Input
            label={tr("Away from")}
            type="date"
            value={o.from}
            error={wrong[`out[${i}]`]}
            onChange={(e) => set({ ...t, out: t.out.map((x, j) => (i === j ? { ...x, from: e.target.value } : x)) })}
          />
          <Input
            label={tr("until")}
            type="date"
            value={o.to}
            onChange={(e) => set({ ...t, out: t.out.map((x, j) => (i === j ? { ...x, to: e.target.value } : x)) })}
          />
          <Button
            aria-label={tr("Not away from {{from}}", { from: o.from })}
            onClick={() => set({ ...t, out: t.out.filter((_, j) => j !== i) })}
          >
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
        {tr("Add days away")}
      </Button>
      {!fresh && (
        <Button className="self-end justify-self-start" look="quiet" onClick={() => out.mutate(undefined)}>
          {tr("No coach any more")}
        </Button>
      )}
    </Form>
  );
}
