import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Choice } from "../../kit/Choice";
import { Note } from "../../kit/SplitPane";
import { History } from "./History";
import { KeyPointForm } from "./KeyPointForm";
import { SideBySide } from "./SideBySide";
import { Media, TechniqueEditor } from "./TechniqueEditor";

type Side = "left" | "right";

/** TechniqueLeaf shows one technique on one side, and changes it. */
export function TechniqueLeaf({ id }: { id: string }) {
  const [search, setSearch] = useSearchParams();
  const side = (search.get("side") as Side | null) ?? undefined;
  const setSide = (to: Side) => setSearch({ side: to }, { replace: true });
  const [open, show] = useState<"edit" | "history" | "duplicates" | "">("");
  const may = useMay();
  const go = useNavigate();
  const page = useQuery({
    queryKey: ["technique", id, side],
    queryFn: () => unwrap(client.GET("/api/techniques/{id}", { params: { path: { id }, query: side ? { side } : {} } })),
    placeholderData: keepPreviousData,
  });
  const remove = useAction(
    (_: undefined) => unwrap(client.DELETE("/api/records/{kind}/{id}", { params: { path: { kind: "technique", id } } })),
    () => `Took ${page.data?.shown.name ?? id} out of the library.`,
    () => go("/library"),
  );
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  if (!page.data) return null;
  if (open === "edit")
    return <TechniqueEditor technique={page.data.written} version={page.data.version} onDone={() => show("")} onLeave={() => show("")} />;
  const { shown: t, line, names } = page.data;
  // Turned to its other side, what follows is on the other side too.
  const on = page.data.side && page.data.side !== page.data.written.taught ? `?side=${page.data.side}` : "";
  return (
    <article>
      <p className="cap">
        {line.kind}
        {line.from && ` · ${line.from} → ${line.to}`} · {t.context === "both" ? "gi and no-gi" : t.context} · {t.seconds_per_rep} s a
        repetition
        {page.data.side && <span className="hidden print:inline"> · {page.data.side} side</span>}
      </p>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <h1>{t.name}</h1>
        {page.data.side && (
          <Choice
            label="Side"
            value={page.data.side as Side}
            onChange={setSide}
            options={[
              { value: "right", label: "Right side" },
              { value: "left", label: "Left side" },
            ]}
          />
        )}
        <span className="flex-1" />
        <span className="no-print flex gap-3 text-[13px]">
          {may("save-technique") && <Quiet onClick={() => show("edit")}>Change all of it</Quiet>}
          {may("record-history") && <Quiet onClick={() => show(open === "history" ? "" : "history")}>History</Quiet>}
          {may("merge-techniques") && <Quiet onClick={() => show(open === "duplicates" ? "" : "duplicates")}>Alike</Quiet>}
          <Link className="link" to={`/cards/${line.id}`}>
            Card
          </Link>
          {may("delete-record") && <Quiet onClick={() => remove.mutate(undefined)}>Delete</Quiet>}
        </span>
      </div>
      {t.aliases && <p className="text-soft">Also: {t.aliases.join(", ")}</p>}
      {remove.error && <p className="text-clay">{remove.error.message}</p>}
      {open === "history" && <History kind="technique" id={line.id} onClose={() => show("")} />}
      {open === "duplicates" && <Alike id={line.id} name={t.name} />}
      <p className="mt-1.5 max-w-prose text-[15px]">{t.summary}</p>
      <Cautions own={t.caution} usual={page.data.cautions} defers={page.data.defers} />
      {page.data.warnings.map((w) => (
        <Note key={w.field + w.what} tone="lake" title={w.field}>
          {w.what}
        </Note>
      ))}
      <KeyPoints page={page.data} />
      <Forks technique={t} names={names} on={on} />
      <Practice technique={t} />
      <Rest page={page.data} on={on} />
    </article>
  );
}

function Quiet({ onClick, children }: { onClick: () => void; children: string }) {
  return (
    <button type="button" className="link" onClick={onClick}>
      {children}
    </button>
  );
}

