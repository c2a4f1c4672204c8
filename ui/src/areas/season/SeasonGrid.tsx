import { type CSSProperties, Fragment, type KeyboardEvent } from "react";
import { useMay } from "../../api/actions";
import type { S } from "../../api/client";
import { usePrinting } from "../../kit/printing";
import { tr, word } from "../../kit/tr";
import { shortDate, weekday } from "../../kit/words";
import type { Carried, Spot } from "./spot";

// Areas are told apart by their word first; the hue only helps the eye along.
const hues = ["#7a5a1e", "#17597a", "#6b3f66", "#456331", "#a83c26", "#3d5a57", "#8a6d00", "#4a4a7a"];

type Props = {
  page: S["SeasonPage"];
  spot: Spot | null;
  onSpot: (s: Spot | null) => void;
  carried: Carried | null;
  onCarry: (c: Carried | null) => void;
  onDrop: (s: Spot) => void;
  onLeave: () => void;
};

/** SeasonGrid is the season as one picture: weeks across, the classes of each track down. A unit is moved by dragging it, or with m, the arrows and Enter. */
export function SeasonGrid({ page, spot, onSpot, carried, onCarry, onDrop, onLeave }: Props) {
  const may = useMay()("make-move");
  const hue = (area: string) =>
    `color-mix(in srgb, ${hues[page.areas.indexOf(area) % hues.length] ?? "#56615b"}, var(--color-ink) var(--hue-lift))`;
  const tracks = [...new Set(page.rows.map((r) => r.track))];
  const bands = inBands(page.weeks, usePrinting() ? 20 : page.weeks.length);
  function keys(e: KeyboardEvent<HTMLElement>) {
    const cell = page.rows.flatMap((r) => r.cells).find((c) => `${c.week}/${c.class}` === (e.target as HTMLElement).dataset.cell);
    if (e.key === "Escape" && carried) {
      onLeave();
      e.preventDefault();
    } else if (e.key === "m" && may && cell && cell.items.length > 0 && cell.state === "planned") {
      const at =
        carried?.from?.week === cell.week && carried.from.class === cell.class ? cell.items.findIndex((i) => i.unit === carried.unit) : -1;
      const item = cell.items[(at + 1) % cell.items.length];
      if (item) onCarry({ ...item, from: { week: cell.week, class: cell.class } });
      e.preventDefault();
    } else move(e);
  }
  return (
    <>
      <div className="season-sheet mt-1 relative overflow-x-auto" style={{ "--print-zoom": printZoom(page, bands) } as CSSProperties}>
        {bands.map((weeks) => (
          <table
            key={weeks[0]?.week}
            className="grid-lines min-w-(--sheet) table-fixed print:mb-3 print:w-full print:min-w-0"
            style={{ "--sheet": `${92 + weeks.length * 88}px` } as CSSProperties}
            onKeyDown={keys}
          >
            <thead>
              <tr>
                <th className="sticky left-0 z-10 print:static w-[92px] bg-paper">{tr("Class")}</th>
                {weeks.map((w) => {
                  const now = page.today >= w.start && page.today < next(w.start);
                  return (
                    <th key={w.week} aria-current={now ? "date" : undefined} className={now ? "border-b-4! border-lake!" : ""}>
                      {shortDate(w.start)}
                      {now && <span className="block text-[11px] leading-3 font-normal text-lake">{tr("this week")}</span>}
                      {w.dates?.map((d) => (
                        <span key={d} title={d} className="block overflow-hidden text-[11px] leading-[13px] font-bold text-ellipsis">
                          {d.split(", ")[0]}
                        </span>
                      ))}
                    </th>
                  );
                })}
              </tr>
            </thead>
            <tbody>
              {tracks.map((t) => {
                const way = page.ways.find((w) => w.name === t);
                return (
                  <Fragment key={t}>
                    <tr>
                      <th colSpan={weeks.length + 1} className="pt-2! text-left text-[12.5px]">
                        <span className="sticky left-0 print:static">
                          {t}
                          {way && (
                            <span className="font-normal text-soft">
                              {" "}
                              · {word(way.school)},{" "}
                              {way.mode === "same" ? tr("the same in all classes of a week") : tr("split among its classes")}
                            </span>
                          )}
                        </span>
                      </th>
                    </tr>
                    {page.rows
                      .filter((r) => r.track === t)
                      .map((r) => (
                        <tr key={r.class}>
                          <td className="num sticky left-0 z-10 print:static bg-paper !py-1.5 !align-top" title={r.name}>
                            {weekday(r.day)} {r.start}
                            <span className="block text-[12px] leading-4 text-soft">{r.name.replace(`${r.track}, `, "")}</span>
                          </td>
                          {r.cells.slice((weeks[0]?.week ?? 1) - 1, weeks.at(-1)?.week).map((c) => (
                            <td
                              key={c.week}
                              className={`h-px !p-0 !align-top ${c.state === "closed" ? "shut" : ""} ${c.state === "past" ? "bg-wash" : ""}`}
                            >
                              {/* biome-ignore lint/a11y/noStaticElementInteractions: the button inside does the same by keys */}
                              <div
                                className="h-full"
                                onDragOver={(e) => may && carried && e.preventDefault()}
                                onDrop={(e) => {
                                  e.preventDefault();
                                  onDrop({ week: c.week, class: c.class });
                                }}
                              >
                                {/* biome-ignore lint/a11y/useSemanticElements: some browsers let nothing be dragged out of a button */}
                                <div
                                  role="button"
                                  tabIndex={0}
                                  data-cell={`${c.week}/${c.class}`}
                                  aria-pressed={spot?.week === c.week && spot.class === c.class}
                                  onClick={() =>
                                    onSpot(
                                      !carried && spot?.week === c.week && spot.class === c.class ? null : { week: c.week, class: c.class },
                                    )
                                  }
                                  onKeyDown={(e) => {
                                    if (e.key !== "Enter" && e.key !== " ") return;
                                    e.preventDefault();
                                    e.currentTarget.click();
                                  }}
                                  className={`flex h-full cursor-pointer ${r.cells.some((x) => x.items.length > 0 && !x.same_as) ? "min-h-[64px]" : "min-h-[40px]"} w-full print:min-h-0 flex-col justify-start px-1 py-1 text-left hover:bg-wash aria-pressed:bg-wash aria-pressed:outline-2 aria-pressed:-outline-offset-1 aria-pressed:outline-lake ${c.breaks ? "outline-2 -outline-offset-2 outline-clay" : ""}`}
                                >
                                  <span className="sr-only">
                                    {`${weekday(r.day)} ${shortDate(c.on)}, ${r.name}: ${c.why ?? (c.items.map((i) => `${word(i.kind)} ${i.name}`).join(", ") || c.state)}${c.lead ? tr(", led by {{lead}}", { lead: c.lead }) : ""}${c.pinned ? tr(", pinned") : ""}${c.breaks ? tr(", broken: {{breaks}}", { breaks: c.breaks.join(" ") }) : ""}. `}
                                  </span>
                                  <Inside
                                    cell={c}
                                    hue={hue}
                                    as={page.rows.find((x) => x.class === c.same_as)}
                                    onCarry={may && c.state === "planned" ? onCarry : undefined}
                                  />
                                </div>
                              </div>
                            </td>
                          ))}
                        </tr>
                      ))}
                  </Fragment>
                );
              })}
            </tbody>
          </table>
        ))}
      </div>
      <p className="mt-2 flex flex-wrap gap-x-4 gap-y-1 text-[12.5px] text-soft">
        {page.areas.map((a) => (
          <span key={a} className="border-l-4 pl-1.5 leading-4" style={{ borderColor: hue(a) }}>
            {a}
          </span>
        ))}
        {page.areas.length > 0 && (
          <>
            <span>
              <Bar colour="#56615b" kind="teach" /> {tr("teach")}
            </span>
            <span>
              <Bar colour="#56615b" kind="review" /> {tr("review")}
            </span>
            <span>
              <Pin /> {tr("pinned")}
            </span>
          </>
        )}
        {page.no_coach > 0 && <b className="text-clay">{tr("{{nocoach}} without a coach", { nocoach: page.no_coach })}</b>}
        {may && <span className="no-print">{tr("Drag a unit to another class, or press m on a class and walk with the arrows.")}</span>}
      </p>
    </>
  );
}

