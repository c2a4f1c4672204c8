import type { S } from "../../api/client";

/**
 * Matrix is the picture of a rank: positions down, kinds across. A full square is asked for here, a ring was asked for by a
 * rank below; a red cell may not stay empty.
 */
export function Matrix({ page, small }: { page: S["CurriculumPage"]; small?: boolean }) {
  const { matrix: m } = page;
  const families = [...new Set(m.rows.map((r) => r.family))];
  return (
    <>
      <table className="border-collapse text-[12.5px] leading-[16px]">
        <caption className="sr-only">Requirements for {page.line.rank} by position and kind</caption>
        <thead>
          <tr>
            <th />
            {m.kinds.map((k) => (
              <th key={k} className="h-20 w-8 align-bottom font-semibold text-soft">
                <span className="inline-block pb-1 [writing-mode:vertical-rl] [transform:rotate(180deg)]">{k}</span>
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
                    {!small && i === 0 && <span className="sr-only">{f}: </span>}
                    {r.name}
                  </th>
                  {r.cells.map((c, j) => (
                    <Cell key={m.kinds[j]} cell={c} what={`${r.name}, ${m.kinds[j]}`} />
                  ))}
                </tr>
              ))}
          </tbody>
        ))}
      </table>
      {!small && (
        <p className="mt-1.5 flex flex-wrap gap-x-4 text-[12.5px] text-soft">
          <span>
            <b className="text-ink">■ 2</b> asked for here
          </span>
          <span>○ asked for by a rank below</span>
          <span>· the library has something</span>
          <span className="text-clay">! may not stay empty in this family</span>
        </p>
      )}
    </>
  );
}

function Cell({ cell: c, what }: { cell: S["MatrixCell"]; what: string }) {
  const words = [
    what,
    c.here.length && `here: ${c.here.join(", ")} (${c.rung})`,
    c.below.length && `below: ${c.below.join(", ")}`,
    c.must && "may not stay empty",
    c.could && `${c.could} more in the library`,
  ]
    .filter(Boolean)
    .join("; ");
  const mark = c.here.length
    ? `■${c.here.length > 1 ? ` ${c.here.length}` : ""}`
    : c.must && c.could
      ? "!"
      : c.below.length
        ? "○"
        : c.could
          ? "·"
          : "";
  return (
    <td
      title={words}
      className={`num border-l border-hair text-center ${c.must && c.could && !c.here.length ? "font-bold text-clay" : c.here.length ? "font-bold" : "text-soft"}`}
    >
      <span aria-hidden="true">{mark}</span>
      {(c.here.length > 0 || c.must) && <span className="sr-only">{words}</span>}
    </td>
  );
}
