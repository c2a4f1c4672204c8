import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { Link } from "react-router";
import { client, type S, unwrap } from "../../api/client";
import { Choice } from "../../kit/Choice";
import { Empty } from "../../kit/SplitPane";
import { tr, word } from "../../kit/tr";
import type { Draft } from "./TechniqueEditor";

/** Review is what a careful reader would stop at in the whole library, what can hurt first. */
export function Review() {
  const page = useQuery({ queryKey: ["library-review"], queryFn: () => unwrap(client.GET("/api/library/review")) });
  const [kind, setKind] = useState("");
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  const p = page.data;
  if (!p) return null;
  if (p.techniques === 0)
    return (
      <Empty title={tr("Nothing to read yet")}>
        {tr("What a careful reader would stop at stands here as soon as there are techniques.")}
      </Empty>
    );
  const kinds = [...new Set(p.counts.map((c) => c.kind))];
  const on = kinds.includes(kind as S["ReviewCount"]["kind"]) ? kind : kinds[0];
  const codes = p.counts.filter((c) => c.kind === on);
  return (
    <section aria-label={tr("Review of the library")}>
      <h1>{tr("What a careful reader would stop at")}</h1>
      <p className="mt-1 max-w-prose text-soft">
        {tr(
          "{{techniques}} techniques, the fork tables and the curricula were read: who faces whom and which limbs can meet, where each answer starts, who ends on top, what says nothing, what is unsafe. Each line is a claim to look at, not an order.",
          { techniques: p.techniques },
        )}
      </p>
      {p.findings.length === 0 ? (
        <p className="mt-3 text-moss">{tr("Nothing found.")}</p>
      ) : (
        <>
          <div className="my-2">
            <Choice
              label={tr("Kind of finding")}
              value={on ?? ""}
              onChange={setKind}
              options={kinds.map((k) => ({
                value: k,
                label: `${kindWords[k]} ${p.counts.filter((c) => c.kind === k).reduce((n, c) => n + c.found, 0)}`,
              }))}
            />
          </div>
          {codes.map((c) => (
            <details key={c.code} open={codes.length === 1 || c.found < 8} className="border-b border-hair py-1">
              <summary className="head cursor-pointer text-[15px] font-semibold">
                {word(c.code)} <span className="num text-soft">{c.found}</span>
              </summary>
              <ul className="flex flex-col gap-1.5 py-1 pl-3">
                {p.findings
                  .filter((f) => f.kind === c.kind && f.code === c.code)
                  .map((f) => (
                    <li key={f.record + f.id + f.place + f.what}>
                      <Link className="link" to={path(f)}>
                        {f.name}
                      </Link>
                      : <Finding f={f} />
                    </li>
                  ))}
              </ul>
            </details>
          ))}
        </>
      )}
    </section>
  );
}

const kindWords: Record<S["ReviewCount"]["kind"], string> = {
  safety: tr("Safety"),
  side: tr("Sides"),
  role: tr("Who is on top"),
  fork: tr("Forks"),
  substance: tr("Substance"),
};

function path(f: S["ReviewFinding"]): string {
  if (f.record === "technique") return `/library/${f.id}`;
  if (f.record === "fork table") return `/library/fork-tables/${f.id}`;
  return f.record === "curriculum" ? "/curricula" : `/library/positions/${f.id}`;
}

function Finding({ f }: { f: S["ReviewFinding"] }) {
  return (
    <>
      <span className={f.severity === "error" ? "text-clay" : ""}>{f.what}</span>{" "}
      {f.repair && <span className="text-soft">{f.repair}.</span>}
    </>
  );
}

/** OfTechnique are the findings of one technique, as it is saved. */
export function OfTechnique({ id }: { id: string }) {
  const page = useQuery({ queryKey: ["library-review"], queryFn: () => unwrap(client.GET("/api/library/review")) });
  return <Findings all={(page.data?.findings ?? []).filter((f) => f.record === "technique" && f.id === id)} />;
}

/** OfDraft are those of a technique while it is written. */
export function OfDraft({ draft }: { draft: Draft }) {
  const t = useDeferredValue(draft);
  const page = useQuery({
    queryKey: ["draft-review", t],
    queryFn: () => unwrap(client.POST("/api/library/review", { body: t })),
    placeholderData: (had) => had,
    retry: false,
    gcTime: 0,
  });
  return <Findings all={page.data ?? []} />;
}

function Findings({ all }: { all: S["ReviewFinding"][] }) {
  if (all.length === 0) return null;
  return (
    <details className="no-print my-2 border-l-[3px] border-lake pl-2" open={all.some((f) => f.severity === "error")} data-findings>
      <summary className="cursor-pointer font-semibold">
        {tr("A careful reader would stop at")} <span className="num">{all.length}</span> {all.length === 1 ? tr("place") : tr("places")}
      </summary>
      <ul className="flex flex-col gap-1 py-1">
        {all.map((f) => (
          <li key={f.place + f.code + f.what}>
            <Finding f={f} />
          </li>
        ))}
      </ul>
    </details>
  );
}
