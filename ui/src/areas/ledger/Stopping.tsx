import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { client, unwrap } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { Empty } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { day, percent } from "../../kit/words";

/** Stopping lists who comes less than they did, for the head instructor alone. */
export function Stopping() {
  const page = useQuery({ queryKey: ["stopping"], queryFn: () => unwrap(client.GET("/api/ledger/stopping")) });
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  const p = page.data;
  if (!p) return null;
  return (
    <>
      <p className="text-soft">
        {tr("{{formula}} {{looked}} students have a past long enough.", { formula: p.formula, looked: p.looked })}
      </p>
      {p.rows.length === 0 ? (
        <Empty title={tr("Nobody comes less than they did")}>{tr("As far as the numbers can say.")}</Empty>
      ) : (
        <table className="grid-lines mt-2 w-full">
          <thead>
            <tr>
              <th>{tr("Student")}</th>
              <th className="!text-right">{tr("Last 4 weeks")}</th>
              <th className="!text-right">{tr("12 before")}</th>
              <th className="!text-right">{tr("By chance")}</th>
              <th>{tr("Last seen")}</th>
            </tr>
          </thead>
          <tbody>
            {p.rows.map((r) => (
              <tr key={r.id}>
                <td>
                  <Link data-row className="no-underline hover:underline" to={`/people/${r.id}`}>
                    <Belt belt={r.belt} rank={r.rank} />
                    {r.name}
                  </Link>
                  {r.held && <span className="text-clay"> {tr("· held: {{held}}", { held: r.held })}</span>}
                </td>
                <td className="num text-right">{r.recent}</td>
                <td className="num text-right">{r.before}</td>
                <td className="num text-right">{r.p < 0.005 ? tr("under 1%") : percent(r.p)}</td>
                <td className="num">{r.last_seen ? day(r.last_seen) : tr("never")}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <p className="mt-2 text-soft">
        {tr("Health, work, a birth, a bad evening: ask, and listen. This list is shown to head instructors alone.")}
      </p>
    </>
  );
}
