import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Explain } from "../../kit/Explain";
import { Select } from "../../kit/Field";
import { FirstStep } from "../../kit/FirstStep";
import { Empty, Note, SplitPane } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { percent, shortDate } from "../../kit/words";
import { LedgerViews } from "./LedgerViews";

type Filter = { weeks: number; track: string; coach: string; student: string };
type Point = S["StickingPoint"];

/** Sticking is what went wrong most over some weeks: the surest first on the left, what answers it and into which class it could go on the right. */
export default function Sticking() {
  const [filter, setFilter] = useState<Filter>({ weeks: 8, track: "", coach: "", student: "" });
  const [chosen, choose] = useState("");
  const page = useQuery({
    queryKey: ["sticking", filter],
    queryFn: () =>
      unwrap(
        client.GET("/api/sticking", {
          params: {
            query: {
              weeks: filter.weeks,
              track: filter.track || undefined,
              coach: filter.coach || undefined,
              student: filter.student || undefined,
            },
          },
        }),
      ),
    placeholderData: (had) => had,
  });
  const p = page.data;
  const points = p?.points ?? [];
  const open = points.find((x) => `${x.technique} ${x.fault}` === chosen) ?? points[0];
  const pick = (label: string, key: "track" | "coach" | "student", all: S["Named"][], every: string) => (
    <Select label={label} value={filter[key]} onChange={(e) => setFilter({ ...filter, [key]: e.target.value })}>
      <option value="">{every}</option>
      {all.map((x) => (
        <option key={x.id} value={x.id}>
          {x.name}
        </option>
      ))}
    </Select>
  );
  return (
    <SplitPane
      left={
        <>
          <LedgerViews view="sticking" />
          {page.error && <p className="text-clay">{page.error.message}</p>}
          {p && (
            <>
              <div className="mt-1 grid grid-cols-4 gap-3">
                <Select label={tr("Over")} value={filter.weeks} onChange={(e) => setFilter({ ...filter, weeks: Number(e.target.value) })}>
                  {[2, 4, 8, 13, 26, 52].map((n) => (
                    <option key={n} value={n}>
                      {tr("{{n}} weeks", { n })}
                    </option>
                  ))}
                </Select>
                {pick(tr("Track"), "track", p.tracks, tr("all tracks"))}
                {pick(tr("Coach"), "coach", p.coaches, tr("all coaches"))}
                {pick(tr("Person"), "student", p.people, tr("everybody"))}
              </div>
              <p className="mt-1 text-soft">
                {tr("{{classes}} reported classes from {{from}} to {{to}}. Ordered by the", {
                  classes: p.classes,
                  from: shortDate(p.from),
                  to: shortDate(p.to),
                })}{" "}
                <Explain label={tr("What is sure")} number={tr("share that is sure")}>
                  {tr(
                    "The lower end of Wilson's 95 % interval of faults seen over tries watched: eight of twelve stands above one of one.",
                  )}
                </Explain>
                .
              </p>
              {points.length === 0 ? (
                <FirstStep title={tr("Nothing was counted")} ways={[["/mat", tr("To the classes of this week")]]}>
                  {tr("Faults are counted on the mat, under Tally on a phone, or after class.")}
                </FirstStep>
              ) : (
                <table className="grid-lines mt-2">
                  <thead>
                    <tr>
                      <th className="w-14 !text-right">{tr("Sure")}</th>
                      <th className="w-20 !text-right">{tr("Seen")}</th>
                      <th>{tr("Fault")}</th>
                      <th>{tr("Technique")}</th>
                    </tr>
                  </thead>
                  <tbody>
                    {points.map((x) => {
                      const id = `${x.technique} ${x.fault}`;
                      return (
                        <tr key={id} data-on={x === open}>
                          <td className="num text-right font-bold">{percent(x.low)}</td>
                          <td className="num text-right whitespace-nowrap">
                            {tr("{{seen}} of {{tries}}", { seen: x.seen, tries: x.tries })}
                          </td>
                          <td>
                            <button
                              type="button"
                              data-row
                              className={`link text-left ${x.danger ? "!text-clay" : ""}`}
                              onClick={() => choose(id)}
                            >
                              {x.what}
                            </button>
                            {x.told > 0 && <span className="text-soft"> {tr("· told {{told}} times", { told: x.told })}</span>}
                          </td>
                          <td className="text-soft">{x.name}</td>
                        </tr>
                      );
                    })}
                  </tbody>
                </table>
              )}
            </>
          )}
        </>
      }
      right={
        open && p ? (
          <Leaf key={`${open.technique} ${open.fault}`} point={open} season={p.season} />
        ) : (
          <Empty title={tr("What went wrong")}>{tr("Its consequence, what answers it, and the class it could go into stand here.")}</Empty>
        )
      }
    />
  );
}

