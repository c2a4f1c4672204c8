import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { client, type S, unwrap } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { Select } from "../../kit/Field";
import { FirstStep } from "../../kit/FirstStep";
import { Legend } from "../../kit/Legend";
import { arrows, Empty, SplitPane } from "../../kit/SplitPane";
import { inLanguage, tr, word } from "../../kit/tr";
import { Waymark } from "../../kit/Waymark";
import { percent } from "../../kit/words";
import { Agreement } from "./Agreement";
import { AtAGlance } from "./AtAGlance";
import { Fading } from "./Fading";
import { Gaps } from "./Gaps";
import { LedgerViews } from "./LedgerViews";
import { Ready } from "./Outlook";
import { PositionLeaf } from "./PositionLeaf";
import { PositionsTable } from "./PositionsTable";
import { Stopping } from "./Stopping";
import { StudentLeaf } from "./StudentLeaf";
import { TestDays } from "./TestDays";

/** Ledger: the group on the left, in one of its pictures; one student on the right. */
export default function Ledger() {
  const { student } = useParams();
  const [query] = useSearchParams();
  const view = query.get("view") ?? "";
  const position = query.get("position") ?? "";
  return (
    <SplitPane
      left={
        <>
          <LedgerViews view={view} student={student} />
          {view === "" && <PositionsTable open={student} at={position} />}
          {view === "techniques" && <Techniques student={student} />}
          {view === "ready" && <Ready />}
          {view === "fading" && <Fading />}
          {view === "tests" && <TestDays />}
          {view === "gaps" && <Gaps />}
          {view === "agreement" && <Agreement />}
          {view === "stopping" && <Stopping />}
        </>
      }
      right={
        student ? (
          <>
            {position && (
              <PositionLeaf
                student={student}
                position={position}
                technique={query.get("technique") ?? undefined}
                side={query.get("side") ?? undefined}
              />
            )}
            <Student id={student} />
          </>
        ) : (
          <AtAGlance />
        )
      }
    />
  );
}

function Techniques({ student }: { student?: string }) {
  const [curriculum, setCurriculum] = useState("");
  const [group, setGroup] = useState<Group>({});
  const page = useQuery({
    queryKey: ["heat", curriculum, group],
    queryFn: () => unwrap(client.GET("/api/heat", { params: { query: { curriculum: curriculum || undefined, ...group } } })),
  });
  return (
    <>
      {page.error && <p className="text-clay">{page.error.message}</p>}
      {page.data && !page.data.curriculum.id && (
        <FirstStep
          title={tr("Nothing to compare with yet")}
          ways={[
            ["/curricula", tr("Write a curriculum")],
            ["/people", tr("Add people")],
          ]}
        >
          {tr("The ledger sets each student beside what their next rank asks. It needs a curriculum, and people on its ladder.")}
        </FirstStep>
      )}
      {page.data?.curriculum.id && <Heat page={page.data} open={student} onCurriculum={setCurriculum} group={group} onGroup={setGroup} />}
    </>
  );
}

function Student({ id }: { id: string }) {
  const page = useQuery({
    queryKey: ["student", id],
    queryFn: () => unwrap(client.GET("/api/students/{id}", { params: { path: { id } } })),
  });
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  return page.data ? <StudentLeaf page={page.data} checks /> : null;
}

type Group = { track?: string; coach?: string };

type HeatProps = {
  page: S["HeatMap"];
  open?: string;
  onCurriculum: (id: string) => void;
  group: Group;
  onGroup: (g: Group) => void;
};

function Heat({ page, open, onCurriculum, group, onGroup }: HeatProps) {
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the arrow keys only move the focus between links
    <div onKeyDown={arrows}>
      <div className="flex flex-wrap items-end gap-x-4 gap-y-1">
        <h1>{tr("Toward {{rank}}", { rank: page.curriculum.rank })}</h1>
        <span className="cap pb-1.5">
          {tr("{{rows}} students, {{requirements}} requirements", { rows: page.rows.length, requirements: page.requirements.length })}
        </span>
        <span className="flex-1" />
        <a className="link pb-1.5 text-[12.5px]" href={inLanguage(`/api/curricula/${page.curriculum.id}/report.pdf`)} download>
          {tr("Report")}
        </a>
        <Legend />
        <div className="w-36">
          <Select label={tr("Track")} value={group.track ?? ""} onChange={(e) => onGroup({ ...group, track: e.target.value || undefined })}>
            <option value="">{tr("all")}</option>
            {page.tracks.map((t) => (
              <option key={t.id} value={t.id}>
                {t.name}
              </option>
            ))}
          </Select>
        </div>
        <div className="w-36">
          <Select label={tr("Coach")} value={group.coach ?? ""} onChange={(e) => onGroup({ ...group, coach: e.target.value || undefined })}>
            <option value="">{tr("all")}</option>
            {page.coaches.map((c) => (
              <option key={c.id} value={c.id}>
                {c.name}
              </option>
            ))}
          </Select>
        </div>
        <div className="w-48">
          <Select label={tr("Curriculum")} value={page.curriculum.id} onChange={(e) => onCurriculum(e.target.value)}>
            {page.choices.map((c) => (
              <option key={c.id} value={c.id}>
                {c.ladder}: {c.rank}
              </option>
            ))}
          </Select>
        </div>
      </div>
      <div className="mt-2 relative overflow-x-auto">
        <table className="grid-lines">
          <thead>
            <tr>
              <th className="min-w-36">{tr("Student")}</th>
              <th className="text-right">{tr("Met")}</th>
              {page.requirements.map((r) => (
                <th
                  key={r.technique}
                  className="h-[206px] w-[22px] min-w-[22px] !p-0"
                  title={`${r.name}, ${word(r.rung)}${r.both_sides ? tr(", both sides") : ""}`}
                >
                  <span className="block h-[202px] pt-1 rotate-180 leading-[22px] whitespace-nowrap [writing-mode:vertical-rl]">
                    {r.name}
                  </span>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {page.rows.map((row) => (
              <tr key={row.id} data-on={row.id === open}>
                <td className="!py-0.5 whitespace-nowrap">
                  <Link data-row to={`/ledger/${row.id}?view=techniques`} className="no-underline hover:underline">
                    <Belt belt={row.belt} rank={row.rank} />
                    {row.name}
                  </Link>
                  {row.held && <span className="text-clay"> {tr("· held")}</span>}
                </td>
                <td className="num text-right">{percent(row.share)}</td>
                {row.cells.map((marks, i) => (
                  <td key={page.requirements[i]?.technique} className="!px-[3px] !py-0.5 text-center">
                    <Lowest marks={marks} name={page.requirements[i]?.name ?? ""} />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {page.rows.length === 0 && <Empty title={tr("Nobody works on this rank")} />}
    </div>
  );
}

const order = ["not met", "met", "drilled", "passed", "live", "teaches"];

/** Lowest shows the side that is behind: both are asked for, so that one counts. */
function Lowest({ marks, name }: { marks: S["Mark"][]; name: string }) {
  const low = [...marks].sort((a, b) => order.indexOf(a.rung) - order.indexOf(b.rung) || Number(b.due) - Number(a.due))[0];
  if (!low) return null;
  const words =
    marks.length > 1 ? `${name}: ${marks.map((m) => `${word(m.side)} ${word(m.rung)}${m.due ? " (due)" : ""}`).join(", ")}` : name;
  return <Waymark rung={low.rung} due={low.due} held={low.held} label={words} />;
}
