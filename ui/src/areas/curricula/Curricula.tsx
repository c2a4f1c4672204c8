import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { Button } from "../../kit/Button";
import { FirstStep } from "../../kit/FirstStep";
import { Empty, Note, SplitPane } from "../../kit/SplitPane";
import { tr, word } from "../../kit/tr";
import { AddTechnique } from "./AddTechnique";
import { Audit } from "./Audit";
import { LadderView } from "./LadderView";
import { type At, Matrix } from "./Matrix";
import { OrderView } from "./OrderView";
import { Requirements } from "./Requirements";
import { SheetsView } from "./SheetsView";
import { TimeView } from "./TimeView";
import { TwoRanks } from "./TwoRanks";
import { VersionView } from "./VersionView";

const views = [
  ["", tr("Matrix"), "list-curricula"],
  ["time", tr("Time"), "list-curricula"],
  ["order", tr("Order and units"), "list-curricula"],
  ["two", tr("Two ranks"), "list-curricula"],
  ["ladder", tr("Whole ladder"), "get-ladder"],
  ["version", tr("Who it concerns"), "compare-version"],
  ["sheets", tr("Sheets and lists"), "get-sheet"],
] as const;

/** Curricula: what each rank asks for, and where it does not hold together. */
export default function Curricula() {
  const { id } = useParams();
  const may = useMay();
  const [search] = useSearchParams();
  const view = search.get("view") ?? "";
  const list = useQuery({ queryKey: ["curricula"], queryFn: () => unwrap(client.GET("/api/curricula")) });
  const [cell, setCell] = useState<At>();
  const open = id ?? list.data?.[0]?.id;
  const page = useQuery({
    queryKey: ["curriculum", open],
    enabled: !!open,
    queryFn: () => unwrap(client.GET("/api/curricula/{id}", { params: { path: { id: open ?? "" } } })),
  });
  const ladders = useQuery({
    queryKey: ["ladders"],
    enabled: list.data?.length === 0 && may("get-ladder"),
    queryFn: () => unwrap(client.GET("/api/ladders")),
  });
  const p = page.data;
  return (
    <SplitPane
      wide="even"
      prints="left"
      left={
        <>
          <Ranks list={list.data ?? []} open={p?.line} view={view} />
          {page.error && <p className="text-clay">{page.error.message}</p>}
          {p && (
            <>
              <Head page={p} />
              <nav aria-label={tr("Views of the curriculum")} className="no-print my-1.5 flex flex-wrap gap-x-4 border-b border-hair">
                {views
                  .filter(([, , needs]) => may(needs))
                  .map(([key, name]) => (
                    <Link
                      key={key}
                      to={`/curricula/${p.line.id}${key && `?view=${key}`}`}
                      aria-current={view === key ? "page" : undefined}
                      className={`head pb-0.5 text-[14px] no-underline ${view === key ? "border-b-2 border-ink font-bold" : "font-medium text-soft hover:text-ink"}`}
                    >
                      {name}
                    </Link>
                  ))}
              </nav>
              {view === "" && <Matrix page={p} onPick={p.frozen || !may("set-requirement") ? undefined : setCell} />}
              {view === "time" && <TimeView page={p} />}
              {view === "order" && <OrderView page={p} />}
              {view === "two" && <TwoRanks page={p} list={list.data ?? []} />}
              {view === "ladder" && <LadderView key={p.line.ladder_id} ladder={p.line.ladder_id} rank={p.line.rank_id} />}
              {view === "version" && <VersionView id={p.line.id} state={p.line.state} />}
              {view === "sheets" && <SheetsView page={p} />}
            </>
          )}
          {list.data?.length === 0 && (
            <>
              <FirstStep
                title={tr("No curriculum yet")}
                ways={
                  ladders.data?.length === 0
                    ? [
                        ["/begin", tr("Start with a ladder")],
                        ["/library/files", tr("Import a bundle")],
                      ]
                    : []
                }
              >
                {ladders.data?.length === 0
                  ? tr("A curriculum says what a rank of a ladder must know. There is no ladder yet.")
                  : tr(
                      "A curriculum says what a rank must know. Choose a rank of the ladder below; the audit stands beside it from the first technique on.",
                    )}
              </FirstStep>
              {ladders.data?.[0] && <LadderView ladder={ladders.data[0].id} rank="" />}
            </>
          )}
        </>
      }
      right={
        p ? (
          <>
            {!p.frozen && <AddTechnique key={p.line.id} page={p} at={cell} onClear={() => setCell(undefined)} />}
            {may("set-requirement") && <Audit page={p} />}
            <Requirements page={p} />
          </>
        ) : (
          <Empty title={tr("Pick a rank")} />
        )
      }
    />
  );
}

