import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type KeyboardEvent, type PointerEvent, useDeferredValue, useRef, useState } from "react";
import { client, type S, unwrap } from "../../api/client";
import { Input, TextArea } from "../../kit/Field";
import { Rows } from "../../kit/Rows";
import { tr } from "../../kit/tr";
import { Drawn, Legend } from "./Drawn";
import { PickPoint } from "./KeyPointRows";
import { type Draft, type PartProps, short } from "./TechniqueEditor";

type Drawing = S["LibraryDrawing"];

/** DrawingRows writes drawings as lines, with the picture beside them as it will be seen; a point can be dragged. */
export function DrawingRows({ t, put, wrong }: PartProps) {
  const scenes = useScenes(t);
  return (
    <>
      <Rows
        title={tr("Drawings")}
        add={tr("Add a drawing")}
        items={t.drawings ?? []}
        blank={(): Drawing => ({ id: `v${short()}`, shows: "", lines: first })}
        onChange={(drawings) => put({ drawings: drawings.length ? drawings : undefined })}
      >
        {(d, set, i) => <Row t={t} d={d} set={set} scene={scenes?.[i]} wrong={wrong} at={i} />}
      </Rows>
      {!!t.drawings?.length && <Language />}
    </>
  );
}

const first = tr("they on the back: head 0,4; hips 0,-3\nyou kneeling: head -3,3; hips -4,-1\nyour {left} hand: their {right} shoulder");

/** useScenes asks for the drawings as they are being written. */
function useScenes(t: Draft) {
  const drawings = useDeferredValue(JSON.stringify(t.drawings ?? []));
  const body = { ...t, id: t.id || "new", drawings: JSON.parse(drawings) as Drawing[] };
  return useQuery({
    queryKey: ["drawings", t.id, t.taught, t.from, t.to, JSON.stringify(t.key_points), drawings],
    queryFn: () => unwrap(client.POST("/api/library/drawings", { body })),
    enabled: drawings !== "[]",
    placeholderData: keepPreviousData,
    gcTime: 10_000,
  }).data;
}

function Row(props: {
  t: Draft;
  d: Drawing;
  set: (d: Drawing) => void;
  scene?: S["DrawingScene"];
  wrong: Record<string, string>;
  at: number;
}) {
  const { t, d, set, scene, wrong, at } = props;
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_260px] gap-3">
      <div className="flex flex-col gap-1.5">
        <Input
          label={tr("What the drawing shows")}
          hint={tr("In words, for those who do not see it")}
          value={d.shows}
          error={wrong[`drawings[${at}].shows`]}
          onChange={(e) => set({ ...d, shows: e.target.value })}
        />
        <PickPoint label={tr("At key point")} t={t} value={d.key_point} onChange={(key_point) => set({ ...d, key_point })} />
        <TextArea
          label={tr("Lines of drawing {{at}}", { at: at + 1 })}
          rows={7}
          spellCheck={false}
          value={d.lines}
          error={wrong[`drawings[${at}].lines`]}
          onChange={(e) => set({ ...d, lines: e.target.value })}
        />
        {scene?.problems.map((p) => (
          <p key={`${p.line}${p.what}`} className={`text-[12.5px] leading-4 ${p.warn ? "text-soft" : "text-clay"}`}>
            {tr("Line {{line}}: {{what}}", { line: p.line, what: p.what })}
          </p>
        ))}
      </div>
      {scene && <Draggable scene={scene} shows={d.shows || tr("The drawing")} lines={d.lines} onLines={(lines) => set({ ...d, lines })} />}
    </div>
  );
}

type Handle = S["DrawingHandle"];
const step = 0.5; // hands' widths that a point moves at once