function Leaf({ point: x, season }: { point: Point; season: string }) {
  return (
    <article>
      <h1>{x.what}</h1>
      <p className="text-soft">
        <Link className="link" to={`/library/${x.technique}`}>
          {x.name}
        </Link>
        {tr(", at “{{point}}”", { point: x.point })}
      </p>
      <p className="num mt-2">
        {tr("Seen {{seen}} of {{tries}} times: between {{low}} and {{high}}.", {
          seen: x.seen,
          tries: x.tries,
          low: percent(x.low),
          high: percent(x.high),
        })}
      </p>
      <p className="mt-2">
        <b>{tr("Then:")}</b> {x.consequence}
      </p>
      <p>
        <b>{tr("Instead:")}</b> {x.correction}
      </p>
      {x.answers.length > 0 && (
        <>
          <h2 className="mt-3">{tr("What answers it")}</h2>
          <ul>
            {x.answers.map((a) => (
              <li key={a.technique + a.reaction}>
                {a.reaction} →{" "}
                <Link className="link" to={`/library/${a.technique}`}>
                  {a.name}
                </Link>
                {a.both && <span className="text-moss"> {tr("· the two feed each other: put them in together")}</span>}
              </li>
            ))}
          </ul>
        </>
      )}
      <h2 className="mt-3">{tr("Into one of the next classes")}</h2>
      {!season && (
        <p className="text-soft">
          {tr("No season is planned for now.")}{" "}
          <Link className="link" to="/season">
            {tr("Plan one")}
          </Link>
        </p>
      )}
      {x.units.length === 0 && <p className="text-soft">{tr("No unit teaches it.")}</p>}
      {season && x.units.map((unit) => <Trial key={unit.unit} season={season} unit={unit} />)}
    </article>
  );
}

/** Trial is the one change that brings a unit back soonest for most: coverage before and after, what goes for it, and the action. */
function Trial({ season, unit }: { season: string; unit: S["UnitPlace"] }) {
  const may = useMay();
  const [asked, ask] = useState(false);
  const help = useQuery({
    queryKey: ["help", season, unit.unit],
    queryFn: () => unwrap(client.GET("/api/seasons/{id}/help", { params: { path: { id: season }, query: { unit: unit.unit } } })),
    enabled: asked,
  });
  const take = useAction(
    () => unwrap(client.POST("/api/seasons/{id}/help", { params: { path: { id: season }, query: { unit: unit.unit } } })),
    () => tr("{{name}} is in one of the next classes.", { name: unit.name }),
    () => ask(false),
  );
  const h = help.data;
  return (
    <section className="mt-2 border-b border-hair pb-2">
      <b>{unit.name}</b> <span className="text-soft">{unit.teaches}</span>
      {!asked && (
        <div>
          <Button look="quiet" onClick={() => ask(true)}>
            {tr("Try it in the plan")}
          </Button>
        </div>
      )}
      {help.isFetching && <p className="text-soft">{tr("Trying the classes to come…")}</p>}
      {help.error && <p className="text-clay">{help.error.message}</p>}
      {h && (
        <Note tone={h.found ? "lake" : "clay"}>
          {h.summary}
          {h.found && (
            <p className="num">
              {tr("Coverage of {{name}}: {{before}} →", { name: unit.name, before: percent(h.before) })} <b>{percent(h.after)}</b>
              {tr("; of the season: {{now}} →", { now: percent(h.now) })} <b>{percent(h.coverage)}</b>.
            </p>
          )}
          {h.found && may("take-help") && (
            <div className="mt-1">
              <Button look="main" disabled={take.isPending} onClick={() => take.mutate(undefined)}>
                {tr("Put it in")}
              </Button>
            </div>
          )}
        </Note>
      )}
      {take.error && <p className="text-clay">{take.error.message}</p>}
    </section>
  );
}
