import { useMemo } from "react";
import type { S } from "../../api/client";
import { tr, word } from "../../kit/tr";

type Box = { id: string; name: string; x: number; y: number; out: number; finishes: number };
type Pair = { from: string; to: string; count: number };

/** mostPairs: a picture with more lines than this shows only those of the position under the finger. */
const mostPairs = 260;

/**
 * MapPicture draws families as regions and positions in them. Where a line is thick, many techniques lead that way.
 * With a position chosen its own lines stand out: whole where they lead out, broken where they lead in.
 */
export function MapPicture(props: {
  page: S["MapPage"];
  chosen: string;
  chain: string[];
  scale: "fit" | "full";
  onChoose: (id: string) => void;
}) {
  const { page, chosen, chain } = props;
  const { layout } = page;
  const { boxes, pairs } = useMemo(() => {
    const at = new Map<string, Box>();
    for (const s of layout.spots) {
      at.set(s.position, { id: s.position, name: page.places[s.position] ?? s.position, x: s.x, y: s.y, out: 0, finishes: 0 });
    }
    const sums = new Map<string, Pair>();
    for (const a of page.arrows) {
      const from = at.get(a.from.position);
      if (!from) continue;
      from.out += a.techniques.length;
      if (!a.to) from.finishes += a.techniques.length;
      else if (a.to.position !== a.from.position) {
        const key = `${a.from.position}>${a.to.position}`;
        const had = sums.get(key) ?? { from: a.from.position, to: a.to.position, count: 0 };
        sums.set(key, { ...had, count: had.count + a.techniques.length });
      }
    }
    return { boxes: at, pairs: [...sums.values()] };
  }, [page, layout]);
  const dead = new Set(page.report.dead_ends.map((p) => p.position));
  const touched = new Set(pairs.flatMap((p) => [p.from, p.to]));
  for (const b of boxes.values()) if (b.finishes) touched.add(b.id);
  const steps = new Set(chain.slice(1).map((to, i) => `${chain[i]}>${to}`));
  const shown = pairs.filter((p) => {
    if (steps.size) return steps.has(`${p.from}>${p.to}`);
    if (chosen) return p.from === chosen || p.to === chosen;
    return pairs.length <= mostPairs;
  });
  const near = new Set(shown.flatMap((p) => [p.from, p.to]));
  const focus = !!chosen || steps.size > 0;
  return (
    // biome-ignore lint/a11y/useSemanticElements: a fieldset cannot be a drawing
    <svg
      viewBox={`-4 -4 ${layout.wide + 8} ${layout.high + 8}`}
      width={props.scale === "full" ? layout.wide + 8 : undefined}
      className={props.scale === "full" ? "block max-w-none" : "block h-auto w-full"}
      role="group"
      aria-label={tr("Map of positions")}
    >
      <title>{tr("Map of positions")}</title>
      <defs>
        {(["lake", "soft", "clay"] as const).map((c) => (
          <marker
            key={c}
            id={`tip-${c}`}
            viewBox="0 0 8 8"
            refX="7"
            refY="4"
            markerWidth="9"
            markerHeight="9"
            markerUnits="userSpaceOnUse"
            orient="auto"
          >
            <path d="M0 0.6L7.4 4L0 7.4z" fill={`var(--color-${c})`} />
          </marker>
        ))}
      </defs>
      {layout.regions.map((r) => (
        <g key={r.family}>
          <rect x={r.x} y={r.y} width={r.wide} height={r.high} fill="var(--color-leaf)" stroke="var(--color-rule)" />
          <path d={`M${r.x} ${r.y + 24}h${r.wide}`} stroke="var(--color-hair)" />
          <text x={r.x + 8} y={r.y + 17} className="head" fontSize="14" fontWeight="650" fill="var(--color-ink)">
            {word(r.family)}
          </text>
        </g>
      ))}
      {shown.map((p) => {
        const a = boxes.get(p.from);
        const b = boxes.get(p.to);
        if (!a || !b) return null;
        const inward = focus && !steps.size && p.to === chosen;
        const tone = steps.size ? "clay" : inward ? "soft" : "lake";
        return (
          <path
            key={`${p.from}>${p.to}`}
            d={curve(a, b, layout.box_wide, layout.box_high)}
            fill="none"
            stroke={`var(--color-${tone})`}
            strokeOpacity={focus ? 0.95 : Math.min(0.6, (pairs.length < 60 ? 0.3 : 0.08) + 0.09 * p.count)}
            strokeWidth={(focus ? 1.2 : 0.8) + Math.min(3, Math.log2(p.count))}
            strokeDasharray={inward ? "5 3" : undefined}
            markerEnd={focus ? `url(#tip-${tone})` : undefined}
          />
        );
      })}
      {[...boxes.values()].map((b) => {
        const on = b.id === chosen;
        const faint = focus ? !near.has(b.id) && !on : page.filtered && !touched.has(b.id);
        const words = tr("{{name}}{{finishes}}: {{out}} techniques start here, {{finishes2}} finish{{has}}", {
          name: b.name,
          finishes: b.finishes ? ` ${b.finishes}` : "",
          out: b.out,
          finishes2: b.finishes,
          has: dead.has(b.id) ? tr("; the defender has no way out") : "",
        });
        return (
          // biome-ignore lint/a11y/useSemanticElements: a button cannot stand in a drawing
          <g
            key={b.id}
            role="button"
            tabIndex={0}
            aria-label={words}
            aria-pressed={on}
            data-box={b.id}
            opacity={faint ? 0.32 : 1}
            className="cursor-pointer"
            onClick={() => props.onChoose(on ? "" : b.id)}
            onKeyDown={(e) => {
              if (e.key === "Enter" || e.key === " ") {
                e.preventDefault();
                props.onChoose(on ? "" : b.id);
              }
            }}
          >
            <title>{words}</title>
            <rect
              x={b.x - layout.box_wide / 2}
              y={b.y - layout.box_high / 2}
              width={layout.box_wide}
              height={layout.box_high}
              fill={on ? "var(--color-ink)" : "var(--color-white)"}
              stroke={dead.has(b.id) && !on ? "var(--color-clay)" : "var(--color-ink)"}
              strokeWidth={dead.has(b.id) ? 2.2 : 1}
            />
            <Ways ways={page.ways.find((w) => w.position === b.id)} box={b} wide={layout.box_wide} high={layout.box_high} />
            <Label box={b} wide={layout.box_wide} colour={on ? "var(--color-white)" : "var(--color-ink)"} />
          </g>
        );
      })}
    </svg>
  );
}