function Ranks({ list, open, view }: { list: S["CurriculumLine"][]; open?: S["CurriculumLine"]; view: string }) {
  const ladders = [...new Set(list.map((c) => c.ladder_id))];
  const at = (c: S["CurriculumLine"]) => `/curricula/${c.id}${view && `?view=${view}`}`;
  return (
    <nav aria-label={tr("Curricula")} className="no-print mb-1">
      {ladders.map((l) => {
        const here = list.filter((c) => c.ladder_id === l);
        const ranks = [...new Set(here.map((c) => c.rank_id))];
        return (
          <div key={l} className="flex flex-wrap items-baseline gap-x-3.5">
            <span className="cap w-24">{here[0]?.ladder}</span>
            {ranks.map((r) => {
              const of = here.filter((c) => c.rank_id === r);
              const shown = of.find((c) => c.state === "published") ?? of[of.length - 1];
              if (!shown) return null;
              const on = open?.rank_id === r && open.ladder_id === l;
              return (
                <Link
                  key={r}
                  to={at(shown)}
                  aria-current={on ? "page" : undefined}
                  className={`head inline-flex min-h-[26px] min-w-6 items-center text-[14px] no-underline ${on ? "border-b-[3px] border-lake font-bold" : "text-soft hover:text-ink"}`}
                >
                  <Belt belt={shown.belt} rank={shown.rank} />
                  {shown.rank}
                </Link>
              );
            })}
          </div>
        );
      })}
      {open && list.filter((c) => c.rank_id === open.rank_id && c.ladder_id === open.ladder_id).length > 1 && (
        <div className="mt-1 flex flex-wrap gap-x-3.5 text-[13px]">
          <span className="cap w-24">{tr("Versions")}</span>
          {list
            .filter((c) => c.rank_id === open.rank_id && c.ladder_id === open.ladder_id)
            .map((c) => (
              <Link key={c.id} to={at(c)} className={c.id === open.id ? "font-bold no-underline" : "link"}>
                {c.version}, {word(c.state)}
                {c.students > 0 && tr(", {{students}} on it", { students: c.students })}
              </Link>
            ))}
        </div>
      )}
    </nav>
  );
}

function Head({ page }: { page: S["CurriculumPage"] }) {
  const may = useMay();
  const go = useNavigate();
  const { line } = page;
  const publish = useAction(
    (published: boolean) => unwrap(client.PUT("/api/curricula/{id}/state", { params: { path: { id: line.id } }, body: { published } })),
    (_, published) =>
      published
        ? tr("Published the curriculum for {{rank}}.", { rank: line.rank })
        : tr("Withdrew the curriculum for {{rank}}.", { rank: line.rank }),
  );
  const begin = useAction(
    (_: undefined) => unwrap(client.POST("/api/curricula", { body: { ladder: line.ladder_id, rank: line.rank_id, from: line.id } })),
    () => tr("Began a new version for {{rank}}.", { rank: line.rank }),
    (out) => go(`/curricula/${out.id}`),
  );
  const published = line.state === "published";
  return (
    <>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <h1>{tr("For {{rank}}", { rank: line.rank })}</h1>
        <span className="cap flex-1">
          {tr("{{n}} requirements · version {{version}} · {{state}} · {{students}} students work on it", {
            n: line.count,
            version: line.version,
            state: word(line.state),
            students: line.students,
          })}
        </span>
        <span className="no-print flex gap-2">
          {may("begin-curriculum") && <Button onClick={() => begin.mutate(undefined)}>{tr("New version")}</Button>}
          {may("publish-curriculum") && (line.state === "draft" || page.takes_back) && (
            <Button look={published ? "plain" : "main"} onClick={() => publish.mutate(!published)}>
              {published ? tr("Back to draft") : tr("Publish")}
            </Button>
          )}
        </span>
      </div>
      {publish.error && line.blocks > 0 && <p className="text-clay">{publish.error.message}</p>}
      {begin.error && <p className="text-clay">{begin.error.message}</p>}
      {page.frozen && may("set-requirement") && <Note tone="lake">{page.frozen}</Note>}
    </>
  );
}
