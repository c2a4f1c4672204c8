import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { tr, word } from "../../kit/tr";
import type { Filter } from "./MapView";
import { PickPlace } from "./Pick";
import { usePositions } from "./words";

export function ChainFinder({ filter, start, onChain }: { filter: Filter; start: string; onChain: (places: string[]) => void }) {
  const positions = usePositions();
  const [from, setFrom] = useState<S["LibraryPlace"]>();
  const [to, setTo] = useState<S["LibraryPlace"]>();
  const [by, setBy] = useState<"steps" | "minutes">("steps");
  const [avoid, setAvoid] = useState<{ id: string; name: string }[]>([]);
  const [asked, ask] = useState(false);
  const [turned, turn] = useState<"as taught" | "other">("as taught");
  const begin = from ?? (start ? { position: start, part: "attack" } : undefined);
  const found = useQuery({
    queryKey: ["chain", filter, begin, to, by, avoid, turned],
    enabled: asked && !!begin,
    queryFn: async () => {
      const c = await unwrap(
        client.GET("/api/map/chain", {
          params: {
            query: {
              ...filter,
              from: `${begin?.position}/${begin?.part}`,
              to: to ? `${to.position}/${to.part}` : "finish",
              by,
              turned: turned === "other" || undefined,
              avoid: avoid.length ? avoid.map((a) => a.id) : undefined,
            },
          },
        }),
      );
      onChain(c.found ? c.steps.flatMap((s, i) => (i === 0 ? [s.from_id, s.to_id] : [s.to_id])).filter(Boolean) : []);
      return c;
    },
  });
  const c = found.data;
  return (
    <section aria-label={tr("Chain finder")} className="mb-4">
      <h2 className="border-b-[1.5px] border-ink pb-0.5">{tr("Shortest chain")}</h2>
      <div className="mt-1 flex flex-col gap-1.5">
        <PickPlace label={tr("From")} value={begin} positions={positions} onChange={setFrom} />
        <PickPlace label={tr("To")} value={to} positions={positions} none={tr("any finish")} onChange={setTo} />
        <div className="flex items-end gap-2">
          <Choice
            label={tr("Shortest by")}
            value={by}
            onChange={setBy}
            options={[
              { value: "steps", label: tr("by steps") },
              { value: "minutes", label: tr("by minutes") },
            ]}
          />
          <Button look="main" disabled={!begin} onClick={() => ask(true)}>
            {tr("Find it")}
          </Button>
        </div>
      </div>
      <div className="mt-1.5 flex flex-wrap items-center gap-2 text-[13px]">
        <Choice
          label={tr("Side of the chain")}
          value={turned}
          onChange={turn}
          options={[
            { value: "as taught", label: tr("As taught") },
            { value: "other", label: tr("Other side") },
          ]}
        />
        <span className="text-soft">{tr("If the partner tilts the other way, the whole chain turns.")}</span>
      </div>
      {avoid.length > 0 && (
        <p className="mt-1 text-[13px]">
          {tr("Without")}{" "}
          {avoid.map((a) => (
            <button key={a.id} type="button" className="mr-2 link" onClick={() => setAvoid(avoid.filter((x) => x.id !== a.id))}>
              {a.name} ✕
            </button>
          ))}
        </p>
      )}
      {found.error && <p className="text-clay">{found.error.message}</p>}
      {asked && c && (
        <div data-chain={c.found ? c.steps.length : "none"}>
          <p className={c.found ? "mt-1 font-semibold" : "mt-1 text-clay"}>{c.summary}</p>
          {!c.found && c.reached.length > 0 && (
            <p className="text-[12.5px] text-soft">
              {tr("From there one gets to:")} {c.reached.join("; ")}.
            </p>
          )}
          <ol>
            {c.steps.map((s, i) => (
              <li key={s.technique} className="grid grid-cols-[20px_minmax(0,1fr)_auto] border-b border-hair py-0.5">
                <span className="head num text-soft">{i + 1}</span>
                <span>
                  <Link className="link" to={`/library/${s.technique}${s.side ? `?side=${s.side}` : ""}`}>
                    {s.name}
                  </Link>{" "}
                  <span className="num text-soft">
                    {s.side && `${tr("{{side}} side ·", { side: word(s.side) })} `}
                    {tr("{{minutes}} min", { minutes: s.minutes })}
                  </span>
                  {s.opens && <span className="block text-[12.5px] leading-4">{s.opens}</span>}
                  <span className="block text-[12.5px] leading-4 text-soft">
                    {s.from} → {s.to}
                  </span>
                </span>
                <button
                  type="button"
                  className="link text-[12.5px]"
                  aria-label={tr("Avoid {{name}}", { name: s.name })}
                  onClick={() => setAvoid([...avoid, { id: s.technique, name: s.name }])}
                >
                  {tr("avoid")}
                </button>
              </li>
            ))}
          </ol>
        </div>
      )}
    </section>
  );
}
