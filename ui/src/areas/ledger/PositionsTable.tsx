// biome-ignore-all lint/a11y/useSemanticElements: rows that are not drawn cannot stand in a table
// biome-ignore-all lint/a11y/useFocusableInteractive: what is in a head takes the focus, not the head
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useMemo, useRef, useState } from "react";
import { Link } from "react-router";
import { client, type S, unwrap } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { Input, Select } from "../../kit/Field";
import { FirstStep } from "../../kit/FirstStep";
import { arrows } from "../../kit/SplitPane";
import { percent } from "../../kit/words";

type Row = S["PositionRow"];
type Cell = S["PositionCell"];
type Filter = { ladder: string; rank: string; track: string; coach: string; age_from: string; age_to: string };

const none: Filter = { ladder: "", rank: "", track: "", coach: "", age_from: "", age_to: "" };

/** PositionsTable is students by positions: in each cell attack above, defence below; dark is there, light is begun, broken red is fading. */
export function PositionsTable({ open, at }: { open?: string; at?: string }) {
  const [filter, setFilter] = useState(none);
  const [name, setName] = useState("");
  const [sort, setSort] = useState<{ by: "behind" | "name" | "share" | number; down: boolean }>({ by: "behind", down: true });
  const page = useQuery({
    queryKey: ["positions", filter],
    queryFn: () =>
      unwrap(
        client.GET("/api/ledger/positions", {
          params: {
            query: {
              ladder: filter.ladder || undefined,
              rank: filter.rank || undefined,
              track: filter.track || undefined,
              coach: filter.coach || undefined,
              age_from: Number(filter.age_from) || undefined,
              age_to: Number(filter.age_to) || undefined,
            },
          },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  const p = page.data;
  const rows = useMemo(() => {
    const wanted = name.trim().toLowerCase();
    const all = (p?.rows ?? []).filter((r) => r.name.toLowerCase().includes(wanted));
    const value = (r: Row): number | string => {
      if (sort.by === "name") return r.name;
      if (sort.by === "share") return r.share;
      if (sort.by === "behind") return r.behind;
      return r.cells.filter((c) => c.at === sort.by).reduce((n, c) => n + c.of - c.there, 0);
    };
    return [...all].sort((a, b) => {
      const x = value(a);
      const y = value(b);
      return (x < y ? -1 : x > y ? 1 : 0) * (sort.down ? -1 : 1);
    });
  }, [p, name, sort]);
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  if (!p) return null;
  const set = (part: Partial<Filter>) => setFilter({ ...filter, ...part });
  const order = (by: typeof sort.by) => setSort({ by, down: sort.by === by ? !sort.down : by !== "name" });
  const ranks = p.ranks.filter((r) => r.ladder === filter.ladder);
  const filtered = filter !== none && Object.values(filter).some(Boolean);
  if (p.rows.length === 0 && !filtered)
    return (
      <FirstStep
        title="Nothing to compare with yet"
        ways={[
          ["/curricula", "Write a curriculum"],
          ["/people", "Add people"],
        ]}
      >
        The ledger sets each student beside what their next rank asks, position by position. It needs a curriculum, and people on its
        ladder.
      </FirstStep>
    );
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the arrow keys only move the focus between links
    <div onKeyDown={arrows} className="flex h-[calc(100vh-200px)] min-h-[420px] flex-col">
      <div className="grid grid-cols-[minmax(0,1.4fr)_repeat(4,minmax(0,1fr))_64px_64px] items-end gap-2">
        <Input label="Find a student" type="search" data-search value={name} onChange={(e) => setName(e.target.value)} />
        <Select label="Ladder" value={filter.ladder} onChange={(e) => set({ ladder: e.target.value, rank: "" })}>
          <option value="">all</option>
          {p.ladders.map((l) => (
            <option key={l.id} value={l.id}>
              {l.name}
            </option>
          ))}
        </Select>
        <Select label="Rank" value={filter.rank} disabled={!filter.ladder} onChange={(e) => set({ rank: e.target.value })}>
          <option value="">all</option>
          {ranks.map((r) => (
            <option key={r.id} value={r.id}>
              {r.name}
            </option>
          ))}
        </Select>
        <Select label="Track" value={filter.track} onChange={(e) => set({ track: e.target.value })}>
          <option value="">all</option>
          {p.tracks.map((t) => (
            <option key={t.id} value={t.id}>
              {t.name}
            </option>
          ))}
        </Select>
        <Select label="Coach" value={filter.coach} onChange={(e) => set({ coach: e.target.value })}>
          <option value="">all</option>
          {p.coaches.map((c) => (
            <option key={c.id} value={c.id}>
              {c.name}
            </option>
          ))}
        </Select>
        <Input
          label="Age from"
          inputMode="numeric"
          value={filter.age_from}
          onChange={(e) => set({ age_from: e.target.value.replace(/\D/g, "") })}
        />
        <Input label="to" inputMode="numeric" value={filter.age_to} onChange={(e) => set({ age_to: e.target.value.replace(/\D/g, "") })} />
      </div>
      <p className="mt-1 text-[12.5px] text-soft">
        {rows.length} {rows.length === 1 ? "student" : "students"}. Above attack, below defence, of what the next rank asks on each side:{" "}
        <Bar cell={{ at: 0, part: "attack", of: 4, there: 2, met: 3, due: 1 }} /> two there, one begun, one fading. A head sorts by what is
        behind there.
      </p>
      <Grid page={p} rows={rows} open={open} at={at} sort={sort} onSort={order} />
    </div>
  );
}

type GridProps = {
  page: S["PositionsPage"];
  rows: Row[];
  open?: string;
  at?: string;
  sort: { by: string | number; down: boolean };
  onSort: (by: "behind" | "name" | "share" | number) => void;
};

function Grid({ page, rows, open, at, sort, onSort }: GridProps) {
  const box = useRef<HTMLDivElement>(null);
  const view = useVirtualizer({ count: rows.length, getScrollElement: () => box.current, estimateSize: () => 28, overscan: 10 });
  const columns = `160px 42px 46px repeat(${page.positions.length}, 36px)`;
  const mark = (by: string | number) => (sort.by === by ? (sort.down ? " ↓" : " ↑") : "");
  return (
    <div ref={box} className="mt-2 min-h-0 flex-1 overflow-auto">
      <div role="table" aria-label="Students by positions" aria-rowcount={rows.length} className="w-max min-w-full">
        <div
          role="row"
          tabIndex={-1}
          className="sticky top-0 z-10 grid items-end border-b-[1.5px] border-ink bg-paper pb-1"
          style={{ gridTemplateColumns: columns }}
        >
          <Head onClick={() => onSort("name")}>Student{mark("name")}</Head>
          <Head onClick={() => onSort("share")}>Met{mark("share")}</Head>
          <Head onClick={() => onSort("behind")}>Open{mark("behind")}</Head>
          {page.positions.map((x, i) => (
            <span key={x.id} role="columnheader" className="flex justify-center">
              <button
                type="button"
                title={`${x.name}: sort by what is behind here`}
                onClick={() => onSort(i)}
                className="flex h-[150px] min-w-[24px] justify-center"
              >
                <span
                  className={`rotate-180 text-[12.5px] leading-[18px] [writing-mode:vertical-rl] ${sort.by === i ? "font-bold" : ""} max-h-[148px] overflow-hidden text-left`}
                >
                  {x.name}
                </span>
              </button>
            </span>
          ))}
        </div>
        <div style={{ height: view.getTotalSize(), position: "relative" }}>
          {view.getVirtualItems().map((v) => {
            const r = rows[v.index];
            if (!r) return null;
            return (
              <div
                key={r.id}
                role="row"
                tabIndex={-1}
                aria-rowindex={v.index + 1}
                data-on={r.id === open}
                className="absolute inset-x-0 grid items-center border-b border-hair data-[on=true]:bg-wash"
                style={{ gridTemplateColumns: columns, height: v.size, transform: `translateY(${v.start}px)` }}
              >
                <span role="rowheader" className="min-w-0">
                  <Link data-row to={`/ledger/${r.id}`} className="block truncate leading-6 no-underline hover:underline">
                    <Belt belt={r.belt} rank={r.rank} />
                    {r.name}
                    {r.held && <span className="text-clay"> · held</span>}
                  </Link>
                </span>
                <span role="cell" className="num text-right">
                  {percent(r.share)}
                </span>
                <span role="cell" className="num pr-2 text-right">
                  {r.behind}
                </span>
                {page.positions.map((x, i) => {
                  const cells = r.cells.filter((c) => c.at === i);
                  if (cells.length === 0) return <span key={x.id} role="cell" />;
                  const attack = cells.find((c) => c.part === "attack");
                  const defend = cells.find((c) => c.part === "defend");
                  const words = cells.map((c) => `${c.part}: ${wordsOf(c)}`).join("; ");
                  return (
                    <span key={x.id} role="cell" className="h-full">
                      <Link
                        to={`/ledger/${r.id}?position=${x.id || "movements"}`}
                        title={`${r.name}, ${x.name}: ${words}`}
                        aria-label={`${r.name}, ${x.name}: ${words}`}
                        data-cell={`${r.id} ${x.id || "movements"}`}
                        className={`flex h-full flex-col justify-center gap-[2px] px-[2px] ${r.id === open && at === (x.id || "movements") ? "outline-2 outline-lake" : ""}`}
                      >
                        {attack ? <Bar cell={attack} /> : <span className="h-[8px]" />}
                        {defend ? <Bar cell={defend} /> : <span className="h-[8px]" />}
                      </Link>
                    </span>
                  );
                })}
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}

function Head({ onClick, children }: { onClick: () => void; children: React.ReactNode }) {
  return (
    <span role="columnheader">
      <button type="button" className="cap min-h-6 text-left" onClick={onClick}>
        {children}
      </button>
    </span>
  );
}

export function wordsOf(c: Cell): string {
  const parts = [`${c.there} of ${c.of} there`];
  for (const [n, w] of [
    [c.met, "met"],
    [c.drilled, "drilled"],
    [c.passed, "passed"],
    [c.live, "live"],
    [c.due, "fading"],
  ] as const)
    if (n) parts.push(`${n} ${w}`);
  return parts.join(", ");
}

/** Bar measures one cell: what is there, what is begun, what fades. */
export function Bar({ cell: c }: { cell: Cell }) {
  const w = 32 / Math.max(1, c.of);
  const due = c.due ?? 0;
  const begun = Math.max(0, (c.met ?? 0) - c.there - due);
  return (
    <svg width={32} height={8} className="inline-block" aria-hidden="true">
      <rect x={0.5} y={0.5} width={31} height={7} fill="none" stroke="var(--color-rule)" />
      <rect x={0} y={0} width={c.there * w} height={8} fill="var(--color-ink)" />
      <rect x={c.there * w} y={0} width={begun * w} height={8} fill="var(--color-rule)" />
      {due > 0 && (
        <path
          d={`M${(c.there + begun) * w + 1} 4H${(c.there + begun + due) * w}`}
          stroke="var(--color-clay)"
          strokeWidth={4}
          strokeDasharray="3 2"
        />
      )}
    </svg>
  );
}
