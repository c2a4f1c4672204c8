// biome-ignore-all lint/a11y/useSemanticElements: rows that are not drawn cannot stand in a table
// biome-ignore-all lint/a11y/useFocusableInteractive: what is in a head takes the focus, not the head
import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef } from "react";
import { Link } from "react-router";
import type { S } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { tr, word } from "../../kit/tr";
import { percent } from "../../kit/words";

export type Row = S["PositionRow"];
export type Cell = S["PositionCell"];

export type GridProps = {
  page: S["PositionsPage"];
  rows: Row[];
  open?: string;
  at?: string;
  sort: { by: string | number; down: boolean };
  onSort: (by: "behind" | "name" | "share" | number) => void;
};

export function Grid({ page, rows, open, at, sort, onSort }: GridProps) {
  const box = useRef<HTMLDivElement>(null);
  const view = useVirtualizer({ count: rows.length, getScrollElement: () => box.current, estimateSize: () => 28, overscan: 10 });
  const columns = `160px 42px 46px repeat(${page.positions.length}, 36px)`;
  const mark = (by: string | number) => (sort.by === by ? (sort.down ? " ↓" : " ↑") : "");
  return (
    <div ref={box} className="mt-2 min-h-0 flex-1 overflow-auto">
      <div role="table" aria-label={tr("Students by positions")} aria-rowcount={rows.length} className="w-max min-w-full">
        <div
          role="row"
          tabIndex={-1}
          className="sticky top-0 z-10 grid items-end border-b-[1.5px] border-ink bg-paper pb-1"
          style={{ gridTemplateColumns: columns }}
        >
          <Head onClick={() => onSort("name")}>{tr("Student{{mark}}", { mark: mark("name") })}</Head>
          <Head onClick={() => onSort("share")}>{tr("Met{{mark}}", { mark: mark("share") })}</Head>
          <Head onClick={() => onSort("behind")}>{tr("Open{{mark}}", { mark: mark("behind") })}</Head>
          {page.positions.map((x, i) => (
            <span key={x.id} role="columnheader" className="flex justify-center">
              <button
                type="button"
                title={tr("{{name}}: sort by what is behind here", { name: x.name })}
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
                    {r.held && <span className="text-clay"> {tr("· held")}</span>}
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
                  const words = cells.map((c) => `${word(c.part)}: ${wordsOf(c)}`).join("; ");
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

export function Head({ onClick, children }: { onClick: () => void; children: React.ReactNode }) {
  return (
    <span role="columnheader">
      <button type="button" className="cap min-h-6 text-left" onClick={onClick}>
        {children}
      </button>
    </span>
  );
}

export function wordsOf(c: Cell): string {
  const parts = [tr("{{there}} of {{of}} there", { there: c.there, of: c.of })];
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
