import { useState } from "react";
import { Link } from "react-router";
import { useMay } from "../../api/actions";
import type { S } from "../../api/client";
import { tr, word } from "../../kit/tr";
import { Figure } from "./Drawn";
import { KeyPointForm } from "./KeyPointForm";
import { Media } from "./MediaRows";
import { placeWords } from "./words";

export function KeyPoints({ page }: { page: S["TechniquePage"] }) {
  const may = useMay();
  const [editing, edit] = useState("");
  const written = page.written.key_points ?? [];
  return (
    <section className="mt-3">
      <h2 className="border-b-[1.5px] border-ink pb-0.5">{tr("Key points")}</h2>
      <ol>
        {(page.shown.key_points ?? []).map((k, i) => (
          <li key={k.id} className="grid grid-cols-[28px_minmax(0,1fr)] border-b border-hair py-1.5">
            <span className="head num text-lg leading-6 text-soft">{i + 1}</span>
            {editing === k.id && written[i] ? (
              <KeyPointForm technique={page.line.id} point={written[i]} version={page.version} onDone={() => edit("")} />
            ) : (
              <div className="min-w-0">
                <div className="flex flex-wrap items-baseline gap-x-2">
                  <b className="text-[15px]">{k.cue}</b>
                  {k.gate && <Badge className="border-clay text-clay">{tr("gate")}</Badge>}
                  {k.checkpoint && <Badge className="border-moss text-moss">{tr("checkpoint")}</Badge>}
                  {k.measure && (
                    <span className="cap">
                      {word(k.measure.of)}: {k.measure.value}
                    </span>
                  )}
                  <span className="flex-1" />
                  {may("save-key-point") && (
                    <button
                      type="button"
                      className="link no-print text-[12.5px]"
                      onClick={() => edit(k.id)}
                      aria-label={tr("Change key point {{i}}, {{cue}}", { i: i + 1, cue: k.cue })}
                    >
                      {tr("Change")}
                    </button>
                  )}
                </div>
                {k.detail && <p>{k.detail}</p>}
                <p className="text-[13px] text-soft">
                  {[
                    k.limb && tr("Limb: {{limb}}.", { limb: k.limb }),
                    k.moment && tr("Moment: {{moment}}", { moment: k.moment }),
                    k.closes && tr("Closes: {{closes}}", { closes: k.closes }),
                  ]
                    .filter(Boolean)
                    .join(" ")}
                </p>
                <div className="flex flex-wrap gap-3">
                  {(page.shown.media ?? [])
                    .filter((m) => m.key_point === k.id)
                    .map((m) => (
                      <figure key={m.id} className="my-1">
                        <Media of={m} />
                        <figcaption className="max-w-[60ch] text-[12.5px] leading-4 text-soft">
                          {m.shows}
                          {page.written.taught &&
                            page.side !== page.written.taught &&
                            ` ${tr("The picture itself shows the {{taught}} side.", { taught: word(page.written.taught) })}`}
                        </figcaption>
                      </figure>
                    ))}
                </div>
                <DrawingsAt page={page} point={k.id} />
                <Faults faults={k.faults ?? []} names={page.names} />
              </div>
            )}
          </li>
        ))}
      </ol>
    </section>
  );
}

/** DrawingsAt are the drawings of one key point, on the side that is shown; without a point, those bound to none. */
export function DrawingsAt({ page, point = "" }: { page: S["TechniquePage"]; point?: string }) {
  const drawn = (page.shown.drawings ?? []).flatMap((d, i) => {
    const scene = page.scenes[i];
    return scene && (d.key_point ?? "") === point ? [{ d, scene }] : [];
  });
  if (drawn.length === 0) return null;
  return (
    <div className="flex flex-wrap gap-3">
      {drawn.map(({ d, scene }) => (
        <Figure key={d.id} scene={scene} shows={d.shows} />
      ))}
    </div>
  );
}

function Badge({ className, children }: { className: string; children: string }) {
  return <span className={`head rounded-sm border px-1 text-[11.5px] leading-4 font-semibold ${className}`}>{children}</span>;
}

function Faults({ faults, names }: { faults: S["LibraryFault"][]; names: Record<string, string> }) {
  return (
    <ul className="mt-1">
      {faults.map((f) => (
        <li key={f.id} className="mb-1 border-l border-rule pl-2 text-[13.5px] leading-[18px]">
          <span className="font-semibold">{f.what}</span> {f.danger && <b className="text-clay">{tr("Someone can be hurt.")} </b>}
          {f.consequence}
          {f.leads_to && <span className="text-soft"> → {names[f.leads_to.position]}</span>}{" "}
          <span className="text-moss">{tr("Fix: {{correction}}", { correction: f.correction })}</span>
        </li>
      ))}
    </ul>
  );
}

export function Forks({ technique, names, on }: { technique: S["LibraryTechnique"]; names: Record<string, string>; on: string }) {
  const forks = technique.forks ?? [];
  if (forks.length === 0) return null;
  const at = (id?: string) => (technique.key_points ?? []).findIndex((k) => k.id === id) + 1;
  return (
    <section className="mt-4">
      <h2>{tr("Forks")}</h2>
      <table className="grid-lines mt-1">
        <thead>
          <tr>
            <th className="w-8">{tr("At")}</th>
            <th>{tr("The partner")}</th>
            <th>{tr("Your answer")}</th>
          </tr>
        </thead>
        <tbody>
          {forks.map((f) => (
            <tr key={f.id} className="align-top">
              <td className="num">{at(f.key_point) || ""}</td>
              <td>{f.reaction}</td>
              <td>
                {f.answer ? (
                  <Link className="link" to={`/library/${f.answer}${on}`}>
                    {names[f.answer]}
                  </Link>
                ) : (
                  <b className="text-clay">{tr("nobody has one yet")}</b>
                )}
                <span className="text-soft">
                  {" "}
                  {f.then}
                  {f.leaves && ` ${tr("From {{leaves}}.", { leaves: placeWords(f.leaves, names) })}`}
                  {f.back_to && ` ${tr("Back to key point {{backto}}.", { backto: at(f.back_to) })}`}
                </span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
