import { Popover } from "radix-ui";

const rungs = ["not met", "met", "drilled", "passed", "live", "teaches"] as const;
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
  const words = [label, rung, due && "due for a refresh", held && "held"].filter(Boolean).join(", ");
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

/** Legend explains the waymark, one step away from wherever one is shown. */
export function Legend() {
  return (
    <Popover.Root>
      <Popover.Trigger className="link text-[12.5px] no-print">Waymarks</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content sideOffset={6} collisionPadding={8} className="z-20 w-64 border border-ink bg-leaf p-3 shadow-md">
          <ul className="flex flex-col gap-1">
            {rungs.map((r, i) => (
              <li key={r} className="flex gap-2">
                <Waymark rung={r} />
                <span>
                  <b>{r}</b>
                  <span className="text-soft"> {meanings[i]}</span>
                </span>
              </li>
            ))}
            <li className="flex gap-2">
              <Waymark rung="passed" due />
              <span>
                <b>due</b>
                <span className="text-soft"> reached once, wants a refresh</span>
              </span>
            </li>
            <li className="flex gap-2">
              <Waymark rung="met" held />
              <span>
                <b>held</b>
                <span className="text-soft"> a medical hold keeps it away</span>
              </span>
            </li>
          </ul>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

const meanings = [
  "nothing recorded",
  "was there when it was taught",
  "enough exposures",
  "a check met the standard",
  "met it against live resistance",
  "can teach it back",
];
