import { useState } from "react";
import { Link } from "react-router";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Select } from "../../kit/Field";
import { Note } from "../../kit/SplitPane";
import { inLanguage, tr, word } from "../../kit/tr";
import { date } from "../../kit/words";
import { Cautions } from "../library/TechniqueLeaf";
import { Segments } from "./Segments";
import { Reactions, SeriesAndCare } from "./SeriesAndCare";

/** Sheet is the class on one page: its segments in minutes and repetitions, the gates, the frequent faults, the cautions. */
export function Sheet({ page }: { page: S["SessionPage"] }) {
  const { summary } = page;
  return (
    <article>
      <p className="cap">
        {tr("{{on}} · {{start}} · {{summary}} minutes · {{mat}} · {{lead}}", {
          on: date(page.on),
          start: summary.start,
          summary: summary.length,
          mat: page.mat,
          lead: summary.lead ? tr("led by {{lead}}", { lead: summary.lead }) : tr("no coach yet"),
        })}
      </p>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <h1>{summary.name}</h1>
        <span className="flex-1" />
        {page.may_run && page.items.length > 0 && (
          <span className="no-print flex gap-3">
            <a className="link" href={inLanguage(`/api/classes/${summary.session}/brief.pdf`)} download>
              {tr("Brief for another coach")}
            </a>
            <a className="link" href={inLanguage(`/api/classes/${summary.session}/brief.html`)} download>
              {tr("as HTML")}
            </a>
          </span>
        )}
        {page.may_run && (
          <Link className="link no-print" to={`/run/${summary.session}`}>
            {tr("On a phone")}
          </Link>
        )}
        {page.may_run && page.items.length > 0 && (
          <Link
            to={`/clock/${summary.session}`}
            className="no-print inline-block h-[31px] rounded-sm border-[1.5px] border-lake bg-lake px-3 leading-[28px] font-semibold text-white no-underline"
          >
            {tr("Open the clock")}
          </Link>
        )}
      </div>
      <p className="text-[15px]">
        {page.items.map((i) => `${i.kind === "review" ? tr("Review") : tr("Teach")}: ${i.name}`).join(" · ") ||
          summary.summary ||
          tr("Nothing is chosen for this class yet.")}
        {page.from === "hand" && <span className="text-soft"> {tr("· chosen by hand")}</span>}
      </p>
      {page.last_note && (
        <Note tone="lake" title={tr("Last note:")}>
          {page.last_note} <span className="text-soft">({page.last_note_by})</span>
        </Note>
      )}
      {page.makeups.map((m) => (
        <Note key={m.station} title={tr("{{name}}, caught up at a station:", { name: m.name })}>
          <span data-makeup>
            {m.people.map((p) => (p.here ? p.name : tr("{{name}} (not here)", { name: p.name }))).join(", ")}
            {tr("; {{minutes}} minutes", { minutes: m.minutes })}
            {m.coach && tr(", with {{coach}}", { coach: m.coach })}.
          </span>
        </Note>
      ))}
      {page.may_run && <ChooseUnit page={page} />}
      {page.items.length > 0 && <Segments page={page} />}
      <SeriesAndCare page={page} />
      <Reactions page={page} />
      <Cautions usual={page.cautions} defers={page.defers} />
      {page.techniques.map((t) => (
        <Technique key={t.id} t={t} />
      ))}
    </article>
  );
}

function Technique({ t }: { t: S["TaughtTechnique"] }) {
  return (
    <section className="mt-4">
      <h2 className="border-b-[1.5px] border-ink">
        <Link to={`/library/${t.id}`} className="no-underline hover:underline">
          {t.name}
        </Link>{" "}
        <span className="cap">
          {word(t.kind)}
          {t.taught && tr(", taught on the {{taught}}", { taught: word(t.taught) })}
        </span>
      </h2>
      <dl className="mt-1 grid grid-cols-[64px_minmax(0,1fr)] gap-x-3 gap-y-1">
        <dt className="cap pt-0.5 text-clay">{tr("Gates")}</dt>
        <dd>{t.gates.join(" · ")}</dd>
        <dt className="cap pt-0.5">{tr("Faults")}</dt>
        <dd>
          {t.faults.slice(0, 3).map((f) => (
            <p key={f.id}>
              <b>{f.what}</b> {f.correction}{" "}
              {f.tries > 0 && <span className="num text-soft">{tr("seen {{seen}} of {{tries}}", { seen: f.seen, tries: f.tries })}</span>}
              {f.danger && <b className="text-clay"> {tr("Someone can be hurt.")}</b>}
            </p>
          ))}
        </dd>
        <dt className="cap pt-0.5">{tr("Forks")}</dt>
        <dd>{t.forks.join(" · ")}</dd>
        {t.asks.length > 0 && (
          <>
            <dt className="cap pt-0.5">{tr("Explain")}</dt>
            <dd>{t.asks.join(" ")}</dd>
          </>
        )}
      </dl>
    </section>
  );
}

function ChooseUnit({ page }: { page: S["SessionPage"] }) {
  const [open, setOpen] = useState(false);
  const [unit, setUnit] = useState(page.units[0]?.unit ?? "");
  const choose = useAction(
    (items: S["SeasonItem"][]) =>
      unwrap(client.PUT("/api/classes/{id}/choice", { params: { path: { id: page.summary.session } }, body: { items } })),
    (_, items) => (items.length ? tr("Chose what this class teaches.") : tr("Went back to the plan.")),
    () => setOpen(false),
  );
  if (!open) {
    return (
      <p className="no-print mt-1 flex gap-4">
        <button type="button" className="link text-[13px]" onClick={() => setOpen(true)}>
          {page.items.length ? tr("Teach something else") : tr("Choose what to teach")}
        </button>
        {page.from === "hand" && (
          <button type="button" className="link text-[13px]" onClick={() => choose.mutate([])}>
            {tr("Go back to the plan")}
          </button>
        )}
      </p>
    );
  }
  return (
    <form
      className="mt-2 grid grid-cols-[minmax(0,1fr)_auto_auto] items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        choose.mutate([{ unit, kind: "teach" }]);
      }}
    >
      <Select label={tr("Unit")} value={unit} onChange={(e) => setUnit(e.target.value)} error={choose.error?.message}>
        {page.units.map((u) => (
          <option key={u.unit} value={u.unit}>
            {u.name} ({u.area})
          </option>
        ))}
      </Select>
      <Button type="submit" look="main">
        {tr("Teach it")}
      </Button>
      <Button onClick={() => setOpen(false)}>{tr("Cancel")}</Button>
    </form>
  );
}
