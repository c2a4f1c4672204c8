import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { tr } from "../../kit/tr";
import { place } from "../mat/clock";
import type { useClock } from "../mat/useClock";
import { Ways } from "../mat/Ways";
import type { Page } from "./Run";
import { big } from "./RunNow";

/** RunGroups is who works with whom now and next, made and repaired by one tap. */
export function RunGroups({ page, clock }: { page: Page; clock: ReturnType<typeof useClock> }) {
  const r = page.rotation;
  const stretch = clock.stretches[place(clock.stretches, clock.passed).at];
  const now = Math.max(1, stretch?.round ?? 1);
  const pair = useAction(
    (body: S["MakeRotation"]) =>
      unwrap(client.POST("/api/classes/{id}/rotation", { params: { path: { id: page.summary.session } }, body })),
    () => tr("Paired."),
  );
  // What the clock has been through was run; the rest is made anew.
  const begun = clock.page?.begun && stretch ? Math.max(r.run, stretch.round) : r.run;
  const make = (change: Partial<S["MakeRotation"]>) =>
    pair.mutate({
      run: Math.min(begun, r.rounds.length),
      odd: r.odd as "larger" | "coach",
      mix: r.mix as "any" | "similar" | "mixed",
      size: r.size,
      ...change,
    });
  return (
    <>
      <div className="mt-3 flex gap-2">
        <button
          type="button"
          className={big}
          data-main={r.rounds.length === 0 || r.stale}
          disabled={pair.isPending}
          onClick={() => make({})}
        >
          {r.rounds.length ? tr("Pair again") : tr("Pair them")}
        </button>
        <button type="button" className={big} onClick={() => make({ odd: r.odd === "coach" ? "larger" : "coach" })}>
          {tr("Odd one: {{odd}}", { odd: r.odd === "coach" ? tr("coach") : tr("trio") })}
        </button>
        <button type="button" className={big} onClick={() => make({ size: r.size === 2 ? 3 : 2 })}>
          {r.size === 2 ? tr("Pairs") : tr("In {{size}}s", { size: r.size })}
        </button>
      </div>
      {pair.error && <p className="mt-2 text-clay">{pair.error.message}</p>}
      {r.stale && <p className="mt-2 text-clay">{tr("Somebody came or left. Pair again: the rounds already run stay.")}</p>}
      {r.out.map((a) => (
        <p key={a.id} className="mt-1 text-clay">
          {a.name}: {a.out || a.no_live} {a.instead}
        </p>
      ))}
      {page.stations && page.stations.rows.length > 0 && (
        <section className="mt-3">
          <h2>{tr("Stations")}</h2>
          {page.stations.stale && <p className="text-clay">{tr("Somebody came or left: plan the stations again at the desk.")}</p>}
          <Ways s={page.stations} />
        </section>
      )}
      {r.rounds.map((round, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a round is its number
        <section key={i} className={`mt-4 ${i + 1 < now ? "opacity-50" : ""}`} data-round>
          <h2 className="border-b-[1.5px] border-ink">
            {tr("Round {{i}}", { i: i + 1 })} {i + 1 === now && <span className="cap text-lake">{tr("now")}</span>}
          </h2>
          <ul className={i + 1 === now ? "text-[19px] leading-8" : ""}>
            {round.groups.map((g) => (
              <li key={g[0]?.id} className="border-b border-hair">
                {g.map((x) => x.name).join(" – ")}
              </li>
            ))}
            {round.coach.length > 0 && (
              <li className="text-soft">
                {round.coach.map((x) => x.name).join(", ")} {tr("with the coach")}
              </li>
            )}
          </ul>
        </section>
      ))}
    </>
  );
}
