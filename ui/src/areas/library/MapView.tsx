import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { Link } from "react-router";
import { useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { Explain } from "../../kit/Explain";
import { Input, Select } from "../../kit/Field";
import { SplitPane } from "../../kit/SplitPane";
import { MapPicture } from "./MapPicture";
import { PickPlace } from "./Pick";
import { Shelves } from "./Shelves";
import { placeWords, usePositions } from "./words";

type Filter = {
  curriculum?: string;
  student?: string;
  context?: "gi" | "no-gi";
  part?: "attack" | "defend";
  kind?: string[];
  age?: number;
};

/** MapView: the picture of positions with its filters on the left; what it summary, or what is under the finger, on the right. */
export default function MapView() {
  const may = useMay();
  const [filter, setFilter] = useState<Filter>({});
  const [chosen, choose] = useState("");
  const [scale, setScale] = useState<"fit" | "full">("fit");
  const [chain, setChain] = useState<string[]>([]);
  const page = useQuery({
    queryKey: ["map", filter],
    queryFn: () => unwrap(client.GET("/api/map", { params: { query: filter } })),
    placeholderData: keepPreviousData,
  });
  const p = page.data;
  const put = (part: Filter) => setFilter((had) => ({ ...had, ...part }));
  return (
    <SplitPane
      left={
        <>
          <div className="flex items-center gap-3">
            <h1>Library</h1>
            <span className="cap flex-1">{p && `${p.arrows.reduce((n, a) => n + a.techniques.length, 0)} techniques on the map`}</span>
            <input
              data-search
              type="search"
              list="map-positions"
              aria-label="Find a position on the map"
              placeholder="Find a position"
              className="h-[31px] w-48 rounded-sm border border-rule bg-white px-2"
              onChange={(e) => {
                const hit = Object.entries(p?.places ?? {}).find(([, name]) => name.toLowerCase() === e.target.value.toLowerCase());
                if (!hit) return;
                choose(hit[0]);
                setChain([]);
                document.querySelector(`[data-box="${hit[0]}"]`)?.scrollIntoView({ block: "center", inline: "center" });
              }}
            />
            <datalist id="map-positions">
              {Object.values(p?.places ?? {}).map((name) => (
                <option key={name} value={name} />
              ))}
            </datalist>
            <Choice
              label="Size"
              value={scale}
              onChange={setScale}
              options={[
                { value: "fit", label: "Fit" },
                { value: "full", label: "100 %" },
              ]}
            />
          </div>
          <Shelves on="Map" may={may} />
          {page.error && <p className="text-clay">{page.error.message}</p>}
          {p && <Filters page={p} filter={filter} put={put} onClear={() => setFilter({})} />}
          {p && (
            <div className="mt-2 overflow-auto">
              <MapPicture
                page={p}
                chosen={chosen}
                chain={chain}
                scale={scale}
                onChoose={(id) => {
                  choose(id);
                  setChain([]);
                }}
              />
              <p className="mt-1 text-[12.5px] text-soft">
                A circle counts finishes. A red frame: the defender has no way out on this map. Thick lines: several techniques. Choose a
                position for its own lines.
              </p>
            </div>
          )}
          {may("export-map-dot") && (
            <p className="mt-1 flex gap-4 text-[12.5px]">
              <a className="link" href="/api/map/map.graphml">
                As GraphML
              </a>
              <a className="link" href="/api/map/map.dot">
                As DOT
              </a>
            </p>
          )}
        </>
      }
      right={
        <>
          <ChainFinder filter={filter} onChain={setChain} start={chosen} />
          {p && chosen && <Chosen page={p} id={chosen} onBack={() => choose("")} />}
          {p && !chosen && <Report page={p} onChoose={choose} />}
        </>
      }
    />
  );
}

function Filters({ page, filter, put, onClear }: { page: S["MapPage"]; filter: Filter; put: (part: Filter) => void; onClear: () => void }) {
  return (
    <fieldset className="grid grid-cols-[repeat(6,minmax(0,1fr))_auto] items-end gap-2" aria-label="What is on the map">
      <Select label="Required for" value={filter.curriculum ?? ""} onChange={(e) => put({ curriculum: e.target.value || undefined })}>
        <option value="">all taught</option>
        {page.curricula.map((c) => (
          <option key={c.id} value={c.id}>
            {c.name}
          </option>
        ))}
      </Select>
      <Select label="Passed by" value={filter.student ?? ""} onChange={(e) => put({ student: e.target.value || undefined })}>
        <option value="">anybody</option>
        {page.students.map((c) => (
          <option key={c.id} value={c.id}>
            {c.name}
          </option>
        ))}
      </Select>
      <Select
        label="Jacket"
        value={filter.context ?? ""}
        onChange={(e) => put({ context: (e.target.value || undefined) as Filter["context"] })}
      >
        <option value="">either</option>
        <option value="gi">gi</option>
        <option value="no-gi">no-gi</option>
      </Select>
      <Select label="Side of it" value={filter.part ?? ""} onChange={(e) => put({ part: (e.target.value || undefined) as Filter["part"] })}>
        <option value="">both people</option>
        <option value="attack">attacker's</option>
        <option value="defend">defender's</option>
      </Select>
      <Select label="Kind" value={filter.kind?.[0] ?? ""} onChange={(e) => put({ kind: e.target.value ? [e.target.value] : undefined })}>
        <option value="">all kinds</option>
        {page.all_kinds.map((k) => (
          <option key={k}>{k}</option>
        ))}
      </Select>
      <Input
        label="Allowed at age"
        type="number"
        min={0}
        max={99}
        value={filter.age ?? ""}
        onChange={(e) => put({ age: e.target.value ? Number(e.target.value) : undefined })}
      />
      <Button onClick={onClear} disabled={!page.filtered}>
        All of it
      </Button>
    </fieldset>
  );
}

function ChainFinder({ filter, start, onChain }: { filter: Filter; start: string; onChain: (places: string[]) => void }) {
  const positions = usePositions();
  const [from, setFrom] = useState<S["LibraryPlace"]>();
  const [to, setTo] = useState<S["LibraryPlace"]>();
  const [by, setBy] = useState<"steps" | "minutes">("steps");
  const [avoid, setAvoid] = useState<{ id: string; name: string }[]>([]);
  const [asked, ask] = useState(false);
  const begin = from ?? (start ? { position: start, part: "attack" } : undefined);
  const found = useQuery({
    queryKey: ["chain", filter, begin, to, by, avoid],
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
    <section aria-label="Chain finder" className="mb-4">
      <h2 className="border-b-[1.5px] border-ink pb-0.5">Shortest chain</h2>
      <div className="mt-1 flex flex-col gap-1.5">
        <PickPlace label="From" value={begin} positions={positions} onChange={setFrom} />
        <PickPlace label="To" value={to} positions={positions} none="any finish" onChange={setTo} />
        <div className="flex items-end gap-2">
          <Choice
            label="Shortest by"
            value={by}
            onChange={setBy}
            options={[
              { value: "steps", label: "by steps" },
              { value: "minutes", label: "by minutes" },
            ]}
          />
          <Button look="main" disabled={!begin} onClick={() => ask(true)}>
            Find it
          </Button>
        </div>
      </div>
      {avoid.length > 0 && (
        <p className="mt-1 text-[13px]">
          Without{" "}
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
          {!c.found && c.reached.length > 0 && <p className="text-[12.5px] text-soft">From there one gets to: {c.reached.join("; ")}.</p>}
          <ol>
            {c.steps.map((s, i) => (
              <li key={s.technique} className="grid grid-cols-[20px_minmax(0,1fr)_auto] border-b border-hair py-0.5">
                <span className="head num text-soft">{i + 1}</span>
                <span>
                  <Link className="link" to={`/library/${s.technique}`}>
                    {s.name}
                  </Link>{" "}
                  <span className="num text-soft">{s.minutes} min</span>
                  <span className="block text-[12.5px] leading-4 text-soft">
                    {s.from} → {s.to}
                  </span>
                </span>
                <button
                  type="button"
                  className="link text-[12.5px]"
                  aria-label={`Avoid ${s.name}`}
                  onClick={() => setAvoid([...avoid, { id: s.technique, name: s.name }])}
                >
                  avoid
                </button>
              </li>
            ))}
          </ol>
        </div>
      )}
    </section>
  );
}

function Chosen({ page, id, onBack }: { page: S["MapPage"]; id: string; onBack: () => void }) {
  const out = page.arrows.filter((a) => a.from.position === id);
  const into = page.arrows.filter((a) => a.to?.position === id && a.from.position !== id);
  return (
    <section aria-label={page.places[id]}>
      <div className="flex items-baseline border-b-[1.5px] border-ink pb-0.5">
        <h2 className="flex-1">
          <Link className="no-underline hover:underline" to={`/library/positions/${id}`}>
            {page.places[id]}
          </Link>
        </h2>
        <button type="button" className="link text-[12.5px]" onClick={onBack}>
          Back to what the map says
        </button>
      </div>
      {(["attack", "defend"] as const).map((part) => (
        <div key={part} className="mt-1.5">
          <h3>{part === "attack" ? "The attacker goes to" : "The defender goes to"}</h3>
          <Arrows page={page} arrows={out.filter((a) => a.from.part === part)} end="to" />
        </div>
      ))}
      <h3 className="mt-1.5">One comes here from</h3>
      <Arrows page={page} arrows={into} end="from" />
    </section>
  );
}

function Arrows({ page, arrows, end }: { page: S["MapPage"]; arrows: S["MapArrow"][]; end: "to" | "from" }) {
  if (arrows.length === 0) return <p className="text-soft">Nothing on this map.</p>;
  return (
    <ul>
      {arrows.map((a) => (
        <li key={a.techniques.join()} className="border-b border-hair py-0.5">
          <b>{placeWords(end === "to" ? a.to : a.from, page.places)}</b>{" "}
          {a.techniques.map((t, i) => (
            <span key={t}>
              {i > 0 && ", "}
              <Link className="link" to={`/library/${t}`}>
                {page.names[t]}
              </Link>
            </span>
          ))}
        </li>
      ))}
    </ul>
  );
}

function Report({ page, onChoose }: { page: S["MapPage"]; onChoose: (id: string) => void }) {
  const r = page.report;
  const tech = (id: string) => (
    <Link className="link" to={`/library/${id}`}>
      {page.names[id] ?? id}
    </Link>
  );
  const place = (p: S["LibraryPlace"]) => (
    <button type="button" className="link text-left" onClick={() => onChoose(p.position)}>
      {placeWords(p, page.places)}
    </button>
  );
  const ring = (ids: string[]) => ids.map((id, i) => [i > 0 && <span key={`${id}-arrow`}> ⇄ </span>, <span key={id}>{tech(id)}</span>]);
  return (
    <section aria-label="Report of the map">
      <h2 className="border-b-[1.5px] border-ink pb-0.5">What the map says</h2>
      {r.opens.length > 0 && (
        <Part title="What to teach next" count={r.opens.length} open>
          {r.opens.slice(0, 10).map((o) => (
            <li key={o.technique}>
              {tech(o.technique)}{" "}
              <Explain label={`Why ${page.names[o.technique]}`} number={<b>{o.score}</b>}>
                {page.opens_score}
              </Explain>{" "}
              <span className="num text-soft">{o.minutes} min</span>
              <span className="block text-[12.5px] leading-4 text-soft">
                {[
                  o.ends_dead.length && `ends the dead end at ${o.ends_dead.map((p) => placeWords(p, page.places)).join(", ")}`,
                  o.answers.length && `answers ${o.answers.length === 1 ? "a reaction" : `${o.answers.length} reactions`}`,
                  o.reaches.length && `reaches ${o.reaches.map((p) => placeWords(p, page.places)).join(", ")}`,
                  o.needs.length && `stands on ${o.needs.map((n) => page.names[n]).join(", ")} first`,
                ]
                  .filter(Boolean)
                  .join("; ")}
              </span>
            </li>
          ))}
        </Part>
      )}
      <Part title="No way out for the defender" count={r.dead_ends.length} tone="clay" open>
        {r.dead_ends.map((p) => (
          <li key={p.position + p.part}>{place(p)}</li>
        ))}
      </Part>
      <Part title="Hangs on one technique" count={r.hangs_on.length}>
        {r.hangs_on.map((h) => (
          <li key={h.place.position + h.place.part}>
            {place(h.place)} <span className="text-soft">on</span> {tech(h.technique)}
          </li>
        ))}
      </Part>
      <Part title="Reactions nobody answers" count={r.unanswered.length} tone="clay">
        {r.unanswered.map((u) => (
          <li key={u.technique + u.fork}>
            {tech(u.technique)}: {u.summary.replace(/[{}]/g, "")}
            {u.answer && <span className="text-soft"> The library has {page.names[u.answer] ?? u.answer}.</span>}
          </li>
        ))}
      </Part>
      <Part title="Dilemmas" count={r.dilemmas.length}>
        {r.dilemmas.map((d) => (
          <li key={d.join()}>{ring(d)}</li>
        ))}
      </Part>
      <Part title="Circuits" count={r.circuits.length}>
        {r.circuits.slice(0, 60).map((d) => (
          <li key={d.join()}>{ring(d)}</li>
        ))}
      </Part>
      <Part title="Funnels" count={r.funnels.length}>
        {r.funnels.slice(0, 12).map((f) => (
          <li key={f.place.position + f.place.part}>
            {place(f.place)}{" "}
            <span className="num text-soft">
              from {f.reach} places in three steps, {f.techniques} techniques straight in
            </span>
          </li>
        ))}
      </Part>
    </section>
  );
}

function Part({
  title,
  count,
  tone,
  open,
  children,
}: {
  title: string;
  count: number;
  tone?: "clay";
  open?: boolean;
  children: ReactNode;
}) {
  return (
    <details open={open && count > 0} className="border-b border-hair py-1">
      <summary className="head cursor-pointer text-[15px] font-semibold">
        {title} <span className={`num ${count > 0 && tone === "clay" ? "text-clay" : "text-soft"}`}>{count}</span>
      </summary>
      <ul className="flex flex-col gap-1 py-1 pl-3">{count > 0 ? children : <li className="text-soft">None.</li>}</ul>
    </details>
  );
}
