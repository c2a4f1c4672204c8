import { Link } from "react-router";
import type { S } from "../../api/client";
import { tr, word } from "../../kit/tr";
import { percent } from "../../kit/words";
import { Bar, wordsOf } from "./PositionsGrid";

/** OwnSections are where somebody stands by position, what faded, and what to practise until the next class. */
export function OwnSections({ page, detail }: { page: S["StudentPage"]; detail: boolean }) {
  const { alone, partner, tables } = page.practise;
  return (
    <>
      {page.positions.length > 0 && (
        <section className="mt-4" aria-label={tr("By position")}>
          <h2>{tr("By position")}</h2>
          <table className="grid-lines mt-1 w-full">
            <tbody>
              {page.positions.map((p, i) => {
                const cells = page.cells.filter((c) => c.at === i);
                return (
                  <tr key={p.id}>
                    <td>
                      {detail ? (
                        <Link className="link" to={`/ledger/${page.person.id}?position=${p.id || "movements"}`}>
                          {p.name}
                        </Link>
                      ) : (
                        p.name
                      )}
                    </td>
                    {(["attack", "defend"] as const).map((part) => {
                      const c = cells.find((x) => x.part === part);
                      return (
                        <td key={part} className="w-32 whitespace-nowrap text-[12.5px] text-soft" title={c ? wordsOf(c) : undefined}>
                          {c && (
                            <>
                              <Bar cell={c} /> {p.id && word(part)}{" "}
                              <span className="num">
                                {c.there}/{c.of}
                              </span>
                            </>
                          )}
                        </td>
                      );
                    })}
                  </tr>
                );
              })}
            </tbody>
          </table>
        </section>
      )}
      {alone.length + partner.length + tables.length > 0 && (
        <section className="mt-4" aria-label={tr("Practise")}>
          <h2>{tr("To practise")}</h2>
          {alone.length > 0 && (
            <p>
              <b>{tr("Alone:")}</b> <Names all={alone} to="/library/" />
            </p>
          )}
          {partner.length > 0 && (
            <p>
              <b>{tr("With a partner:")}</b> <Names all={partner} to="/library/" />
              <span className="text-soft">{tr(": slowly, and only what a coach has shown you; the tap ends it at once.")}</span>
            </p>
          )}
          {tables.length > 0 && (
            <p>
              <b>{tr("Quiz:")}</b> <Names all={tables.slice(0, 4)} to="/library/fork-tables/" end="/quiz" />
            </p>
          )}
        </section>
      )}
      {page.due.length > 0 && (
        <section className="mt-4" aria-label={tr("Due")}>
          <h2>{tr("Fading")}</h2>
          <p>
            {page.due.map((d, i) => (
              <span key={d.technique + d.side}>
                {i > 0 && ", "}
                {d.name}
                {d.side && ` ${word(d.side)}`} <span className="num text-soft">{percent(d.share)}</span>
              </span>
            ))}
          </p>
        </section>
      )}
    </>
  );
}

function Names({ all, to, end = "" }: { all: S["Named"][]; to: string; end?: string }) {
  return all.map((x, i) => (
    <span key={x.id}>
      {i > 0 && ", "}
      <Link className="link" to={`${to}${x.id}${end}`}>
        {x.name}
      </Link>
    </span>
  ));
}