/** Alike shows likely duplicates side by side, and merges one into this record. */
function Alike({ id, name }: { id: string; name: string }) {
  const found = useQuery({
    queryKey: ["duplicates", id],
    queryFn: () => unwrap(client.GET("/api/techniques/{id}/duplicates", { params: { path: { id } } })),
  });
  const merge = useAction(
    ({ drop, sections }: { drop: string; sections: string[] }) =>
      unwrap(client.POST("/api/techniques/{id}/merges", { params: { path: { id } }, body: { drop, take: sections } })),
    () => `Merged into ${name}.`,
  );
  if (!found.data) return null;
  return (
    <section aria-label="Alike" className="my-3 border-y-[1.5px] border-ink bg-paper px-3 py-2">
      <h2>Likely the same</h2>
      {found.data.length === 0 && <p className="text-soft">No other record is much like this one, by name or by content.</p>}
      {merge.error && <p className="text-clay">{merge.error.message}</p>}
      {found.data.map((d) => (
        <SideBySide
          key={d.technique}
          pair={d}
          here={d.name}
          there={name}
          action={`Merge ${d.name} into ${name}`}
          // The other record goes, so what stands "here" in it is what can be taken over.
          flipped
          onMerge={(sections) => merge.mutate({ drop: d.technique, sections })}
        />
      ))}
    </section>
  );
}

/** Cautions are shown wherever what they are about is taught, drilled or checked. */
export function Cautions({ own, usual, defers }: { own?: string; usual: string[]; defers?: string }) {
  if (!own && usual.length === 0) return null;
  return (
    <Note tone="clay" title="Caution.">
      {own && <span>{own} </span>}
      <ul className="mt-0.5 list-disc pl-4">
        {usual.map((c) => (
          <li key={c}>{c}</li>
        ))}
      </ul>
      {defers && <p className="text-[12.5px] text-soft">{defers}</p>}
    </Note>
  );
}

function KeyPoints({ page }: { page: S["TechniquePage"] }) {
  const may = useMay();
  const [editing, edit] = useState("");
  const written = page.written.key_points ?? [];
  return (
    <section className="mt-3">
      <h2 className="border-b-[1.5px] border-ink pb-0.5">Key points</h2>
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
                  {k.gate && <Badge className="border-clay text-clay">gate</Badge>}
                  {k.checkpoint && <Badge className="border-moss text-moss">checkpoint</Badge>}
                  {k.measure && (
                    <span className="cap">
                      {k.measure.of}: {k.measure.value}
                    </span>
                  )}
                  <span className="flex-1" />
                  {may("save-key-point") && (
                    <button
                      type="button"
                      className="link no-print text-[12.5px]"
                      onClick={() => edit(k.id)}
                      aria-label={`Change key point ${i + 1}, ${k.cue}`}
                    >
                      Change
                    </button>
                  )}
                </div>
                {k.detail && <p>{k.detail}</p>}
                <p className="text-[13px] text-soft">
                  {[k.limb && `Limb: ${k.limb}.`, k.moment && `Moment: ${k.moment}`, k.closes && `Closes: ${k.closes}`]
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
                            ` The picture itself shows the ${page.written.taught} side.`}
                        </figcaption>
                      </figure>
                    ))}
                </div>
                <Faults faults={k.faults ?? []} names={page.names} />
              </div>
            )}
          </li>
        ))}
      </ol>
    </section>
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
          <span className="font-semibold">{f.what}</span> {f.danger && <b className="text-clay">Someone can be hurt. </b>}
          {f.consequence}
          {f.leads_to && <span className="text-soft"> → {names[f.leads_to.position]}</span>}{" "}
          <span className="text-moss">Mend: {f.correction}</span>
        </li>
      ))}
    </ul>
  );
}

function Forks({ technique, names, on }: { technique: S["LibraryTechnique"]; names: Record<string, string>; on: string }) {
  const forks = technique.forks ?? [];
  if (forks.length === 0) return null;
  const at = (id?: string) => (technique.key_points ?? []).findIndex((k) => k.id === id) + 1;
  return (
    <section className="mt-4">
      <h2>Forks</h2>
      <table className="grid-lines mt-1">
        <thead>
          <tr>
            <th className="w-8">At</th>
            <th>The partner</th>
            <th>Your answer</th>
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
                  <b className="text-clay">nobody has one yet</b>
                )}
                <span className="text-soft">
                  {" "}
                  {f.then}
                  {f.back_to && ` Back to key point ${at(f.back_to)}.`}
                </span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** Practice shows what it is drilled with, and the layers it is learned in. */
