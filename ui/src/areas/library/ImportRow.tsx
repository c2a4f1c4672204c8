import type { S } from "../../api/client";
import { tr, word } from "../../kit/tr";

export type RowProps = { row: S["ImportRow"]; on: boolean; onCompare: () => void; onLeave: () => void; onAnew: () => void };

/** ImportRow is one record of an import: what will happen with it, what is wrong, what can be decided. */
export function ImportRow({ row: r, on, onCompare, onLeave, onAnew }: RowProps) {
  return (
    <tr data-on={on} className="align-top">
      <td>
        {r.name || r.file}
        <span className="block text-[12.5px] leading-4 text-soft">
          {r.kind && `${word(r.kind)}, `}
          {r.file}
        </span>
      </td>
      <td className={r.open ? "text-clay" : ""}>
        {r.summary}
        {r.warnings.map((w) => (
          <span key={w} className="block text-[12.5px] leading-4 text-soft">
            {tr("Look: {{w}}", { w })}
          </span>
        ))}
        {r.wrong.map((w) => (
          <span key={w} className="block text-[12.5px] leading-4">
            {w}
          </span>
        ))}
      </td>
      <td className="text-right whitespace-nowrap">
        {r.duplicates.length > 0 && (
          <button
            type="button"
            className="link block text-[13px]"
            onClick={onCompare}
            aria-label={tr("Compare {{name}}", { name: r.name })}
          >
            {tr("Compare")}
          </button>
        )}
        {r.decision ? (
          <button type="button" className="link block text-[13px]" onClick={onAnew}>
            {tr("Decide anew")}
          </button>
        ) : (
          r.what !== "same" && (
            <button
              type="button"
              className="link block text-[13px]"
              aria-label={tr("Leave out {{name}}", { name: r.name || r.file })}
              onClick={onLeave}
            >
              {tr("Leave out")}
            </button>
          )
        )}
      </td>
    </tr>
  );
}
