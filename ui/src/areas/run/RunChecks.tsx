import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, type S, unwrap } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { Choice } from "../../kit/Choice";
import { tr } from "../../kit/tr";
import { decimal } from "../../kit/words";
import { CheckForm } from "./CheckForm";
import type { Page } from "./Run";

type Checks = S["ChecksPage"];
export type Picked = { student: S["CheckPerson"]; technique: string; sides: string[] };

/** clockOf writes minutes as 4:30. */
function clockOf(minutes: number): string {
  return `${Math.floor(minutes)}:${String(Math.round((minutes % 1) * 60)).padStart(2, "0")}`;
}

function sidesOf(sides: string[]): string {
  if (sides.length > 1) return tr("both sides");
  return sides[0] ?? "";
}

/** RunChecks says who to check now and why, and has the form for it: a check is three touches. */
export function RunChecks({ page }: { page: Page }) {
  const session = page.summary.session;
  const [minutes, setMinutes] = useState<"6" | "10" | "15" | "20">("10");
  const [coaches, setCoaches] = useState<string[]>([]);
  const [picked, pick] = useState<Picked | null>(null);
  const [done, setDone] = useState<string[]>([]);
  const plain = minutes === "10" && coaches.length === 0; // what is on the device without network
  const checks = useQuery({
    queryKey: ["checks", session, minutes, coaches],
    queryFn: () =>
      unwrap(
        client.GET("/api/classes/{id}/checks", {
          params: { path: { id: session }, query: plain ? {} : { minutes: Number(minutes), coaches } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  const p = checks.data;
  if (checks.error) return <p className="mt-4 text-clay">{checks.error.message}</p>;
  if (!p) return null;
  const form = picked && p.forms.find((f) => f.id === picked.technique);
  if (picked && form)
    return (
      <CheckForm
        key={`${picked.student.id} ${picked.technique}`}
        page={p}
        session={session}
        picked={picked}
        form={form}
        onBack={() => pick(null)}
        onKept={() => setDone([...done, `${picked.student.id} ${picked.technique}`])}
        next={nextOf(p, done, picked)}
        onNext={pick}
      />
    );
  return (
    <>
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <Choice
          big
          label={tr("Minutes there are")}
          value={minutes}
          onChange={setMinutes}
          options={(["6", "10", "15", "20"] as const).map((m) => ({ value: m, label: tr("{{m}} min", { m }) }))}
        />
      </div>
      <details className="mt-2">
        <summary className="min-h-[48px] content-center">
          {tr("Checked by")} {p.coaches.map((c) => c.name).join(", ") || tr("nobody who is a coach")}
        </summary>
        {p.can.map((c) => (
          <label key={c.id} className="flex min-h-[48px] items-center gap-3">
            <input
              type="checkbox"
              className="h-6 w-6"
              checked={p.coaches.some((x) => x.id === c.id)}
              onChange={(e) => {
                const now = p.coaches.map((x) => x.id);
                setCoaches(e.target.checked ? [...now, c.id] : now.filter((x) => x !== c.id));
              }}
            />
            {c.name}
          </label>
        ))}
      </details>
      <h2 className="mt-2">{tr("Worth most now")}</h2>
      {p.suggested.length === 0 && (
        <p className="text-soft">
          {p.people.length === 0
            ? tr("Nobody is here yet.")
            : tr("Nobody here is ready for a check or due for a refresh. Anybody can be checked on anything below.")}
        </p>
      )}
      <ol>
        {p.suggested.map((c) => {
          const who = p.people.find((x) => x.id === c.student);
          const kept = done.includes(`${c.student} ${c.technique}`);
          return (
            <li key={`${c.student} ${c.technique}`}>
              <button
                type="button"
                data-suggested
                className={`flex min-h-[64px] w-full items-start gap-3 border-b border-hair py-2 text-left ${kept ? "text-soft line-through" : ""}`}
                onClick={() => who && pick({ student: who, technique: c.technique, sides: c.sides })}
              >
                <span className="num w-10 text-soft">{clockOf(c.start)}</span>
                <span className="min-w-0 flex-1">
                  <b>{c.name}</b>{" "}
                  {p.coaches.length > 1 && <span className="text-soft">{tr("with {{coachname}}", { coachname: c.coach_name })}</span>}
                  <span className="block">{[c.label, sidesOf(c.sides)].filter(Boolean).join(", ")}</span>
                  <span className="block text-[14px] leading-5 text-soft">{c.why.join("; ")}</span>
                </span>
              </button>
            </li>
          );
        })}
      </ol>
      {p.suggested.length > 0 && (
        <p className="text-[14px] text-soft">
          {tr("Chosen of {{considered}} that could be done. {{proven}}", {
            considered: p.considered,
            proven: p.proven
              ? tr("No other choice is worth more.")
              : tr("No choice is worth more than {{bound}}; this one is worth {{value}}.", {
                  bound: decimal(p.bound, 2),
                  value: decimal(p.value, 2),
                }),
          })}
        </p>
      )}
      <h2 className="mt-4">{tr("Everybody here")}</h2>
      {p.people.map((x) => (
        <details key={x.id} className="border-b border-hair">
          <summary className="min-h-[52px] content-center">
            <Belt belt={x.belt} rank={x.rank} />
            {x.name}
            {x.out && <span className="text-[14px] text-clay"> · {x.out}</span>}
          </summary>
          {x.choices.length === 0 && <p className="pb-2 text-soft">{tr("Nothing their next rank asks for is open.")}</p>}
          {x.choices.map((c) => (
            <button
              key={c.technique}
              type="button"
              disabled={!!x.out}
              className="flex min-h-[52px] w-full items-center gap-2 pl-4 text-left"
              onClick={() => pick({ student: x, technique: c.technique, sides: c.sides })}
            >
              <span className="flex-1">
                {p.forms.find((f) => f.id === c.technique)?.name}
                <span className="block text-[14px] leading-4 text-soft">{c.summary}</span>
              </span>
            </button>
          ))}
        </details>
      ))}
    </>
  );
}

/** nextOf is the next suggested check that was not done yet. */
export function nextOf(p: Checks, done: string[], now: Picked): Picked | undefined {
  const next = p.suggested.find(
    (c) => !done.includes(`${c.student} ${c.technique}`) && (c.student !== now.student.id || c.technique !== now.technique),
  );
  const who = next && p.people.find((x) => x.id === next.student);
  return next && who ? { student: who, technique: next.technique, sides: next.sides } : undefined;
}
