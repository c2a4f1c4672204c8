import type { S } from "../../api/client";
import { Legend } from "../../kit/Legend";
import { tr, word } from "../../kit/tr";
import { Waymark } from "../../kit/Waymark";

/** At is a cell of the matrix somebody picked. */
export type At = { position: string; name: string; kind: string };

/**
 * Matrix is the picture of a rank: positions down, kinds across. A waymark is what is asked for here, to its rung; a ring was
 * asked for by a rank below; a red cell may not stay empty. Picking a cell offers what the library has for it.
 */
export function Matrix({ page, small, onPick }: { page: S["CurriculumPage"]; small?: boolean; onPick?: (at: At) => void }) {
  const { matrix: m } = page;
  const families = [...new Set(m.rows.map((r) => r.family))];
  return (
    <>
      <table className="border-collapse text-[12.5px] leading-[16px]">
        <caption className="sr-only">{tr("Requirements for {{rank}} by position and kind", { rank: page.line.rank })}</caption>
        <thead>
          <tr>
            <td />
            {m.kinds.map((k) => (
              <th key={k} className="h-20 w-8 align-bottom font-semibold text-soft">
                <span className="inline-block pb-1 [writing-mode:vertical-rl] [transform:rotate(180deg)]">{word(k)}</span>
              </th>
            ))}
          </tr>
        </thead>
        {families.map((f) => (
          <tbody key={f} className="border-t-[1.5px] border-ink">
            {m.rows
              .filter((r) => r.family === f)
              .map((r, i) => (
                <tr key={r.position} className="border-b border-hair">
                  <th scope="row" className="max-w-40 truncate pr-2 text-left font-sans font-normal [font-stretch:100%]" title={r.name}>
                    {!small && i === 0 && <span className="sr-only">{word(f)}: </span>}
                    {r.name}
                  </th>
                  {r.cells.map((c, j) => (
                    <Cell
                      key={m.kinds[j]}
                      cell={c}
                      what={`${r.name}, ${word(m.kinds[j])}`}
                      onPick={
                        onPick && c.could > 0 ? () => onPick({ position: r.position, name: r.name, kind: m.kinds[j] ?? "" }) : undefined
                      }
                    />
                  ))}
                </tr>
              ))}
          </tbody>
        ))}
      </table>
      {!small && (
        <p className="mt-1.5 flex flex-wrap gap-x-4 text-[12.5px] text-soft">
          <span>
            <b className="text-ink">
              <Waymark rung="passed" size={12} /> 2
            </b>{" "}
            {tr("asked for here, the highest rung and how many")}
          </span>
          <span>{tr("○ asked for by a rank below")}</span>
          <span>{tr("· the library has something")}</span>
          <span className="text-clay">{tr("! may not stay empty in this family")}</span>
          {onPick && <span>{tr("Pick a cell to see what would go there.")}</span>}
          <Legend />
        </p>
      )}
    </>
  );
}

function Cell({ cell: c, what, onPick }: { cell: S["MatrixCell"]; what: string; onPick?: () => void }) {
  const words = [
    what,
    c.here.length && tr("here: {{here}} ({{rung}})", { here: c.here.join(", "), rung: word(c.rung) }),
    c.below.length && tr("below: {{below}}", { below: c.below.join(", ") }),
    c.must && tr("may not stay empty"),
    c.could && tr("{{could}} more in the library", { could: c.could }),
  ]
    .filter(Boolean)
    .join("; ");
  const mark = c.must && c.could ? "!" : c.below.length ? "○" : c.could ? "·" : "";
  const inside = c.here.length ? (
    <>
      <Waymark rung={c.rung ?? ""} size={12} label={what} />
      {c.here.length > 1 && ` ${c.here.length}`}
    </>
  ) : (
    mark
  );
  return (
    <td
      title={words}
      className={`num border-l border-hair text-center ${c.must && c.could && !c.here.length ? "font-bold text-clay" : c.here.length ? "font-bold" : "text-soft"}`}
    >
      {onPick ? (
        // Reached with the mouse alone: the keys have the search beside it.
        <button
          type="button"
          tabIndex={-1}
          aria-label={tr("What would go there: {{what}}", { what })}
          className="block w-full hover:bg-wash"
          onClick={onPick}
        >
          {inside}
        </button>
      ) : (
        <span aria-hidden="true">{inside}</span>
      )}
      {(c.here.length > 0 || c.must) && <span className="sr-only">{words}</span>}
    </td>
  );
}
