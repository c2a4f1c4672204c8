import { useQuery } from "@tanstack/react-query";
import { Tabs } from "radix-ui";
import { useState } from "react";
import { Link, Navigate, useParams } from "react-router";
import { useMay } from "../../api/actions";
import { useClassChanges } from "../../api/changes";
import { client, type S, unwrap } from "../../api/client";
import { FirstStep } from "../../kit/FirstStep";
import { Empty, SplitPane } from "../../kit/SplitPane";
import { tr, word } from "../../kit/tr";
import { date } from "../../kit/words";
import { AfterClass } from "./AfterClass";
import { Attendance } from "./Attendance";
import { Rotation } from "./Rotation";
import { Sheet } from "./Sheet";
import { Stations } from "./Stations";

/** Mat runs a class: the sheet on the left; who is here, who works with whom, and what was reached on the right. */
export default function Mat() {
  const { session } = useParams();
  // A phone has pages of its own.
  if (window.matchMedia("(max-width: 700px)").matches) return <Navigate to={session ? `/run/${session}` : "/run"} replace />;
  return <Classroom session={session} />;
}

/** Classroom is one class: the one asked for, or the only one of today. Going from /mat to that class's own address keeps what is being written. */
function Classroom({ session }: { session?: string }) {
  const today = (useWeek().data ?? []).find((d) => d.today)?.classes ?? [];
  const id = session ?? (today.length === 1 ? today[0]?.session : undefined);
  return id ? <Session key={id} id={id} /> : <Choose />;
}

/** useWeek is the week around today. */
export function useWeek() {
  return useQuery({ queryKey: ["week"], queryFn: () => unwrap(client.GET("/api/week")) });
}

function Choose() {
  const may = useMay();
  const week = useWeek();
  const days = (week.data ?? []).filter((d) => d.classes.length > 0);
  const next = days.flatMap((d) => d.classes).find((c) => ["ready", "no coach", "not planned"].includes(c.state));
  return (
    <SplitPane
      prints="left"
      left={
        <>
          <h1>{tr("This week")}</h1>
          {week.data && days.length === 0 && (
            <FirstStep
              title={tr("No classes yet")}
              ways={
                may("save-class")
                  ? [
                      ["/season", tr("Add classes to the timetable")],
                      ["/begin", tr("Import a timetable")],
                    ]
                  : []
              }
            >
              {tr("The classes of the weekly timetable stand here, each with its sheet, its pairs and its clock.")}
            </FirstStep>
          )}
          <table className="grid-lines mt-2" aria-label={tr("Classes of this week")}>
            <tbody>
              {days.flatMap((d) =>
                d.classes.map((c) => (
                  <tr key={c.session}>
                    <td className="num">
                      {date(d.on)} {c.start}
                    </td>
                    <td>
                      <Link className="link" to={`/mat/${c.session}`}>
                        {c.name}
                      </Link>
                    </td>
                    <td className="text-soft">{c.summary}</td>
                    <td className="text-soft">{word(c.state)}</td>
                  </tr>
                )),
              )}
            </tbody>
          </table>
        </>
      }
      right={
        next ? <Next id={next.session} /> : <Empty title={tr("Pick a class")}>{tr("Its sheet, the pairs and the clock open here.")}</Empty>
      }
    />
  );
}

/** Next is the class that comes, to read before one is picked. */
function Next({ id }: { id: string }) {
  const page = useQuery({
    queryKey: ["session", id],
    queryFn: () => unwrap(client.GET("/api/classes/{id}", { params: { path: { id } } })),
  });
  if (!page.data) return <Empty title={tr("Pick a class")}>{tr("Its sheet, the pairs and the clock open here.")}</Empty>;
  return (
    <>
      <p className="mb-2">
        {tr("Next:")}{" "}
        <Link className="link font-semibold" to={`/mat/${id}`}>
          {tr("open {{name}}", { name: page.data.summary.name })}
        </Link>
        {tr(", with who is here, the pairs and the clock.")}
      </p>
      <Sheet page={page.data} />
    </>
  );
}

function Session({ id }: { id: string }) {
  useClassChanges(id);
  const page = useQuery({
    queryKey: ["session", id],
    queryFn: () => unwrap(client.GET("/api/classes/{id}", { params: { path: { id } } })),
    refetchInterval: 120_000,
  });
  if (page.error) return <p className="p-5 text-clay">{page.error.message}</p>;
  if (!page.data) return null;
  return <SplitPane prints="left" wide="even" left={<Sheet page={page.data} />} right={<Tabbed page={page.data} />} />;
}

function Tabbed({ page }: { page: S["SessionPage"] }) {
  const [tab, setTab] = useState(new URLSearchParams(location.search).get("view") ?? "here");
  const tabs = page.may_run
    ? [
        ["here", tr("Here {{here}}", { here: page.here.length })],
        ["pairs", tr("Pairs")],
        ["stations", tr("Stations")],
        ["after", tr("After class")],
      ]
    : [["here", tr("Here {{here}}", { here: page.here.length })]];
  return (
    <Tabs.Root value={tab} onValueChange={setTab}>
      <Tabs.List aria-label={tr("Parts of the class")} className="no-print mb-3 flex gap-6 border-b-[1.5px] border-ink">
        {tabs.map(([value, label]) => (
          <Tabs.Trigger
            key={value}
            value={value ?? ""}
            className="head num pb-1 text-lg font-medium text-soft data-[state=active]:border-b-[3px] data-[state=active]:border-lake data-[state=active]:font-bold data-[state=active]:text-ink"
          >
            {label}
          </Tabs.Trigger>
        ))}
      </Tabs.List>
      <Tabs.Content value="here">
        <Attendance page={page} />
      </Tabs.Content>
      <Tabs.Content value="pairs">
        <Rotation page={page} />
      </Tabs.Content>
      <Tabs.Content value="stations">
        <Stations page={page} />
      </Tabs.Content>
      <Tabs.Content value="after">
        <AfterClass page={page} />
      </Tabs.Content>
    </Tabs.Root>
  );
}
