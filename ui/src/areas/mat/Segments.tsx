import { useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { tr } from "../../kit/tr";

type Edit = S["MatSegmentEdit"];

/** Segments is the class in minutes; each can be stretched, dropped, kept or moved, and the rest refits at once. */
export function Segments({ page }: { page: S["SessionPage"] }) {
  const [editing, edit] = useState(false);
  const total = page.summary.length;
  const save = useAction(
    (body: S["SheetEdits"]) => unwrap(client.PUT("/api/classes/{id}/sheet", { params: { path: { id: page.summary.session } }, body })),
    () => tr("Changed the sheet."),
  );
  const { edits } = page.edits;
  const order = page.edits.order.length ? page.edits.order : page.order;
  const of = (id: string): Edit => edits.find((e) => e.id === id) ?? { id };
  const change = (id: string, part: Partial<Edit>) =>
    save.mutate({ edits: [...edits.filter((e) => e.id !== id), { ...of(id), ...part }], order: page.edits.order });
  const move = (id: string, by: number) => {
    const shown = page.segments.map((s) => s.id);
    const other = shown[shown.indexOf(id) + by];
    if (!other) return;
    const next = order.filter((x) => x !== id);
    next.splice(next.indexOf(other) + (by > 0 ? 1 : 0), 0, id);
    save.mutate({ edits, order: next });
  };
  const touched = edits.length > 0 || page.edits.order.length > 0;
  return (
    <>
      <table className="grid-lines mt-2" aria-label={tr("The class in minutes")}>
        <thead>
          <tr>
            <th className="w-12 text-right">{tr("Min")}</th>
            <th className="w-[18%]">
              <span className="sr-only">{tr("When in the class")}</span>
            </th>
            <th>{tr("Segment")}</th>
            <th className="text-right">{tr("Repetitions")}</th>
            {editing && <th className="no-print">{tr("Change")}</th>}
          </tr>
        </thead>
        <tbody>
          {page.segments.map((s, i) => (
            <tr key={s.id}>
              <td className="num text-right font-bold">{s.minutes}</td>
              <td>
                <svg viewBox="0 0 100 8" preserveAspectRatio="none" className="h-2 w-full" aria-hidden="true">
                  <rect
                    x={(page.segments.slice(0, i).reduce((n, x) => n + x.minutes, 0) / total) * 100}
                    width={(s.minutes / total) * 100}
                    height={8}
                    fill={s.drill ? "var(--color-ink)" : "var(--color-rule)"}
                  />
                </svg>
              </td>
              <td>
                {s.name}
                {s.by_hand && <span className="text-[12.5px] text-soft"> {tr("· by hand")}</span>}
              </td>
              <td className="num text-right whitespace-nowrap">
                {s.repetitions > 0 && (
                  <>
                    <b>{s.repetitions}</b> <span className="text-soft">{s.sides === 2 ? tr("each, each side") : tr("each")}</span>
                    {s.trio > 0 && <span className="text-soft"> {tr("· {{trio}} in a trio", { trio: s.trio })}</span>}
                  </>
                )}
              </td>
              {editing && (
                <td className="no-print whitespace-nowrap">
                  <Small
                    label={tr("One minute less: {{name}}", { name: s.name })}
                    onClick={() => change(s.id, { minutes: Math.max(1, s.minutes - 1) })}
                  >
                    −
                  </Small>
                  <Small label={tr("One minute more: {{name}}", { name: s.name })} onClick={() => change(s.id, { minutes: s.minutes + 1 })}>
                    +
                  </Small>
                  <Small label={tr("Earlier: {{name}}", { name: s.name })} disabled={i === 0} onClick={() => move(s.id, -1)}>
                    ↑
                  </Small>
                  <Small
                    label={tr("Later: {{name}}", { name: s.name })}
                    disabled={i + 1 === page.segments.length}
                    onClick={() => move(s.id, 1)}
                  >
                    ↓
                  </Small>
                  <Small label={tr("Leave out: {{name}}", { name: s.name })} onClick={() => change(s.id, { dropped: true, minutes: 0 })}>
                    ✕
                  </Small>
                </td>
              )}
            </tr>
          ))}
        </tbody>
        <tfoot>
          <tr>
            <td className="num text-right font-bold">{page.used}</td>
            <td colSpan={editing ? 4 : 3} className="text-soft">
              {tr("of {{total}} minutes", { total })}
              {page.short > 0 && (
                <b className="text-clay">
                  {" "}
                  {tr("· {{short}} minutes too short even for what must be; it was squeezed", { short: page.short })}
                </b>
              )}
            </td>
          </tr>
        </tfoot>
      </table>
      {page.fell_out.length > 0 && (
        <ul className="mt-1 text-[13px] text-soft" aria-label={tr("Fell out")}>
          {page.fell_out.map((s) => (
            <li key={s.id}>
              <b>{tr("Fell out: {{name}}.", { name: s.name })}</b> {s.why}{" "}
              {s.needs ? tr("{{needs}} more minutes would make room for it.", { needs: s.needs }) : ""}{" "}
              {s.instead?.length ? tr("Added back, it takes the place of {{instead}}.", { instead: s.instead.join(", ") }) : ""}{" "}
              {page.may_run && (
                <button type="button" className="link no-print" onClick={() => change(s.id, { dropped: false, kept: !s.by_hand })}>
                  {tr("Add it back")}
                </button>
              )}
            </li>
          ))}
        </ul>
      )}
      {page.may_run && (
        <div className="no-print mt-1 flex gap-3">
          <Button look="quiet" onClick={() => edit(!editing)}>
            {editing ? tr("Done") : tr("Change the sheet")}
          </Button>
          {touched && (
            <Button look="quiet" onClick={() => save.mutate({ edits: [], order: [] })}>
              {tr("As it fits by itself")}
            </Button>
          )}
        </div>
      )}
      {save.error && <p className="text-clay">{save.error.message}</p>}
    </>
  );
}

function Small(props: { label: string; onClick: () => void; disabled?: boolean; children: string }) {
  return (
    <button
      type="button"
      aria-label={props.label}
      title={props.label}
      disabled={props.disabled}
      onClick={props.onClick}
      className="mr-0.5 inline-flex h-[26px] w-[26px] items-center justify-center rounded-sm border border-rule disabled:opacity-40"
    >
      {props.children}
    </button>
  );
}
