import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { Explain } from "../../kit/Explain";
import { Note } from "../../kit/SplitPane";

type Make = S["MakeRotation"];

/** Rotation pairs who is here. Rounds already run stay; the rest is paired anew when somebody comes late. */
export function Rotation({ page }: { page: S["SessionPage"] }) {
  const r = page.rotation;
  const pair = useAction(
    (body: Make) => unwrap(client.POST("/api/classes/{id}/rotation", { params: { path: { id: page.summary.session } }, body })),
    () => "Paired.",
  );
  const make = (change: Partial<Make>) => pair.mutate({ run: r.run, odd: r.odd as Make["odd"], mix: r.mix as Make["mix"], ...change });
  return (
    <>
      <div className="flex flex-wrap items-center gap-3">
        <Choice
          label="Ranks in a pair"
          value={r.mix as Make["mix"]}
          onChange={(mix) => make({ mix })}
          options={[
            { value: "any", label: "Any ranks" },
            { value: "similar", label: "Similar" },
            { value: "mixed", label: "Mixed" },
          ]}
        />
        <Choice
          label="Where the odd one goes"
          value={r.odd as Make["odd"]}
          onChange={(odd) => make({ odd })}
          options={[
            { value: "trio", label: "Odd one in a trio" },
            { value: "coach", label: "With the coach" },
          ]}
        />
        <Button look="main" disabled={pair.isPending} onClick={() => make({})}>
          {r.rounds.length ? "Pair again" : "Pair them"}
        </Button>
      </div>
      {pair.error && <p className="mt-1 text-clay">{pair.error.message}</p>}
      {r.stale && (
        <Note tone="clay" title="Somebody came or left.">
          The pairs are for {r.paired}. Pair again: the rounds already run stay.
        </Note>
      )}
      {r.out.map((a) => (
        <Note key={a.id} tone="clay" title={a.name}>
          {a.out ? `is not paired: ${a.out}` : a.no_live}
        </Note>
      ))}
      {r.rounds.length > 0 && (
        <p className="num mt-2 text-soft">
          {r.rounds.length} rounds;{" "}
          <Explain label="Why so many" number={r.fresh}>
            An even number of n people can work n−1 rounds before a pair must repeat, an odd number n.
          </Explain>{" "}
          are possible before a pair must repeat. {r.run > 0 && `${r.run} already run.`}
        </p>
      )}
      <ol className="mt-2 grid gap-x-6 gap-y-3 sm:grid-cols-2">
        {r.rounds.map((round, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a round is its number
          <li key={i} data-round className={i < r.run ? "opacity-60" : ""}>
            <h3 className="flex items-baseline gap-2 border-b border-rule">
              Round {i + 1}
              {i < r.run && <span className="cap">run</span>}
              {i === r.run && (
                <button type="button" className="link text-[12.5px] font-normal" onClick={() => make({ run: r.run + 1 })}>
                  This round was run
                </button>
              )}
            </h3>
            <ul>
              {round.pairs.map((p) => (
                <li key={p[0]?.id} data-pair={p.map((x) => x.id).join(" ")}>
                  {p.map((x) => x.name).join(" – ")}
                </li>
              ))}
            </ul>
            {round.odd && (
              <p className="text-soft">
                {round.odd} {round.with}
              </p>
            )}
            {round.again > 0 && <p className="text-clay">{round.again} pairs meet again</p>}
          </li>
        ))}
      </ol>
    </>
  );
}
