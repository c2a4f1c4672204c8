import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef } from "react";
import type { S } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { tr } from "../../kit/tr";
import { day } from "../../kit/words";
import type { Sort } from "./filter";

type Props = {
  people: S["PersonRow"][];
  open: string;
  sort: Sort;
  onSort: (sort: Sort) => void;
  chosen?: string[]; // undefined where nobody may be chosen
  onChoose: (ids: string[]) => void;
  onOpen: (id: string) => void;
};

const columns: [Sort["by"], string, string][] = [
  ["name", tr("Name"), ""],
  ["rank", tr("Rank"), ""],
  ["last", tr("Last seen"), ""],
  ["recent", tr("In 4 weeks"), tr("Classes in the last four weeks")],
  ["joined", tr("Joined"), ""],
];

// On a narrow screen the rank is the belt beside the name, and when somebody joined stands on their page.
const grid =
  "grid grid-cols-[26px_minmax(0,1fr)_minmax(0,130px)_116px_82px_116px] items-center gap-x-2 max-sm:grid-cols-[26px_minmax(0,1fr)_96px_64px] max-sm:[&>:nth-child(3)]:hidden max-sm:[&>:nth-child(6)]:hidden";

/** PeopleTable draws the rows one can see: a thousand people scroll as ten do. */
export function PeopleTable({ people, open, sort, onSort, chosen, onChoose, onOpen }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({ count: people.length, getScrollElement: () => box.current, estimateSize: () => 26, overscan: 12 });
  const all = people.length > 0 && people.every((p) => chosen?.includes(p.id));
  return (
    // biome-ignore lint/a11y/useSemanticElements: rows that are not drawn cannot stand in a table
    <div role="table" aria-label={tr("People")} aria-rowcount={people.length} className="flex min-h-0 flex-1 flex-col">
      {/* biome-ignore lint/a11y/useSemanticElements: see above */}
      <div role="row" className={`${grid} border-b-[1.5px] border-ink py-1`} tabIndex={-1}>
        {/* biome-ignore lint/a11y/useSemanticElements: see above */}
        <span role="columnheader" tabIndex={-1}>
          {chosen && (
            <input
              type="checkbox"
              aria-label={tr("Choose all that are shown")}
              checked={all}
              onChange={() => onChoose(all ? [] : people.map((p) => p.id))}
            />
          )}
        </span>
        {columns.map(([by, label, title]) => (
          // biome-ignore lint/a11y/useSemanticElements: see above
          <span
            key={by}
            role="columnheader"
            tabIndex={-1}
            title={title}
            aria-sort={sort.by === by ? (sort.down ? "descending" : "ascending") : "none"}
          >
            <button type="button" className="cap text-left" onClick={() => onSort({ by, down: sort.by === by && !sort.down })}>
              {label} {sort.by === by ? (sort.down ? "↓" : "↑") : ""}
            </button>
          </span>
        ))}
      </div>
      <div ref={box} className="min-h-[200px] flex-1 overflow-y-auto">
        <div style={{ height: rows.getTotalSize(), position: "relative" }}>
          {rows.getVirtualItems().map((v) => {
            const p = people[v.index];
            if (!p) return null;
            return (
              // biome-ignore lint/a11y/useSemanticElements: see above
              <div
                key={p.id}
                role="row"
                tabIndex={-1}
                aria-rowindex={v.index + 1}
                data-on={p.id === open}
                className={`${grid} absolute inset-x-0 border-b border-hair data-[on=true]:bg-wash`}
                style={{ height: v.size, transform: `translateY(${v.start}px)` }}
              >
                {/* biome-ignore lint/a11y/useSemanticElements: see above */}
                <span role="cell">
                  {chosen && (
                    <input
                      type="checkbox"
                      aria-label={tr("Choose {{name}}", { name: p.name })}
                      checked={chosen.includes(p.id)}
                      onChange={(e) => onChoose(chosen.filter((x) => x !== p.id).concat(e.target.checked ? [p.id] : []))}
                    />
                  )}
                </span>
                {/* biome-ignore lint/a11y/useSemanticElements: see above */}
                <span role="cell" className="truncate">
                  <Belt belt={p.belt} rank={p.rank} />
                  <button type="button" data-row className="hover:underline" onClick={() => onOpen(p.id)}>
                    {p.name}
                  </button>
                  {p.coach && <span className="text-soft"> {tr("· coach")}</span>}
                  {p.minor && <span className="text-soft"> {tr("· minor")}</span>}
                  {p.held && <b className="text-clay"> {tr("· held")}</b>}
                </span>
                {/* biome-ignore lint/a11y/useSemanticElements: see above */}
                <span role="cell" className="truncate text-soft">
                  {p.rank}
                </span>
                {/* biome-ignore lint/a11y/useSemanticElements: see above */}
                <span role="cell" className={`num text-[13px] whitespace-nowrap ${p.student && p.away >= 3 ? "text-clay" : "text-soft"}`}>
                  {p.last_seen ? day(p.last_seen) : p.student ? tr("never") : ""}
                </span>
                {/* biome-ignore lint/a11y/useSemanticElements: see above */}
                <span role="cell" className="num text-right">
                  {p.student ? p.recent : ""}
                </span>
                {/* biome-ignore lint/a11y/useSemanticElements: see above */}
                <span role="cell" className="num text-[13px] whitespace-nowrap text-soft">
                  {day(p.joined)}
                </span>
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}
