import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { client, type S, unwrap } from "../../api/client";
import { Explain } from "../../kit/Explain";
import { Select } from "../../kit/Field";
import { Empty } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { decimal, percent } from "../../kit/words";

function kappa(a: S["CoachAgreement"] | S["PointAgreement"] | S["LedgerAgreement"]): string {
  if (!a.known) return a.pairs < 5 ? tr("too few") : tr("all rated alike");
  return tr("{{kappa}} ({{low}} to {{high}})", { kappa: decimal(a.kappa, 2), low: decimal(a.low, 2), high: decimal(a.high, 2) });
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
          <Select label={tr("Over")} value={weeks} onChange={(e) => setWeeks(Number(e.target.value))}>
            {[13, 26, 52, 104, 260].map((w) => (
              <option key={w} value={w}>
                {tr("{{w}} weeks", { w })}
              </option>
            ))}
          </Select>
        </div>
        <p className="pb-1 text-soft">
          {tr("Checks of the same student, technique and side by two coaches within {{days}} days.", { days: p.days })}{" "}
          <Explain label={tr("What kappa is")} number={tr("What kappa is")}>
            {p.formula}
          </Explain>
        </p>
      </div>
      {p.checks === 0 ? (
        <Empty title={tr("No two coaches checked the same")}>
          {tr(
            "Where two coaches check the same student on the same technique within {{days}} days, how far they agree stands here, and on which key points they do not.",
            { days: p.days },
          )}
        </Empty>
      ) : (
        <>
          <p className="mt-2 text-[17px]">
            <b className="num">{percent(p.all.same)}</b>{" "}
            {tr("of {{pairs}} ratings alike in {{checks}} pairs of checks; kappa", { pairs: p.all.pairs, checks: p.checks })}{" "}
            <b className="num">{kappa(p.all)}</b>.
          </p>
          <h2 className="mt-3">{tr("By two coaches")}</h2>
          <table className="grid-lines">
            <tbody className="num">
              {p.coaches.map((c) => (
                <tr key={c.a + c.b}>
                  <td>{tr("{{a}} and {{b}}", { a: c.a, b: c.b })}</td>
                  <td className="text-right">{tr("{{same}} alike", { same: percent(c.same) })}</td>
                  <td className="text-right text-soft">{tr("of {{pairs}}", { pairs: c.pairs })}</td>
                  <td className="text-right">{tr("kappa {{c}}", { c: kappa(c) })}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <h2 className="mt-3">{tr("Seen differently")}</h2>
          {apart.length === 0 && <p className="text-soft">{tr("No key point was.")}</p>}
          <table className="grid-lines w-full">
            <tbody>
              {apart.slice(0, 60).map((x) => (
                <tr key={x.technique + x.point}>
                  <td>
                    {x.cue} {x.gate && <b className="text-clay">{tr("gate")}</b>}
                    <Link className="link block text-[12.5px]" to={`/library/${x.technique}`}>
                      {x.name}
                    </Link>
                  </td>
                  <td className="num w-24 text-right">
                    {percent(x.same)} <span className="text-soft">{tr("of {{pairs}}", { pairs: x.pairs })}</span>
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
