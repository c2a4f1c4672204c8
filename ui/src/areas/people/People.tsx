import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { arrows, Empty, SplitPane } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { day } from "../../kit/words";
import { AttendanceImport } from "./AttendanceImport";
import { type Filter, Filters, none, passes, type Sort, sorted } from "./filter";
import { PeopleTable } from "./PeopleTable";
import { PersonForm } from "./PersonForm";
import { PersonLeaf } from "./PersonLeaf";
import { Promotions } from "./Promotions";
import { RosterImport } from "./RosterImport";

const views = ["new", "roster", "promotions", "attendance", "checks"];

/** People lists everybody, and shows one; health notes show only to those who need them. */
export default function People() {
  const { id = "" } = useParams();
  const may = useMay();
  const go = useNavigate();
  const [filter, setFilter] = useState<Filter>(none);
  const [sort, setSort] = useState<Sort>({ by: "name", down: false });
  const [chosen, choose] = useState<string[]>([]);
  const list = useQuery({ queryKey: ["people"], queryFn: () => unwrap(client.GET("/api/people")) });
  const accounts = useQuery({
    queryKey: ["accounts"],
    queryFn: () => unwrap(client.GET("/api/accounts")),
    enabled: may("list-accounts"),
  });
  const withAccount = new Set((accounts.data ?? []).filter((a) => a.state !== "closed").map((a) => a.person ?? ""));
  const all = list.data ?? [];
  const found = sorted(
    all.filter((p) => passes(p, filter, withAccount)),
    sort,
  );
  const picked = found.filter((p) => chosen.includes(p.id));
  const archive = useAction(
    (archived: boolean) => unwrap(client.POST("/api/people/archive", { body: { ids: picked.map((p) => p.id), archived } })),
    (_, archived) =>
      `${archived ? tr("Archived") : tr("Brought back")} ${picked.length === 1 ? picked[0]?.name : tr("{{picked}} people", { picked: picked.length })}.`,
    () => choose([]),
  );
  const merge = useAction(
    (pair: S["PersonRow"][]) =>
      unwrap(client.POST("/api/people/{id}/merges", { params: { path: { id: pair[0]?.id ?? "" } }, body: { drop: pair[1]?.id ?? "" } })),
    (_, pair) => tr("Merged {{name}} into {{name2}}.", { name: pair[1]?.name, name2: pair[0]?.name }),
    () => choose([]),
  );
  const writes = may("add-person");
  return (
    <SplitPane
      wide={id === "promotions" ? "even" : "left"}
      left={
        // biome-ignore lint/a11y/noStaticElementInteractions: the arrow keys only move the focus between links
        <div onKeyDown={arrows} className="flex h-full flex-col max-lg:h-[75vh]">
          <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
            <h1>{tr("People")}</h1>
            <span className="cap flex-1" data-found={found.length}>
              {found.length === all.length
                ? all.length === 1
                  ? tr("1 person")
                  : tr("{{people}} people", { people: all.length })
                : tr("{{found}} of {{all}}", { found: found.length, all: all.length })}
            </span>
            {writes && (
              <>
                <Button look="main" onClick={() => go("/people/new")}>
                  {tr("Add a person")}
                </Button>
                <Button onClick={() => go("/people/roster")}>{tr("Import a roster")}</Button>
                <Button onClick={() => go("/people/promotions")}>{tr("Promotions")}</Button>
              </>
            )}
          </div>
          <Filters filter={filter} put={(part) => setFilter({ ...filter, ...part })} people={all} head={writes} />
          {list.error && <p className="text-clay">{list.error.message}</p>}
          {writes && picked.length > 0 && (
            <div className="my-1 flex flex-wrap items-center gap-3 border-y border-ink py-1" role="status">
              <b className="flex-1">{tr("{{picked}} chosen", { picked: picked.length })}</b>
              {picked.every((p) => p.archived) ? (
                <Button onClick={() => archive.mutate(false)}>{tr("Bring back")}</Button>
              ) : (
                <Button onClick={() => archive.mutate(true)}>{tr("Archive")}</Button>
              )}
              {picked.length === 2 && (
                <Button onClick={() => merge.mutate(picked)}>
                  {tr("Merge {{name}} into {{name2}}", { name: picked[1]?.name, name2: picked[0]?.name })}
                </Button>
              )}
              <Button look="quiet" onClick={() => choose([])}>
                {tr("Choose nobody")}
              </Button>
            </div>
          )}
          {list.data && all.length === 0 ? (
            <Empty title={tr("Nobody yet")}>
              <p>{tr("Everybody who trains and teaches belongs here: the planner plans for who comes.")}</p>
              {writes && (
                <p className="flex gap-2">
                  <Button look="main" onClick={() => go("/people/new")}>
                    {tr("Add the first person")}
                  </Button>
                  <Button onClick={() => go("/people/roster")}>{tr("Import a roster")}</Button>
                </p>
              )}
            </Empty>
          ) : (
            <PeopleTable
              people={found}
              open={id}
              sort={sort}
              onSort={setSort}
              chosen={writes ? chosen : undefined}
              onChoose={choose}
              onOpen={(p) => go(`/people/${p}`)}
            />
          )}
          {list.data && all.length > 0 && found.length === 0 && (
            <Empty title={tr("Nobody fits")}>{tr("Clear a filter to see more people.")}</Empty>
          )}
        </div>
      }
      right={
        id === "new" ? (
          <PersonForm onDone={(p) => go(p ? `/people/${p}` : "/people")} />
        ) : id === "roster" ? (
          <RosterImport />
        ) : id === "attendance" ? (
          <AttendanceImport key="attendance" />
        ) : id === "checks" ? (
          <AttendanceImport key="checks" kind="checks" />
        ) : id === "promotions" ? (
          <Promotions />
        ) : id && !views.includes(id) ? (
          <PersonLeaf key={id} id={id} people={all} />
        ) : (
          <Overview people={all} head={writes} />
        )
      }
    />
  );
}

