import { tr, word } from "./tr";
export const rungs = ["not met", "met", "drilled", "passed", "live", "teaches"] as const;

const corners = [
  [8, 1.6],
  [14.4, 8],
  [8, 14.4],
  [1.6, 8],
] as const;

function edge(i: number): string {
  const [x1, y1] = corners[i % 4] as readonly [number, number];
  const [x2, y2] = corners[(i + 1) % 4] as readonly [number, number];
  return `M${x1} ${y1}L${x2} ${y2}`;
}

type Marked = { rung: string; due?: boolean; held?: boolean };

/** Waymark draws a standing: one edge for each rung reached, a dot for teaches, broken when due, barred when held. */
export function Waymark({ rung, due, held, label, size = 16 }: Marked & { label?: string; size?: number }) {
  const reached = rungs.indexOf(rung as (typeof rungs)[number]);
  const words = [label, word(rung), due && tr("due for a refresh"), held && word("held")].filter(Boolean).join(", ");
  return (
    <svg
      width={size}
      height={size}
      viewBox="-1 -1 18 18"
      role="img"
      aria-label={words}
      className="inline-block overflow-visible align-[-3px]"
    >
      <title>{words}</title>
      {[0, 1, 2, 3].map((i) =>
        i < reached ? (
          <path
            key={i}
            d={edge(i)}
            fill="none"
            stroke={due ? "var(--color-clay)" : "currentColor"}
            strokeWidth={2.2}
            strokeDasharray={due ? "2.4 2.6" : undefined}
            strokeLinecap={due ? "butt" : "square"}
          />
        ) : (
          <path key={i} d={edge(i)} fill="none" stroke="var(--color-rule)" strokeWidth={1} />
        ),
      )}
      {rung === "teaches" && <circle cx={8} cy={8} r={2.3} fill="currentColor" />}
      {held && <path d="M-1 8H17" stroke="var(--color-clay)" strokeWidth={2.2} />}
    </svg>
  );
}