/** printZoom makes a full season smaller, so that it stays on its one sheet: by about how tall its rows will be, in pixels on paper. */
function printZoom(page: S["SeasonPage"], bands: S["SeasonPage"]["weeks"][]): number {
  const sheet = 960;
  const tall = bands.reduce((sum, weeks) => {
    const first = (weeks[0]?.week ?? 1) - 1;
    const rows = page.rows.map(
      (r) => 20 + 21 * Math.max(0, ...r.cells.slice(first, weeks.at(-1)?.week).map((c) => (c.same_as ? 0 : c.items.length))),
    );
    return sum + 100 + rows.reduce((a, b) => a + b, 0);
  }, 0);
  return Math.min(1, sheet / tall);
}

/** inBands cuts weeks into equal parts of at most so many: on paper more would be too narrow to read. */
function inBands<T>(weeks: T[], most: number): T[][] {
  const each = Math.ceil(weeks.length / Math.ceil(weeks.length / Math.max(1, most)));
  return weeks.length === 0
    ? [[]]
    : Array.from({ length: Math.ceil(weeks.length / each) }, (_, i) => weeks.slice(i * each, (i + 1) * each));
}

function next(day: string): string {
  return new Date(Date.parse(`${day}T00:00:00Z`) + 7 * 86400000).toISOString().slice(0, 10);
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

function Pin() {
  return (
    <svg width={9} height={11} viewBox="0 0 9 11" className="inline-block align-[-1px]" aria-hidden="true">
      <path d="M4.5 6v5M1 6h7L6.5 4V1h-4v3Z" fill="none" stroke="currentColor" strokeWidth={1.2} />
    </svg>
  );
}

function Inside({
  cell,
  hue,
  as,
  onCarry,
}: {
  cell: S["Cell"];
  hue: (area: string) => string;
  as?: S["SeasonRow"];
  onCarry?: (c: Carried | null) => void;
}) {
  if (cell.state === "closed") return <span className="bg-paper text-[12px] leading-4 text-soft">{cell.why}</span>;
  if (cell.items.length === 0) return <span className="text-[12px] text-soft">{cell.state === "past" ? tr("over") : tr("empty")}</span>;
  if (as)
    return (
      <span className={`text-[12px] leading-[15px] text-soft ${cell.state === "past" ? "text-soft" : ""}`}>
        {tr("as {{day}}", { day: weekday(as.day) })}
        <Lead cell={cell} />
      </span>
    );
  return (
    <span className={`flex flex-col gap-0.5 text-[12.5px] leading-[15px] ${cell.state === "past" ? "text-soft" : ""}`}>
      {[...cell.items]
        .sort((a, b) => b.kind.localeCompare(a.kind))
        .map((i) => (
          // biome-ignore lint/a11y/noStaticElementInteractions: the key m on the class does the same
          <span
            key={i.unit}
            draggable={!!onCarry}
            onDragStart={(e) => {
              e.dataTransfer.setData("text/plain", i.name);
              onCarry?.({ ...i, from: { week: cell.week, class: cell.class } });
            }}
            className={`flex ${i.kind === "review" ? "text-soft" : "font-semibold"}`}
          >
            <Bar colour={hue(i.area)} kind={i.kind} />
            <span>{i.name}</span>
          </span>
        ))}
      <Lead cell={cell} />
    </span>
  );
}

function Lead({ cell }: { cell: S["Cell"] }) {
  return (
    <span className={`head num block text-[12px] ${cell.lead ? "text-soft" : "font-bold text-clay"}`}>
      {cell.lead ?? tr("no coach")} {cell.pinned && <Pin />}
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
  const rows = [...(row.parentElement?.querySelectorAll("tr") ?? [])].filter((r) => r.querySelector("[data-cell]"));
  const next = rows[rows.indexOf(row) + step[0]]?.children[[...row.children].indexOf(at) + step[1]];
  next?.querySelector<HTMLElement>("[data-cell]")?.focus();
  e.preventDefault();
}
