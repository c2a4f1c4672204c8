import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { Explain } from "../../kit/Explain";
import { Note } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";

type Make = S["MakeRotation"];

/** Rotation pairs who is here. Rounds already run stay; the rest is paired anew when somebody comes late. */
export function Rotation({ page }: { page: S["SessionPage"] }) {
  const r = page.rotation;
  const pair = useAction(
    (body: Make) => unwrap(client.POST("/api/classes/{id}/rotation", { params: { path: { id: page.summary.session } }, body })),
    () => tr("Paired."),
  );
  const make = (change: Partial<Make>) =>
    pair.mutate({ run: r.run, odd: r.odd as Make["odd"], mix: r.mix as Make["mix"], size: r.size, ...change });
  return (
    <>
      <div className="flex flex-wrap items-center gap-3">
        <Choice
          label={tr("Ranks in a pair")}
          value={r.mix as Make["mix"]}
          onChange={(mix) => make({ mix })}
          options={[
            { value: "any", label: tr("Any ranks") },
            { value: "similar", label: tr("Similar") },
            { value: "mixed", label: tr("Mixed") },
          ]}
        />
        <Choice
          label={tr("Where the odd one goes")}
          value={r.odd as Make["odd"]}
          onChange={(odd) => make({ odd })}
          options={[
            { value: "larger", label: r.size === 2 ? tr("Odd one in a trio") : tr("One group larger") },
            { value: "coach", label: tr("With the coach") },
          ]}
        />
        <Choice
          label={tr("People in a group")}
          value={String(r.size)}
          onChange={(size) => make({ size: Number(size) })}
          options={["2", "3", "4"].map((n) => ({ value: n, label: n === "2" ? tr("Pairs") : tr("In {{n}}s", { n }) }))}
        />
        <Button look="main" disabled={pair.isPending} onClick={() => make({})}>
          {r.rounds.length ? tr("Pair again") : tr("Pair them")}
        </Button>
      </div>
      {pair.error && <p className="mt-1 text-clay">{pair.error.message}</p>}
      {r.stale && (
        <Note tone="clay" title={tr("Somebody came or left.")}>
          {tr("The pairs are for {{paired}}. Pair again: the rounds already run stay.", { paired: r.paired })}
        </Note>
      )}
      {r.out.map((a) => (
        <Note key={a.id} tone="clay" title={a.name}>
          {a.out ? tr("is not paired: {{out}}. {{instead}}", { out: a.out, instead: a.instead ?? "" }) : a.no_live}
        </Note>
      ))}
      {r.rounds.length > 0 && (
        <p className="num mt-2 text-soft">
          {tr("{{rounds}} rounds;", { rounds: r.rounds.length })}{" "}
          <Explain label={tr("Why so many")} number={r.fresh}>
            {tr(
              "An even number of n people can work n−1 rounds before two must meet again, an odd number n with the coach; with a trio it is n(n−1)/(n+3), since three meet each other.",
            )}
          </Explain>{" "}
          {tr("are possible before a pair must repeat.")} {r.run > 0 && tr("{{run}} already run.", { run: r.run })}
        </p>
      )}
      <ol className="mt-2 grid gap-x-6 gap-y-3 sm:grid-cols-2">
        {r.rounds.map((round, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a round is its number
          <li key={i} data-round className={i < r.run ? "opacity-60" : ""}>
            <h3 className="flex items-baseline gap-2 border-b border-rule">
              {tr("Round {{i}}", { i: i + 1 })}
              {i < r.run && <span className="cap">{tr("run")}</span>}
              {i === r.run && (
                <button type="button" className="link text-[12.5px] font-normal" onClick={() => make({ run: r.run + 1 })}>
                  {tr("This round was run")}
                </button>
              )}
            </h3>
            <ul>
              {round.groups.map((g) => (
                <li key={g[0]?.id} data-pair={g.map((x) => x.id).join(" ")}>
                  {g.map((x) => x.name).join(" – ")}
                </li>
              ))}
            </ul>
            {round.coach.length > 0 && (
              <p className="text-soft">
                {round.coach.map((x) => x.name).join(", ")}{" "}
                {tr("{{n}} with the coach", { n: round.coach.length === 1 ? tr("works") : tr("work") })}
              </p>
            )}
            {round.again > 0 && <p className="text-clay">{tr("{{again}} meet again", { again: round.again })}</p>}
          </li>
        ))}
      </ol>
    </>
  );
}
