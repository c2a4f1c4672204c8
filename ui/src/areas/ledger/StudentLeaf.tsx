import { Fragment, useState } from "react";
import { Link } from "react-router";
import type { S } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { Explain } from "../../kit/Explain";
import { Legend } from "../../kit/Legend";
import { Note } from "../../kit/SplitPane";
import { inLanguage, tr, word } from "../../kit/tr";
import { Waymark } from "../../kit/Waymark";
import { date, decimal, percent, shortDate } from "../../kit/words";
import { OutlookOf } from "./Outlook";
import { OwnSections } from "./OwnSections";
import { Path } from "./Path";
import { Facts } from "./PositionLeaf";

/** StudentLeaf is one student: what is missing for the next rank, the standing, the checks. */
export function StudentLeaf({ page, checks }: { page: S["StudentPage"]; checks?: boolean }) {
  const r = page.readiness;
  const [why, ask] = useState<{ technique: string; side: string } | null>(null);
  return (
    <>
      <p className="cap">
        <Belt belt={page.person.belt} rank={page.person.rank} />
        {tr("{{rank}} since {{since}} · {{classes}} classes · {{ladder}}", {
          rank: page.person.rank,
          since: shortDate(page.since),
          classes: page.classes,
          ladder: page.ladder,
        })}
      </p>
      <h1>{page.person.name}</h1>
      {page.person.held && (
        <Note tone="clay" title={tr("Held:")}>
          {tr("{{held}}. It ends on a clinician's clearance, recorded here.", { held: page.person.held })}
        </Note>
      )}
      {page.next ? <Readiness page={page} /> : <p className="text-soft">{tr("No curriculum for the next rank yet.")}</p>}
      {page.next && <Path page={page} />}
      {page.next && <OutlookOf student={page.person.id} />}
      {page.upcoming.length > 0 && (
        <section className="mt-4">
          <h2>{tr("Coming up that helps")}</h2>
          {page.upcoming.map((t) => (
            <p key={t.session}>
              <b className="num">
                {date(t.session.slice(-10))} {t.start}
              </b>{" "}
              {t.summary}
            </p>
          ))}
        </section>
      )}
      {page.told.length > 0 && (
        <section className="mt-4" aria-label={tr("Corrections")}>
          <h2>{tr("Told on the mat")}</h2>
          {page.told.map((t, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: notes only ever grow
            <p key={i}>
              <b className="num">{shortDate(t.on)}</b> {t.technique}: {t.summary} <span className="text-soft">({t.by})</span>
            </p>
          ))}
        </section>
      )}
      <OwnSections page={page} detail={!!checks} />
      <section className="mt-4">
        <h2 className="flex items-baseline gap-3">
          {tr("Standing")} <Legend />
        </h2>
        <table className="grid-lines mt-1">
          <thead>
            <tr>
              <th>{tr("Technique")}</th>
              <th>{tr("Required")}</th>
              <th title={word("right")}>{word("right").slice(0, 1).toUpperCase()}</th>
              <th title={word("left")}>{word("left").slice(0, 1).toUpperCase()}</th>
              <th className="text-right">{tr("Seen")}</th>
              {checks && <td />}
            </tr>
          </thead>
          <tbody>
            {page.standing.map((s) => (
              <Fragment key={s.id}>
                <tr>
                  <td>{s.name}</td>
                  <td className="text-soft">{word(s.needs)}</td>
                  {[0, 1].map((i) => {
                    const m = s.marks[i];
                    return (
                      <td key={i}>
                        {m && (
                          <button
                            type="button"
                            className="min-h-[24px] min-w-[24px]"
                            onClick={() => ask(why?.technique === s.id && why.side === m.side ? null : { technique: s.id, side: m.side })}
                          >
                            <span className="sr-only">{tr("Why:")} </span>
                            <Waymark rung={m.rung} due={m.due} held={m.held} label={`${s.name}${m.side ? `, ${word(m.side)}` : ""}`} />
                          </button>
                        )}
                      </td>
                    );
                  })}
                  <td className="num text-right">{s.exposures ? decimal(s.exposures) : ""}</td>
                  {checks && (
                    <td className="text-right">
                      <Link
                        className="link text-[12.5px]"
                        to={`/check?student=${page.person.id}&technique=${s.id}`}
                        aria-label={tr("Check {{name}}", { name: s.name })}
                      >
                        {tr("Check")}
                      </Link>
                    </td>
                  )}
                </tr>
                {why?.technique === s.id && (
                  <tr>
                    <td colSpan={checks ? 6 : 5}>
                      <Facts student={page.person.id} technique={why.technique} side={why.side} />
                    </td>
                  </tr>
                )}
              </Fragment>
            ))}
          </tbody>
        </table>
        <p className="text-[12.5px] text-soft">{tr("A waymark says why it stands as it does, and how it fades.")}</p>
      </section>
      <div className="mt-4 grid gap-4">
        <Chances page={page} />
        <Checks page={page} correct={checks} />
      </div>
      <p className="mt-3 flex gap-4 text-[12.5px]">
        <a className="link" href={inLanguage(`/api/students/${page.person.id}/report.pdf`)} download>
          {tr("Report (PDF)")}
        </a>
        <a className="link" href={inLanguage(`/api/students/${page.person.id}/report.html`)} download>
          {tr("as HTML")}
        </a>
      </p>
      {r.ready && checks && <Note>{tr("Everything asked for is there. The decision is the head instructor's.")}</Note>}
    </>
  );
}

