import type { KeyboardEvent } from "react";
import type { S } from "../../api/client";
import { shortDate, weekday } from "../../kit/words";
import type { Spot } from "./Season";

// Areas are told apart by their word first; the hue only helps the eye along.
const hues = ["#7a5a1e", "#17597a", "#6b3f66", "#456331", "#a83c26", "#3d5a57", "#8a6d00", "#4a4a7a"];

/** SeasonGrid is the season as one picture: weeks across, classes down. */
export function SeasonGrid({ page, spot, onSpot }: { page: S["SeasonPage"]; spot: Spot | null; onSpot: (s: Spot | null) => void }) {
  const hue = (area: string) => hues[page.areas.indexOf(area) % hues.length] ?? "#56615b";
  return (
    <>
      <table className="grid-lines mt-2 table-fixed" onKeyDown={move}>
        <thead>
          <tr>
            <th className="w-[92px]">Class</th>
            {page.weeks.map((w) => (
              <th key={w.week}>{shortDate(w.start)}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {page.rows.map((r) => (
            <tr key={r.class}>
              <td className="num !py-1.5 !align-top" title={r.name}>
                {weekday(r.day)} {r.start}
                <span className="block text-[12px] leading-4 text-soft">{r.track}</span>
              </td>
              {r.cells.map((c) => (
                <td key={c.week} className={`h-px !p-0 !align-top ${c.state === "closed" ? "shut" : ""}`}>
                  <button
                    type="button"
                    data-cell={`${c.week}/${c.class}`}
                    aria-pressed={spot?.week === c.week && spot.class === c.class}
                    aria-label={`${weekday(r.day)} ${shortDate(c.on)}, ${r.name}: ${c.why ?? (c.items.map((i) => `${i.kind} ${i.name}`).join(", ") || c.state)}${c.lead ? `, led by ${c.lead}` : ""}`}
                    onClick={() => onSpot(spot?.week === c.week && spot.class === c.class ? null : { week: c.week, class: c.class })}
                    className="flex h-full min-h-[78px] w-full flex-col justify-start px-1 py-1.5 text-left hover:bg-wash aria-pressed:bg-wash aria-pressed:outline-2 aria-pressed:-outline-offset-1 aria-pressed:outline-lake"
                  >
                    <Inside cell={c} hue={hue} />
                  </button>
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2 flex flex-wrap gap-x-4 gap-y-1 text-[12.5px] text-soft">
        {page.areas.map((a) => (
          <span key={a} className="border-l-4 pl-1.5 leading-4" style={{ borderColor: hue(a) }}>
            {a}
          </span>
        ))}
        {page.areas.length > 0 && (
          <>
            <span>
              <Bar colour="#56615b" kind="teach" /> teach
            </span>
            <span>
              <Bar colour="#56615b" kind="review" /> review
            </span>
          </>
        )}
        {page.no_coach > 0 && <b className="text-clay">{page.no_coach} without a coach</b>}
      </p>
    </>
  );
}

function Bar({ colour, kind }: { colour: string; kind: string }) {
  return (
    <span
      aria-hidden="true"
      className="mr-1 inline-block h-[13px] w-[5px] shrink-0 align-[-2px]"
      style={kind === "teach" ? { background: colour } : { border: `1.4px solid ${colour}` }}
    />
  );
}

function Inside({ cell, hue }: { cell: S["Cell"]; hue: (area: string) => string }) {
  if (cell.state === "closed") return <span className="bg-paper text-[12px] leading-4 text-soft">{cell.why}</span>;
  if (cell.items.length === 0) return <span className="text-[12px] text-soft">{cell.state === "past" ? "over" : "empty"}</span>;
  return (
    <span className={`flex flex-col gap-0.5 text-[12.5px] leading-[15px] ${cell.state === "past" ? "opacity-60" : ""}`}>
      {[...cell.items]
        .sort((a, b) => b.kind.localeCompare(a.kind))
        .map((i) => (
          <span key={i.unit} className={`flex ${i.kind === "review" ? "text-soft" : "font-semibold"}`}>
            <Bar colour={hue(i.area)} kind={i.kind} />
            <span>{i.name}</span>
          </span>
        ))}
      <span className={`head num text-[12px] ${cell.lead ? "text-soft" : "font-bold text-clay"}`}>{cell.lead ?? "no coach"}</span>
    </span>
  );
}

/** move walks the squares with the arrow keys. */
function move(e: KeyboardEvent<HTMLElement>) {
  const steps: Record<string, [number, number]> = { ArrowRight: [0, 1], ArrowLeft: [0, -1], ArrowDown: [1, 0], ArrowUp: [-1, 0] };
  const step = steps[e.key];
  const at = document.activeElement?.closest("td");
  const row = at?.parentElement as HTMLTableRowElement | null | undefined;
  if (!step || !at || !row) return;
  const rows = [...(row.parentElement?.children ?? [])];
  const next = rows[rows.indexOf(row) + step[0]]?.children[[...row.children].indexOf(at) + step[1]];
  next?.querySelector("button")?.focus();
  e.preventDefault();
}
