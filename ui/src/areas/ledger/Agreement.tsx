import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { client, type S, unwrap } from "../../api/client";
import { Explain } from "../../kit/Explain";
import { Select } from "../../kit/Field";
import { Empty } from "../../kit/SplitPane";
import { percent } from "../../kit/words";

function kappa(a: S["CoachAgreement"] | S["PointAgreement"] | S["LedgerAgreement"]): string {
  if (!a.known) return a.pairs < 5 ? "too few" : "all rated alike";
  return `${a.kappa.toFixed(2)} (${a.low.toFixed(2)} to ${a.high.toFixed(2)})`;
}

/** Agreement says how far coaches agree who checked the same: that is how a house standard becomes one. */
export function Agreement() {
  const [weeks, setWeeks] = useState(52);
  const page = useQuery({
    queryKey: ["agreement", weeks],
    queryFn: () => unwrap(client.GET("/api/ledger/agreement", { params: { query: { weeks } } })),
  });
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  const p = page.data;
  if (!p) return null;
  const apart = p.points.filter((x) => x.different);
  return (
    <>
      <div className="flex items-end gap-4">
        <div className="w-36">
          <Select label="Over" value={weeks} onChange={(e) => setWeeks(Number(e.target.value))}>
            {[13, 26, 52, 104, 260].map((w) => (
              <option key={w} value={w}>
                {w} weeks
              </option>
            ))}
          </Select>
        </div>
        <p className="pb-1 text-soft">
          Checks of the same student, technique and side by two coaches within {p.days} days.{" "}
          <Explain label="What kappa is" number="What kappa is">
            {p.formula}
          </Explain>
        </p>
      </div>
      {p.checks === 0 ? (
        <Empty title="No two coaches checked the same">
          Where two coaches check the same student on the same technique within {p.days} days, how far they agree stands here, and on which
          key points they do not.
        </Empty>
      ) : (
        <>
          <p className="mt-2 text-[17px]">
            <b className="num">{percent(p.all.same)}</b> of {p.all.pairs} ratings alike in {p.checks} pairs of checks; kappa{" "}
            <b className="num">{kappa(p.all)}</b>.
          </p>
          <h2 className="mt-3">By two coaches</h2>
          <table className="grid-lines">
            <tbody className="num">
              {p.coaches.map((c) => (
                <tr key={c.a + c.b}>
                  <td>
                    {c.a} and {c.b}
                  </td>
                  <td className="text-right">{percent(c.same)} alike</td>
                  <td className="text-right text-soft">of {c.pairs}</td>
                  <td className="text-right">kappa {kappa(c)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <h2 className="mt-3">Seen differently</h2>
          {apart.length === 0 && <p className="text-soft">No key point was.</p>}
          <table className="grid-lines w-full">
            <tbody>
              {apart.slice(0, 60).map((x) => (
                <tr key={x.technique + x.point}>
                  <td>
                    {x.cue} {x.gate && <b className="text-clay">gate</b>}
                    <Link className="link block text-[12.5px]" to={`/library/${x.technique}`}>
                      {x.name}
                    </Link>
                  </td>
                  <td className="num w-24 text-right">
                    {percent(x.same)} <span className="text-soft">of {x.pairs}</span>
                  </td>
                  <td className="text-soft">{x.different}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </>
  );
}