function Practice({ technique: t }: { technique: S["LibraryTechnique"] }) {
  if (!t.layers?.length && !t.drills?.length) return null;
  return (
    <div className="mt-4 flex flex-col gap-3">
      {!!t.layers?.length && (
        <section>
          <h2>Layers</h2>
          <table className="grid-lines mt-1">
            <thead>
              <tr>
                <th className="w-36">Against</th>
                <th>The lesson</th>
                <th>The partner</th>
              </tr>
            </thead>
            <tbody>
              {t.layers.map((y, i) => (
                <tr key={y.defence} className="align-top">
                  <td className="font-semibold">
                    {i + 1}. {y.defence}
                  </td>
                  <td>{y.lesson}</td>
                  <td className="text-soft">{y.partner}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
      {!!t.drills?.length && (
        <section>
          <h2>Drills</h2>
          <table className="grid-lines mt-1">
            <thead>
              <tr>
                <th>Drill</th>
                <th>Form</th>
                <th className="w-16">Pace</th>
                <th className="w-20">Resistance</th>
              </tr>
            </thead>
            <tbody>
              {t.drills.map((d) => (
                <tr key={d.id} className="align-top">
                  <td>
                    <b>{d.name}.</b> {d.how} {d.wins && <span className="text-soft">Wins: {d.wins}</span>}
                  </td>
                  <td>{d.form}</td>
                  <td>{d.pace}</td>
                  <td className="num">{d.resistance} of 4</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
    </div>
  );
}

function Rest({ page, on }: { page: S["TechniquePage"]; on: string }) {
  const { shown: t, names, from_there: next } = page;
  return (
    <div className="mt-4 grid gap-x-6 gap-y-3 md:grid-cols-2">
      {t.prerequisites && (
        <section>
          <h3>Stands on</h3>
          {t.prerequisites.map((p) => (
            <p key={p.technique}>
              <Link className="link" to={`/library/${p.technique}${on}`}>
                {names[p.technique]}
              </Link>{" "}
              <span className="text-soft">{p.reason}</span>
            </p>
          ))}
        </section>
      )}
      {(t.bodies || t.context_note) && (
        <section>
          <h3>Bodies and jackets</h3>
          {t.bodies?.map((b) => (
            <p key={b.body}>
              <b>{b.body}:</b> {b.note}
            </p>
          ))}
          {t.context_note && <p>{t.context_note}</p>}
        </section>
      )}
      {t.questions && (
        <section>
          <h3>Explain while it is drilled</h3>
          {t.questions.map((q) => (
            <p key={q}>{q}</p>
          ))}
        </section>
      )}
      {(page.sets.length > 0 || page.tables.length > 0) && (
        <section>
          <h3>Beside it</h3>
          {page.sets.map((v) => (
            <p key={v.id}>
              <Link className="link" to={`/library/variants#${v.id}`}>
                {v.name}
              </Link>
              {v.house ? <b className="text-moss"> · house choice</b> : ""}
              <span className="text-soft"> against {v.others.map((o) => o.name).join(", ")}</span>
            </p>
          ))}
          {page.tables.map((x) => (
            <p key={x.id}>
              An answer in{" "}
              <Link className="link" to={`/library/fork-tables/${x.id}`}>
                {x.name}
              </Link>
            </p>
          ))}
        </section>
      )}
      {next.length > 0 && (
        <section>
          <h3>From there</h3>
          <p>
            {next.map((n, i) => (
              <span key={n.id}>
                {i > 0 && ", "}
                <Link className="link" to={`/library/${n.id}${on}`}>
                  {n.name}
                </Link>
              </span>
            ))}
          </p>
        </section>
      )}
    </div>
  );
}
