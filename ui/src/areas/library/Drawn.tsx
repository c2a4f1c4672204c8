import { type ReactNode, type Ref, useId } from "react";
import type { S } from "../../api/client";
import { tr } from "../../kit/tr";

type Scene = S["DrawingScene"];

const hatched = ["they-body", "they-head-down"];

/** Drawn shows a drawing the server made of its lines: two people seen from above, one solid and one hollow. */
export function Drawn(props: {
  scene: Scene;
  shows: string;
  className?: string;
  box?: Scene["box"];
  at?: Ref<SVGSVGElement>;
  children?: ReactNode;
}) {
  const { scene: s } = props;
  const hatch = useId();
  const [left, top, width, height] = props.box ?? s.box;
  return (
    <svg
      ref={props.at}
      role={props.children ? "group" : "img"}
      aria-label={props.shows}
      viewBox={`${left} ${top} ${width} ${height}`}
      className={`drawn ${props.className ?? ""}`}
      style={{ width: `min(100%, ${(width ?? 1) * 1.35}px)` }}
    >
      <defs>
        <pattern id={hatch} width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="5" height="5" className="ground" />
          <path d="M0 0V5" className="hatch" />
        </pattern>
      </defs>
      {s.shapes.map((x, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: shapes have no name but their order
        <path key={i} className={x.style} d={x.path} style={hatched.includes(x.style) ? { fill: `url(#${hatch})` } : undefined} />
      ))}
      {s.labels.map((l, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: labels have no name but their order
        <text key={i} x={l.x} y={l.y} textAnchor={l.anchor ?? "middle"} className={l.side ? `side ${l.side}` : ""}>
          {l.text}
        </text>
      ))}
      {props.children}
    </svg>
  );
}

/** Figure is a drawing with its words and what its signs mean. */
export function Figure({ scene, shows }: { scene: Scene; shows: string }) {
  return (
    <figure className="my-1 max-w-[340px] break-inside-avoid">
      <Drawn scene={scene} shows={shows} className="max-h-64" />
      <figcaption className="max-w-[60ch] text-[12.5px] leading-4 text-soft">
        {shows} <Legend pair={scene.shapes.some((x) => x.style.startsWith("they"))} />
      </figcaption>
    </figure>
  );
}

export function Legend({ pair }: { pair: boolean }) {
  return (
    <span className="italic">
      {tr("Seen from above: {{pair}}an open head looks up{{pair2}}; L and R are left and right.", {
        pair: pair ? `${tr("you solid, your partner hollow;")} ` : "",
        pair2: pair ? tr("; dots pass underneath") : "",
      })}
    </span>
  );
}