/** Ways draws in how many hands a position has a way: attack along the top of its box, defence along the foot; red where nobody has one. */
function Ways({ ways, box: b, wide, high }: { ways?: S["PositionWays"]; box: Box; wide: number; high: number }) {
  if (!ways) return null;
  const left = b.x - wide / 2 + 1;
  const bar = (share: number, y: number) => (
    <>
      <rect x={left} y={y} width={wide - 2} height={4} fill={share === 0 ? "var(--color-clay)" : "var(--color-hair)"} />
      <rect x={left} y={y} width={(wide - 2) * share} height={4} fill="var(--color-moss)" />
    </>
  );
  return (
    <g>
      <title>
        {[
          ways.attack !== undefined && tr("attack: {{v}} %", { v: Math.round(ways.attack * 100) }),
          ways.defend !== undefined && tr("defence: {{v}} %", { v: Math.round(ways.defend * 100) }),
        ]
          .filter(Boolean)
          .join(", ")}
      </title>
      {ways.attack !== undefined && bar(ways.attack, b.y - high / 2 + 1)}
      {ways.defend !== undefined && bar(ways.defend, b.y + high / 2 - 5)}
    </g>
  );
}

/** Label writes a name on one line, or on two where one is too long, and how many finishes wait there. */
function Label({ box, wide, colour }: { box: Box; wide: number; colour: string }) {
  const room = Math.floor((wide - (box.finishes ? 24 : 8)) / 6.1);
  const words = box.name.split(" ");
  const lines = [""];
  for (const w of words) {
    const last = lines[lines.length - 1] ?? "";
    if (last && `${last} ${w}`.length > room && lines.length < 2) lines.push(w);
    else lines[lines.length - 1] = last ? `${last} ${w}` : w;
  }
  const size = lines.some((l) => l.length > room) ? 10.5 : 12;
  return (
    <>
      {lines.map((l, i) => (
        <text
          // biome-ignore lint/suspicious/noArrayIndexKey: two lines of one name
          key={i}
          x={box.x - wide / 2 + 5}
          y={box.y + (lines.length === 1 ? 4 : i === 0 ? -2 : 10)}
          fontSize={size}
          fill={colour}
        >
          {`${l} `}
        </text>
      ))}
      {box.finishes > 0 && (
        <>
          <circle cx={box.x + wide / 2 - 11} cy={box.y} r={8} fill="none" stroke={colour} />
          <text x={box.x + wide / 2 - 11} y={box.y + 3.5} fontSize={10} textAnchor="middle" fill={colour}>
            {box.finishes}
          </text>
        </>
      )}
    </>
  );
}

/** curve leads from the edge of one box to the edge of another, bent so that there and back are two lines. */
function curve(a: Box, b: Box, wide: number, high: number): string {
  const [dx, dy] = [b.x - a.x, b.y - a.y];
  const far = Math.hypot(dx, dy) || 1;
  const bend = Math.min(46, far * 0.16);
  const [mx, my] = [(a.x + b.x) / 2 - (dy / far) * bend, (a.y + b.y) / 2 + (dx / far) * bend];
  const start = edge(a, mx, my, wide, high);
  const end = edge(b, mx, my, wide + 4, high + 4);
  return `M${start[0]} ${start[1]}Q${mx} ${my} ${end[0]} ${end[1]}`;
}

function edge(box: Box, x: number, y: number, wide: number, high: number): [number, number] {
  const [dx, dy] = [x - box.x, y - box.y];
  const t = Math.min(1, 1 / Math.max(Math.abs(dx) / (wide / 2), Math.abs(dy) / (high / 2), 0.0001));
  return [Math.round((box.x + dx * t) * 10) / 10, Math.round((box.y + dy * t) * 10) / 10];
}