/** Overview is who needs a look: those who are held, stay away, or are new. */
function Overview({ people, head }: { people: S["PersonRow"][]; head: boolean }) {
  const go = useNavigate();
  const here = people.filter((p) => !p.archived);
  const held = here.filter((p) => p.held);
  const away = here.filter((p) => p.student && p.away >= 3).sort((a, b) => b.away - a.away);
  const fresh = here.filter((p) => p.student).sort((a, b) => b.joined.localeCompare(a.joined));
  const part = (title: string, all: S["PersonRow"][], words: (p: S["PersonRow"]) => string, none: string) => (
    <section className="mt-4">
      <h2>{title}</h2>
      {all.length === 0 && <p className="text-soft">{none}</p>}
      {all.slice(0, 8).map((p) => (
        <p key={p.id} className="border-b border-hair py-[3px]">
          <button type="button" className="link" onClick={() => go(`/people/${p.id}`)}>
            {p.name}
          </button>{" "}
          <span className="text-soft">{words(p)}</span>
        </p>
      ))}
      {all.length > 8 && <p className="text-soft">{tr("and {{n}} more", { n: all.length - 8 })}</p>}
    </section>
  );
  return (
    <>
      {part(tr("Held"), held, (p) => p.held ?? "", tr("Nobody is held."))}
      {part(tr("Stay away"), away, (p) => tr("{{away}} weeks", { away: p.away }), tr("Everybody was here in the last three weeks."))}
      {part(tr("Newest"), fresh, (p) => tr("since {{joined}}", { joined: day(p.joined) }), tr("Nobody yet."))}
      <p className="mt-4 text-[12.5px] text-soft">
        {tr("A hold ends on a clinician's clearance, which the academy records. Nothing here is a medical judgement.")}
      </p>
      {head && (
        <p className="mt-3 flex flex-wrap gap-x-4 gap-y-2 text-[13px] leading-6">
          <a className="link" href="/api/people/roster.csv">
            {tr("Roster as CSV")}
          </a>
          <button type="button" className="link" onClick={() => go("/people/attendance")}>
            {tr("Import past attendance")}
          </button>
          <button type="button" className="link" onClick={() => go("/people/checks")}>
            {tr("Import past checks")}
          </button>
          <a className="link" href="/api/people/attendance.csv">
            {tr("Attendance as CSV")}
          </a>
          <a className="link" href="/api/people/checks.csv">
            {tr("Checks as CSV")}
          </a>
        </p>
      )}
    </>
  );
}
