import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "react-router";
import { useMay } from "../../api/actions";
import { client, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { arrows, Empty, SplitPane } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { LibraryEmpty } from "./LibraryEmpty";
import { Quiz } from "./Quiz";
import { ReactionRounds } from "./ReactionRounds";
import { Shelves } from "./Shelves";
import { TableEditor } from "./TableEditor";

/** ForkTables: the tables on the left; one with what can be said of it on the right, its quiz, its rounds for the mat. */
export default function ForkTables() {
  const { id, way } = useParams();
  const may = useMay();
  const go = useNavigate();
  const list = useQuery({ queryKey: ["fork-tables"], queryFn: () => unwrap(client.GET("/api/fork-tables")) });
  const open = useQuery({
    queryKey: ["fork-table", id],
    enabled: !!id && id !== "new",
    queryFn: () => unwrap(client.GET("/api/fork-tables/{id}", { params: { path: { id: id ?? "" } } })),
  });
  return (
    <SplitPane
      wide="right"
      prints="right"
      left={
        // biome-ignore lint/a11y/noStaticElementInteractions: the arrow keys only move the focus between links
        <div onKeyDown={arrows}>
          <div className="flex items-center gap-3">
            <h1>{tr("Library")}</h1>
            <span className="cap flex-1">{tr("{{n}} fork tables", { n: list.data?.length ?? 0 })}</span>
            {may("save-fork-table") && <Button onClick={() => go("/library/fork-tables/new")}>{tr("New fork table")}</Button>}
          </div>
          <Shelves on={tr("Fork tables")} may={may} />
          {list.data?.length === 0 && (
            <LibraryEmpty what={tr("fork tables")}>
              {tr("A fork table says which technique answers which situation, when several cues decide at once.")}
            </LibraryEmpty>
          )}
          <table className="grid-lines">
            <thead>
              <tr>
                <th>{tr("Table")}</th>
                <th className="!text-right">{tr("Rows")}</th>
                <th className="!text-right">{tr("Situations")}</th>
                <th className="!text-right">{tr("Open")}</th>
                <th className="!text-right">{tr("Two answers")}</th>
              </tr>
            </thead>
            <tbody>
              {list.data?.map((t) => (
                <tr key={t.id} data-on={t.id === id}>
                  <td>
                    <Link data-row className="no-underline hover:underline" to={`/library/fork-tables/${t.id}`}>
                      {t.name}
                      <span className="block text-[12.5px] leading-4 text-soft">
                        {t.position}, {t.at.part === "attack" ? tr("attacker") : tr("defender")}
                      </span>
                    </Link>
                  </td>
                  <td className="num text-right">{t.rows}</td>
                  <td className="num text-right">{t.situations}</td>
                  <td className={`num text-right ${t.open ? "font-bold text-clay" : "text-soft"}`}>{t.open}</td>
                  <td className={`num text-right ${t.contradictions ? "font-bold text-clay" : "text-soft"}`}>{t.contradictions}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      }
      right={
        id === "new" ? (
          <TableEditor key="new" onDone={(made) => go(`/library/fork-tables/${made}`)} />
        ) : open.error ? (
          <p className="text-clay">{open.error.message}</p>
        ) : id && open.data ? (
          <>
            <nav aria-label={tr("Fork table")} className="no-print mb-2 flex gap-4 text-[13px]">
              {[
                ["", tr("Table")],
                ["/quiz", tr("Quiz")],
                ["/rounds", tr("Rounds for the mat")],
              ]
                .filter(([to]) => to !== "/rounds" || may("reaction-round"))
                .map(([to, name]) => (
                  <Link
                    key={name}
                    to={`/library/fork-tables/${id}${to}`}
                    className={`/${way ?? ""}` === (to || "/") ? "font-bold no-underline" : "link"}
                    aria-current={`/${way ?? ""}` === (to || "/") ? "page" : undefined}
                  >
                    {name}
                  </Link>
                ))}
            </nav>
            {way === "quiz" ? (
              <Quiz key={id} table={id} />
            ) : way === "rounds" ? (
              <ReactionRounds key={id} table={id} />
            ) : (
              <TableEditor key={id} page={open.data} onDone={() => undefined} />
            )}
          </>
        ) : (
          <Empty title={tr("When several cues decide at once")}>
            <p>
              {tr(
                "A fork table has cues as columns and rows as rules: when these, then that. It says which situations have no answer, which have two, which rows could go, and it can quiz.",
              )}
            </p>
          </Empty>
        )
      }
    />
  );
}
