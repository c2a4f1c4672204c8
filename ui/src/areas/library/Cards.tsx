import { useQueries } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { tr, word } from "../../kit/tr";
import { Drawn } from "./Drawn";
import { useTechniques } from "./words";

/** Cards prints technique cards: both sides on one sheet. One technique from its page, or a choice of them. */
export default function Cards() {
  const { id } = useParams();
  const all = useTechniques();
  const [chosen, setChosen] = useState<string[]>(id ? [id] : []);
  const pages = useQueries({
    queries: chosen.flatMap((t) =>
      (["right", "left"] as const).map((side) => ({
        queryKey: ["technique", t, side],
        queryFn: () => unwrap(client.GET("/api/techniques/{id}", { params: { path: { id: t }, query: { side } } })),
      })),
    ),
  });
  return (
    <main id="main" className="mx-auto max-w-[1180px] px-5 py-3 print:max-w-none print:p-0">
      <div className="no-print flex items-center gap-3 border-b-[1.5px] border-ink pb-2">
        <h1 className="flex-1">{tr("Technique cards")}</h1>
        <select
          aria-label={tr("Add a card")}
          className="h-[31px] rounded-sm border border-rule bg-white px-2"
          value=""
          onChange={(e) => e.target.value && !chosen.includes(e.target.value) && setChosen([...chosen, e.target.value])}
        >
          <option value="">{tr("Add a card")}</option>
          {all.map((t) => (
            <option key={t.id} value={t.id}>
              {t.name}
            </option>
          ))}
        </select>
        <Button look="main" disabled={chosen.length === 0} onClick={() => window.print()}>
          {tr("Print {{n}}", { n: chosen.length === 1 ? tr("this card") : tr("{{chosen}} cards", { chosen: chosen.length }) })}
        </Button>
        <Link className="link" to={id ? `/library/${id}` : "/library"}>
          {tr("Back to the library")}
        </Link>
      </div>
      {chosen.length === 0 && <p className="py-6 text-soft">{tr("Choose techniques: each gets a sheet with both of its sides.")}</p>}
      {chosen.map((t, i) => {
        const [right, left] = [pages[2 * i]?.data, pages[2 * i + 1]?.data];
        if (!right) return null;
        return (
          <section key={t} className="break-after-page py-3" aria-label={tr("Card of {{name}}", { name: right.shown.name })}>
            <div className={`grid gap-6 ${right.side && left ? "grid-cols-2" : "grid-cols-1"}`}>
              <Side page={right} />
              {right.side && left && <Side page={left} />}
            </div>
          </section>
        );
      })}
    </main>
  );
}

function Side({ page }: { page: S["TechniquePage"] }) {
  const t = page.shown;
  const at = (id?: string) => (t.key_points ?? []).findIndex((k) => k.id === id) + 1;
  return (
    <article className="text-[13px] leading-[17px]" data-side={page.side}>
      <p className="cap">
        {word(page.line.kind)} · {page.line.from && `${page.line.from} → ${page.line.to}`} ·{" "}
        {t.context === "both" ? tr("gi and no-gi") : word(t.context)}
      </p>
      <h2 className="flex items-baseline gap-3 border-b-[1.5px] border-ink">
        {t.name}
        {page.side && <span className="cap">{tr("{{side}} side", { side: word(page.side) })}</span>}
      </h2>
      <p className="my-1">{t.summary}</p>
      {page.scenes.length > 0 && (
        <div className="my-1 flex flex-wrap gap-3">
          {page.scenes.map((scene, i) => (
            <figure key={t.drawings?.[i]?.id} className="max-w-[180px]">
              <Drawn scene={scene} shows={t.drawings?.[i]?.shows ?? ""} className="max-h-40" />
              <figcaption className="text-[11px] leading-[13px]">
                {at(t.drawings?.[i]?.key_point) || ""} {t.drawings?.[i]?.shows}
              </figcaption>
            </figure>
          ))}
        </div>
      )}
      <ol>
        {(t.key_points ?? []).map((k, i) => (
          <li key={k.id} className="grid grid-cols-[18px_minmax(0,1fr)] border-b border-hair py-0.5">
            <span className="head num">{i + 1}</span>
            <span>
              <b>{k.cue}</b> {k.gate && <b>{tr("[gate]")}</b>} {k.checkpoint && <b>{tr("[checkpoint]")}</b>} {k.detail}
              {k.measure && ` ${k.measure.of}: ${k.measure.value}.`}
              {k.moment && <i> {k.moment}</i>}
              {k.faults?.map((f) => (
                <span key={f.id} className="block pl-2 text-soft">
                  ✕ {f.what} {f.danger && <b>{tr("Someone can be hurt.")} </b>}→ {f.correction}
                </span>
              ))}
            </span>
          </li>
        ))}
      </ol>
      {!!t.forks?.length && (
        <>
          <h3>{tr("If they do not yield")}</h3>
          {t.forks.map((f) => (
            <p key={f.id}>
              <span className="num">{at(f.key_point) || ""}</span> {f.reaction} →{" "}
              <b>{f.answer ? page.names[f.answer] : tr("no answer yet")}.</b> {f.then}
              {f.back_to && ` ${tr("Back to {{backto}}.", { backto: at(f.back_to) })}`}
            </p>
          ))}
        </>
      )}
      {!!t.layers?.length && (
        <>
          <h3>{tr("Three lessons")}</h3>
          {t.layers.map((l) => (
            <p key={l.defence}>
              <b>{l.defence}.</b> {l.lesson} <span className="text-soft">{l.partner}</span>
            </p>
          ))}
        </>
      )}
      {!!t.drills?.length && (
        <>
          <h3>{tr("Drills")}</h3>
          {t.drills.map((d) => (
            <p key={d.id}>
              <b>{d.name}.</b> <span className="text-soft">{word(d.form)}:</span> {d.how} {d.wins}
            </p>
          ))}
        </>
      )}
      {(t.caution || page.cautions.length > 0) && (
        <p className="mt-1 border-l-2 border-clay pl-2">
          <b>{tr("Caution.")}</b> {t.caution} {page.cautions.join(" ")} {page.defers}
        </p>
      )}
    </article>
  );
}
