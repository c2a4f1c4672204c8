import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { useOpened, useUnsaved } from "../../kit/draft";
import { Input, Select } from "../../kit/Field";
import { Refusal } from "../../kit/Refusal";
import { Note } from "../../kit/SplitPane";

type Form = S["SettingsForm"];

/** SettingsForm changes the academy's numbers: each with its meaning and its default, and what moves before it is saved. */
export function SettingsForm({ page, onDone }: { page: S["AcademyPage"]; onDone: () => void }) {
  const opened = useOpened({ form: page.form, usual: page.usual_form, version: page.version });
  const [f, set] = useState<Form>(opened.form);
  const put = (part: Partial<Form>) => set({ ...f, ...part });
  const dirty = JSON.stringify(f) !== JSON.stringify(opened.form);
  const moves = useQuery({
    queryKey: ["settings trial", f],
    queryFn: () => unwrap(client.POST("/api/academy/settings/trial", { body: f })),
    enabled: dirty,
    retry: false,
  });
  const ladders = useQuery({ queryKey: ["ladders"], queryFn: () => unwrap(client.GET("/api/ladders")) });
  const save = useAction(
    () => unwrap(client.PUT("/api/academy/settings", { params: { query: { version: opened.version } }, body: f })),
    () => "Changed the settings.",
    onDone,
  );
  useUnsaved(dirty && !save.isPending && !save.isSuccess);
  const wrong = save.error?.fields ?? {};
  const usual = opened.usual;
  const share = (label: string, value: number, by: number, hint: string, on: (x: number) => void, field: string) => (
    <Input
      label={label}
      type="number"
      min={0}
      max={100}
      value={Math.round(value * 100)}
      error={wrong[field]}
      hint={`${hint}. 0 to 100 %; usually ${Math.round(by * 100)} %`}
      onChange={(e) => on(Number(e.target.value) / 100)}
    />
  );
  const adult = (ladders.data ?? []).find((l) => l.audience === "adult");
  return (
    <form
      className="flex flex-col gap-3 pb-4"
      onSubmit={(e: FormEvent) => {
        e.preventDefault();
        save.mutate(undefined);
      }}
    >
      <h1>Change settings</h1>
      {save.error && <Refusal error={save.error} />}
      <div className="grid grid-cols-2 gap-x-3 gap-y-2">
        <Input
          label="Time zone"
          value={f.zone}
          error={wrong.zone}
          hint="What is today, and when a class begins"
          onChange={(e) => put({ zone: e.target.value })}
        />
        <Select label="First day of the week" value={f.week_start} onChange={(e) => put({ week_start: Number(e.target.value) })}>
          {["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"].map((d, i) => (
            <option key={d} value={i + 1}>
              {d}
            </option>
          ))}
        </Select>
        {share(
          "Share to pass a check",
          f.pass_share,
          usual.pass_share,
          "Least score of the key points that are no gates",
          (x) => put({ pass_share: x }),
          "standard.pass_share",
        )}
        <Input
          label="Tries against live resistance"
          type="number"
          min={1}
          max={99}
          value={f.live_tries}
          error={wrong["standard.live_tries"]}
          hint={`Fewer prove too little. 1 to 99; usually ${usual.live_tries}`}
          onChange={(e) => put({ live_tries: Number(e.target.value) })}
        />
        {share(
          "Share against live resistance",
          f.live_default,
          usual.live_default,
          "Least lower end of the 95 % interval (Wilson)",
          (x) => put({ live_default: x }),
          "standard.live_default",
        )}
        {Object.entries(f.live_share).map(([kind, x]) => (
          <div key={kind}>
            {share(
              `The same for: ${kind}`,
              x,
              usual.live_share[kind] ?? usual.live_default,
              "Instead, for this kind",
              (y) => put({ live_share: { ...f.live_share, [kind]: y } }),
              `standard.live_share.${kind}`,
            )}
          </div>
        ))}
        <Input
          label="Exposures that cover a unit"
          type="number"
          min={0.5}
          max={20}
          step={0.5}
          value={f.season_need}
          error={wrong.season_need}
          hint={`In a season; a full teach is 1, a review ½. Usually ${usual.season_need}`}
          onChange={(e) => put({ season_need: Number(e.target.value) })}
        />
        <Input
          label="Reviews after weeks"
          defaultValue={f.spacing.join(", ")}
          error={wrong["spacing.weeks[0]"]}
          hint={`Between commas; usually ${usual.spacing.join(", ")}, give or take ${usual.tolerance}`}
          onChange={(e) => {
            const weeks = e.target.value
              .split(/[,; ]+/)
              .map(Number)
              .filter((n) => n > 0);
            if (weeks.length) put({ spacing: weeks });
          }}
        />
        <Input
          label="Delete notes and ended holds after months"
          type="number"
          min={0}
          max={240}
          value={f.notes_months}
          hint="0 keeps them. Health is kept no longer than it is needed"
          onChange={(e) => put({ notes_months: Number(e.target.value) })}
        />
        <label className="flex items-center gap-2 self-center">
          <input type="checkbox" checked={f.second_factor} onChange={(e) => put({ second_factor: e.target.checked })} />
          Head instructors give a code besides their password
        </label>
      </div>
      <section>
        <h2>Gates</h2>
        <p className="text-[12.5px] text-soft">
          From which age and rank a technique that loads this may be taught or checked; an escape may come earlier. Ranks are those of{" "}
          {adult?.name ?? "the adult ladder"}. Competition rules and local law on minors differ: these limits are yours to set.
        </p>
        <table className="grid-lines mt-1">
          <thead>
            <tr>
              <th>Loads</th>
              <th>From age</th>
              <th>From rank</th>
              <th>Escape: age</th>
              <th>Escape: rank</th>
            </tr>
          </thead>
          <tbody>
            {page.risks.map((r) => {
              const i = f.gates.findIndex((g) => g.class === r.class);
              const g: S["SafetyGate"] = f.gates[i] ?? { class: r.class };
              const change = (part: Partial<S["SafetyGate"]>) => {
                const next = { ...g, ...part };
                put({ gates: i < 0 ? [...f.gates, next] : f.gates.map((x, j) => (j === i ? next : x)) });
              };
              const age = (label: string, value: number | undefined, on: (n: number | undefined) => void) => (
                <input
                  aria-label={`${label}: ${r.class}`}
                  type="number"
                  min={0}
                  max={99}
                  className="h-[27px] w-16 rounded-sm border border-rule bg-white px-1"
                  value={value ?? ""}
                  onChange={(e) => on(e.target.value === "" ? undefined : Number(e.target.value))}
                />
              );
              const rank = (label: string, value: number | undefined, on: (n: number | undefined) => void, same?: string) => (
                <select
                  aria-label={`${label}: ${r.class}`}
                  className="h-[27px] rounded-sm border border-rule bg-white"
                  value={value ?? ""}
                  onChange={(e) => on(e.target.value === "" ? undefined : Number(e.target.value))}
                >
                  <option value="">{same ?? "any"}</option>
                  {(adult?.ranks ?? []).map((x, n) => (
                    <option key={x.id} value={n}>
                      {x.name}
                    </option>
                  ))}
                </select>
              );
              return (
                <tr key={r.class}>
                  <td>
                    {r.class} <span className="text-[12.5px] text-soft">{r.regions.join(", ")}</span>
                  </td>
                  <td>{age("From age", g.min_age, (min_age) => change({ min_age }))}</td>
                  <td>{rank("From rank", g.min_rank, (min_rank) => change({ min_rank }))}</td>
                  <td>{age("Escape from age", g.escape_age, (escape_age) => change({ escape_age }))}</td>
                  <td>{rank("Escape from rank", g.escape_rank, (escape_rank) => change({ escape_rank }), "the same")}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </section>
      {dirty && moves.data && (
        <Note title="What moves:" tone="lake">
          {moves.data.length === 0 && "nothing that is here."}
          <ul>
            {moves.data.map((m) => (
              <li key={m}>{m}</li>
            ))}
          </ul>
        </Note>
      )}
      {dirty && moves.error && <p className="text-clay">{moves.error.message}</p>}
      <div className="flex flex-wrap gap-2">
        <Button type="submit" look="main" disabled={!dirty || save.isPending}>
          Save settings
        </Button>
        <Button onClick={onDone}>Cancel</Button>
        <Button look="quiet" onClick={() => set({ ...usual, zone: f.zone, week_start: f.week_start })}>
          Usual values
        </Button>
      </div>
    </form>
  );
}
