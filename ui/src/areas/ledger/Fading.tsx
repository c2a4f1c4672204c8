import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { Button } from "../../kit/Button";
import { Explain } from "../../kit/Explain";
import { Empty } from "../../kit/SplitPane";
import { tr, word } from "../../kit/tr";
import { date, decimal, percent } from "../../kit/words";

/** Fading is what is due for a refresh, which classes would do it, and how well the curve foretells the academy's own checks. */
export function Fading() {
  const page = useQuery({ queryKey: ["fading"], queryFn: () => unwrap(client.GET("/api/ledger/fading")) });
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  const p = page.data;
  if (!p) return null;
  return (
    <>
      <Fit page={p} />
      {p.due === 0 ? (
        <Empty title={tr("Nothing is due")}>
          {tr("What was passed and is thought to have faded below the academy's threshold stands here.")}
        </Empty>
      ) : (
        <>
          <section className="mt-3">
            <h2>{tr("Classes that would refresh it")}</h2>
            {p.classes.length === 0 && (
              <p className="text-soft">
                {tr("No class of the next two weeks touches what is due. Put a review into one: Season, or the class itself.")}
              </p>
            )}
            {p.classes.map((c) => (
              <p key={c.session}>
                <Link className="link" to={`/mat/${c.session}`}>
                  {date(c.on)}, {c.name}
                </Link>
                :{" "}
                {c.lines.map((l, i) => (
                  <span key={l.technique}>
                    {i > 0 && "; "}
                    {l.name}{" "}
                    <span className="num text-soft" title={l.people.map((x) => x.name).join(", ")}>
                      {tr("for {{people}}", { people: l.people.length })}
                    </span>
                  </span>
                ))}
              </p>
            ))}
          </section>
          <section className="mt-3">
            <h2>
              {tr("Due, by student")} <span className="num text-[13px] font-normal text-soft">{tr("{{due}} in all", { due: p.due })}</span>
            </h2>
            <table className="grid-lines w-full">
              <tbody>
                {p.rows.map((r) => (
                  <tr key={r.id} className="align-top">
                    <td className="w-44">
                      <Link data-row className="no-underline hover:underline" to={`/ledger/${r.id}?view=fading`}>
                        <Belt belt={r.belt} rank={r.rank} />
                        {r.name}
                      </Link>
                    </td>
                    <td className="num w-10 text-right">{r.due}</td>
                    <td className="text-soft">
                      {r.lowest.map((l) => `${l.name}${l.side ? ` ${word(l.side)}` : ""} ${percent(l.share)}`).join(", ")}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
        </>
      )}
    </>
  );
}

function curveWords(c: S["LedgerCurve"]): string {
  return tr("{{first}} days, × {{growth}} with a success, × {{shrink}} with a failure", {
    first: decimal(c.first, 1),
    growth: decimal(c.growth, 2),
    shrink: decimal(c.shrink, 2),
  });
}

function Fit({ page: p }: { page: S["FadingPage"] }) {
  const may = useMay();
  const fit = p.fit;
  const take = useAction(
    (_: undefined) => unwrap(client.POST("/api/ledger/fading/fit")),
    () => tr("Applied the fitted curve."),
  );
  return (
    <section aria-label={tr("The curve")}>
      <h2>
        {tr("How fast things fade here")}{" "}
        <Explain label={tr("How it is computed")} number={tr("How")}>
          {p.formula}
        </Explain>
      </h2>
      {!fit.enough_data ? (
        <p className="text-soft">
          {tr(
            "In use: {{inuse}}. There are {{checks}} checks after a success; with 60 the curve can be fitted to the academy's own record.",
            { inuse: curveWords(p.in_use), checks: fit.checks },
          )}
        </p>
      ) : (
        <>
          <table className="grid-lines mt-1">
            <thead>
              <tr>
                <td />
                <th>{tr("Half-life")}</th>
                <th className="!text-right">{tr("Log loss")}</th>
                <th className="!text-right">{tr("Brier")}</th>
              </tr>
            </thead>
            <tbody className="num">
              <tr>
                <td>{tr("In use")}</td>
                <td>{curveWords(fit.default)}</td>
                <td className="text-right">{decimal(fit.of_default.log_loss, 3)}</td>
                <td className="text-right">{decimal(fit.of_default.brier, 3)}</td>
              </tr>
              <tr>
                <td>{tr("Fitted")}</td>
                <td>{curveWords(fit.fitted)}</td>
                <td className="text-right">{decimal(fit.of_fitted.log_loss, 3)}</td>
                <td className="text-right">{decimal(fit.of_fitted.brier, 3)}</td>
              </tr>
            </tbody>
          </table>
          <p className="text-soft">
            {tr("Judged by the newest {{held}} of {{checks}} checks, which the fit has not seen; less is better. {{better}}", {
              held: fit.held,
              checks: fit.checks,
              better: fit.better ? tr("The fitted curve foretells them better.") : tr("The curve in use is as good: it stays."),
            })}
          </p>
          {fit.better && may("use-fit") && (
            <Button look="main" disabled={take.isPending} onClick={() => take.mutate(undefined)}>
              {tr("Use the fitted curve")}
            </Button>
          )}
          {take.error && <p className="text-clay">{take.error.message}</p>}
        </>
      )}
    </section>
  );
}
