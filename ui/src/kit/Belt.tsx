import { tr } from "./tr";

const colours: Record<string, string> = {
  white: "#ffffff",
  blue: "#2f5fa8",
  purple: "#6b3f8a",
  brown: "#6d4526",
  black: "#1d1b1a",
  grey: "#8c8f90",
  yellow: "#e2b93b",
  orange: "#d9822b",
  green: "#3f7d47",
};

/** Belt is a narrow woven band at a name's edge; the word is said too. */
export function Belt({ belt, rank }: { belt: string; rank: string }) {
  return (
    <svg width={6} height={16} role="img" aria-label={tr("{{rank}} belt", { rank })} className="mr-2 inline-block shrink-0 align-[-3px]">
      <title>{rank}</title>
      <rect x={0.5} y={0.5} width={5} height={15} fill={colours[belt] ?? "#fff"} stroke="#1c2826" strokeOpacity={0.45} />
      {[3, 6, 9, 12].map((y) => (
        <path key={y} d={`M1 ${y}h4`} stroke="#fff" strokeOpacity={belt === "white" ? 0 : 0.35} />
      ))}
    </svg>
  );
}