function Readiness({ page }: { page: S["StudentPage"] }) {
  const r = page.readiness;
  return (
    <section className="mt-2">
      <h2>
        {tr("Toward {{next}}:", { next: page.next })}{" "}
        <span className="num" data-readiness>
          {tr("{{met}} of {{of}}", { met: r.met, of: r.of })}
        </span>
      </h2>
      <svg viewBox="0 0 100 5" preserveAspectRatio="none" className="mt-1 h-2 w-full" aria-hidden="true">
        <path d="M0 2.5H100" stroke="var(--color-rule)" strokeWidth={0.7} />
        <rect width={r.share * 100} height={5} fill="var(--color-ink)" />
      </svg>
      <p className="mt-1 text-soft">
        <Explain label={tr("What the share is made of")} number={percent(r.share)}>
          {tr("Weights of the requirements reached on every side asked for, and not due for a refresh, divided by all weights.")}
        </Explain>{" "}
        {tr("by weight.")} {r.waits.length > 0 && tr("Also waits for {{waits}}.", { waits: r.waits.join("; ") })}
      </p>
      {r.missing.length > 0 && (
        <details className="mt-1" open={r.missing.length < 12}>
          <summary className="link cursor-pointer">{tr("What is missing ({{missing}})", { missing: r.missing.length })}</summary>
          <table className="grid-lines">
            <tbody>
              {r.missing.map((g) => (
                <tr key={g.technique + g.side} className="align-top">
                  <td>
                    {g.name}
                    {g.side && <span className="text-soft">, {word(g.side)}</span>}
                  </td>
                  <td className="text-soft">
                    {g.due ? tr("due for a refresh") : `${word(g.has)} → ${word(g.needs)}`}
                    {g.in_the_way && <span className="text-clay"> · {g.in_the_way.join("; ")}</span>}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </details>
      )}
    </section>
  );
}

function Chances({ page }: { page: S["StudentPage"] }) {
  return (
    <section>
      <h2>{tr("Likely to come")}</h2>
      <p>
        {page.chances.map((c) => (
          <span key={c.class} className="mr-4 inline-block">
            {c.name}{" "}
            <Explain label={tr("Chance for {{name}}", { name: c.name })} number={percent(c.chance)}>
              <p>
                {tr(
                  "Came to {{came}} of {{held}} classes held while enrolled. A visit counts half as much for every four weeks it is old; before anything was seen, {{prior}} is assumed, from their own overall rate shrunk to the academy's.",
                  { came: c.came, held: c.held, prior: percent(c.prior) },
                )}
              </p>
            </Explain>
          </span>
        ))}
      </p>
    </section>
  );
}

function Checks({ page, correct }: { page: S["StudentPage"]; correct?: boolean }) {
  if (page.checks.length === 0) return null;
  return (
    <section>
      <h2>{tr("Checks")}</h2>
      <table className="grid-lines mt-1">
        <tbody>
          {page.checks.slice(0, 12).map((c) => (
            <tr key={c.id} className="align-top">
              <td className="num whitespace-nowrap">{shortDate(c.on)}</td>
              <td>
                {c.name}
                {c.side && `, ${word(c.side)}`}
              </td>
              <td className={c.met ? "text-moss" : "text-clay"}>
                {c.met ? word(c.rung) : tr("not yet")}
                {c.overruled && <span className="text-soft"> {tr("· overruled: {{overruled}}", { overruled: c.overruled })}</span>}
              </td>
              <td className="text-soft">{c.by}</td>
              {correct && (
                <td className="text-right">
                  {c.may_correct && (
                    <Link
                      className="link text-[12.5px]"
                      to={`/check?student=${page.person.id}&correct=${c.id}`}
                      aria-label={tr("Correct: {{name}}{{side}}, {{on}}", {
                        name: c.name,
                        side: c.side ? `, ${word(c.side)}` : "",
                        on: shortDate(c.on),
                      })}
                    >
                      {tr("Correct")}
                    </Link>
                  )}
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
