import type { ReactNode } from "react";
import { Link } from "react-router";
import type { S } from "../../api/client";
import { Explain } from "../../kit/Explain";
import { tr } from "../../kit/tr";
import { placeWords } from "./words";

export function Report({ page, onChoose }: { page: S["MapPage"]; onChoose: (id: string) => void }) {
  const r = page.report;
  const tech = (id: string) => (
    <Link className="link" to={`/library/${id}`}>
      {page.names[id] ?? id}
    </Link>
  );
  const place = (p: S["LibraryPlace"]) => (
    <button type="button" className="link text-left" onClick={() => onChoose(p.position)}>
      {placeWords(p, page.places)}
    </button>
  );
  const ring = (ids: string[]) => ids.map((id, i) => [i > 0 && <span key={`${id}-arrow`}> ⇄ </span>, <span key={id}>{tech(id)}</span>]);
  return (
    <section aria-label={tr("Report of the map")}>
      <h2 className="border-b-[1.5px] border-ink pb-0.5">{tr("What the map says")}</h2>
      {r.opens.length > 0 && (
        <Part title={tr("What to teach next")} count={r.opens.length} open>
          {r.opens.slice(0, 10).map((o) => (
            <li key={o.technique}>
              {tech(o.technique)}{" "}
              <Explain label={tr("Why {{names}}", { names: page.names[o.technique] })} number={<b>{o.score}</b>}>
                {page.opens_score}
              </Explain>{" "}
              <span className="num text-soft">{tr("{{minutes}} min", { minutes: o.minutes })}</span>
              <span className="block text-[12.5px] leading-4 text-soft">
                {[
                  o.ends_dead.length &&
                    tr("ends the dead end at {{ends_dead}}", { ends_dead: o.ends_dead.map((p) => placeWords(p, page.places)).join(", ") }),
                  o.answers.length &&
                    tr("answers {{n}}", {
                      n: o.answers.length === 1 ? tr("a reaction") : tr("{{answers}} reactions", { answers: o.answers.length }),
                    }),
                  o.reaches.length && tr("reaches {{reaches}}", { reaches: o.reaches.map((p) => placeWords(p, page.places)).join(", ") }),
                  o.needs.length && tr("stands on {{needs}} first", { needs: o.needs.map((n) => page.names[n]).join(", ") }),
                ]
                  .filter(Boolean)
                  .join("; ")}
              </span>
            </li>
          ))}
        </Part>
      )}
      <Part title={tr("No way out for the defender")} count={r.dead_ends.length} tone="clay" open>
        {r.dead_ends.map((p) => (
          <li key={p.position + p.part}>{place(p)}</li>
        ))}
      </Part>
      <Part title={tr("Hangs on one technique")} count={r.hangs_on.length}>
        {r.hangs_on.map((h) => (
          <li key={h.place.position + h.place.part}>
            {place(h.place)} <span className="text-soft">{tr("on")}</span> {tech(h.technique)}
          </li>
        ))}
      </Part>
      <Part title={tr("Reactions nobody answers")} count={r.unanswered.length} tone="clay">
        {r.unanswered.map((u) => (
          <li key={u.technique + u.fork}>
            {tech(u.technique)}: {u.summary.replace(/[{}]/g, "")}
            {u.answer && (
              <span className="text-soft"> {tr("The library has {{names}}.", { names: page.names[u.answer] ?? u.answer })}</span>
            )}
          </li>
        ))}
      </Part>
      <Part title={tr("Dilemmas")} count={r.dilemmas.length}>
        {r.dilemmas.map((d) => (
          <li key={d.join()}>{ring(d)}</li>
        ))}
      </Part>
      <Part title={tr("Circuits")} count={r.circuits.length}>
        {r.circuits.slice(0, 60).map((d) => (
          <li key={d.join()}>{ring(d)}</li>
        ))}
      </Part>
      <Part title={tr("Funnels")} count={r.funnels.length}>
        {r.funnels.slice(0, 12).map((f) => (
          <li key={f.place.position + f.place.part}>
            {place(f.place)}{" "}
            <span className="num text-soft">
              {tr("from {{reach}} places in three steps, {{techniques}} techniques straight in", {
                reach: f.reach,
                techniques: f.techniques,
              })}
            </span>
          </li>
        ))}
      </Part>
    </section>
  );
}

function Part({
  title,
  count,
  tone,
  open,
  children,
}: {
  title: string;
  count: number;
  tone?: "clay";
  open?: boolean;
  children: ReactNode;
}) {
  return (
    <details open={open && count > 0} className="border-b border-hair py-1">
      <summary className="head cursor-pointer text-[15px] font-semibold">
        {title} <span className={`num ${count > 0 && tone === "clay" ? "text-clay" : "text-soft"}`}>{count}</span>
      </summary>
      <ul className="flex flex-col gap-1 py-1 pl-3">{count > 0 ? children : <li className="text-soft">{tr("None.")}</li>}</ul>
    </details>
  );
}