/** Draggable is the drawing with its points to take hold of; the arrow keys move them too. */
function Draggable(props: { scene: S["DrawingScene"]; shows: string; lines: string; onLines: (lines: string) => void }) {
  const svg = useRef<SVGSVGElement>(null);
  const [held, hold] = useState<{ line: number; pair: number; box: number[] }>();
  const put = (h: { line: number; pair: number }, x: number, y: number) => props.onLines(withPoint(props.lines, h, x, y));
  function drag(e: PointerEvent, h: Handle) {
    const across = svg.current?.getScreenCTM()?.inverse();
    if (!held || held.line !== h.line || held.pair !== h.pair || !across) return;
    const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(across);
    put(h, snap(p.x / 10), snap(-p.y / 10));
  }
  function key(e: KeyboardEvent, h: Handle) {
    const [dx, dy] = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[e.key] ?? [0, 0];
    if (!dx && !dy) return;
    e.preventDefault();
    put(h, snap(h.x / 10) + step * (dx ?? 0), snap(-h.y / 10) + step * (dy ?? 0));
  }
  return (
    <div>
      <Drawn scene={props.scene} shows={props.shows} box={held?.box} at={svg} className="max-h-72 touch-none border border-hair bg-paper">
        {props.scene.handles.map((h) => (
          // biome-ignore lint/a11y/useSemanticElements: a button cannot stand in a drawing
          <circle
            key={`${h.line}.${h.pair}`}
            role="button"
            tabIndex={0}
            aria-label={tr("{{what}}, at {{x}}, {{y}}: drag it, or move it with the arrow keys", {
              what: h.what,
              x: h.x / 10,
              y: -h.y / 10,
            })}
            className="handle"
            cx={h.x}
            cy={h.y}
            r={6}
            onPointerDown={(e) => {
              e.currentTarget.setPointerCapture(e.pointerId);
              hold({ line: h.line, pair: h.pair, box: props.scene.box });
            }}
            onPointerMove={(e) => drag(e, h)}
            onPointerUp={() => hold(undefined)}
            onPointerCancel={() => hold(undefined)}
            onKeyDown={(e) => key(e, h)}
          >
            <title>{h.what}</title>
          </circle>
        ))}
      </Drawn>
      <p className="text-[12px] leading-4 text-soft">
        <Legend pair={props.scene.shapes.some((x) => x.style.startsWith("they"))} /> {tr("Drag a ring to move its point.")}
      </p>
    </div>
  );
}

const snap = (x: number) => Math.round(x / step) * step;

/** withPoint writes other coordinates into one place of the lines. */
export function withPoint(lines: string, at: { line: number; pair: number }, x: number, y: number): string {
  let n = -1;
  return lines
    .split("\n")
    .map((line, i) =>
      i !== at.line
        ? line
        : line.replace(/-?\d+(?:\.\d+)?,-?\d+(?:\.\d+)?/g, (had) => {
            n++;
            return n === at.pair ? `${x || 0},${y || 0}` : had;
          }),
    )
    .join("\n");
}

function Language() {
  return (
    <details className="mt-1 text-[12.5px] leading-[17px] text-soft">
      <summary className="cursor-pointer">{tr("How a drawing is written")}</summary>
      <pre className="my-1 overflow-auto border border-hair bg-paper p-2">
        {tr(
          "they on the back: head 0,4; hips 0,-3\nyou kneeling: head -3,3; hips -4,-1; looks 1,0\nyour {left} hand: their {right} shoulder\nyour {right} hand: 2,3 under\narrow from your hips to -6,0: slide out\nline from 0,6 to 0,-6: the middle line\nmark at their {left} knee: flat",
        )}
      </pre>
      <p>
        {tr(
          "A point is x,y in hands’ widths (10 cm) from the middle, x to the right and y up the page, or a joint of somebody: head, chest, hips, or with its side shoulder, elbow, hand, hip, knee, foot. Poses: standing, sitting, kneeling, on all fours, on the back, on the front, on the {left} side, on the {right} side. Whoever is named last is on top; “under” draws a limb beneath. Limbs that are not named lie where they usually do.",
        )}
      </p>
    </details>
  );
}
