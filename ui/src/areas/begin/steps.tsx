import { type ReactNode, useState } from "react";
import { Link, useNavigate } from "react-router";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Input, Select } from "../../kit/Field";
import { Note } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { AttendanceImport } from "../people/AttendanceImport";
import { RosterImport } from "../people/RosterImport";
import { Timetable } from "../season/Timetable";

export type Page = S["BeginPage"];
export type StepID = S["BeginStep"]["id"];

export function Step({ id, page, onNext }: { id: StepID; page: Page; onNext: () => void }) {
  switch (id) {
    case "library":
      return <LibraryStep page={page} />;
    case "ladders":
      return <LadderStep page={page} />;
    case "curricula":
      return <CurriculumStep page={page} />;
    case "timetable":
      return <TimetableStep />;
    case "people":
      return (
        <Part title={tr("People")} says={tr("Who trains here. Twenty can be written by hand; a roster file brings all of them.")}>
          <Warnings all={page.warnings} />
          <RosterImport />
          <p className="mt-3">
            {tr("Or")}{" "}
            <Link className="link" to="/people/new">
              {tr("add them one by one")}
            </Link>
            .
          </p>
        </Part>
      );
    case "coaches":
      return <CoachStep />;
    case "attendance":
      return (
        <Part
          title={tr("Past attendance")}
          says={tr(
            "Who came to what, from a list you have. It may be left out: the planner then takes the same chance for everybody, says so, and learns as people check in.",
          )}
        >
          <AttendanceImport />
          <Button className="mt-3" onClick={onNext}>
            {tr("Go on")}
          </Button>
        </Part>
      );
    default:
      return <SeasonStep page={page} />;
  }
}

export function Part({ title, says, children }: { title: string; says: string; children: ReactNode }) {
  return (
    <section>
      <h1>{title}</h1>
      <p className="mb-3 max-w-prose text-soft">{says}</p>
      {children}
    </section>
  );
}

export function LibraryStep({ page }: { page: Page }) {
  const [off, setOff] = useState<string[]>([]);
  const on = page.families.filter((f) => !off.includes(f.family));
  const bring = useAction(
    () => unwrap(client.POST("/api/begin/library", { body: { families: on.map((f) => f.family) } })),
    () => tr("The library is here."),
  );
  const left = on.reduce((n, f) => n + f.techniques - f.here, 0);
  return (
    <Part
      title={tr("Library")}
      says={tr(
        "A starter library ships with Vereda: positions, techniques with their key points, faults and forks, and the movements they stand on. Take all of it, or the families you teach, and make it yours.",
      )}
    >
      <div className="flex flex-wrap gap-x-5 gap-y-1">
        {page.families.map((f) => (
          <label key={f.family} className="flex gap-1.5">
            <input
              type="checkbox"
              checked={!off.includes(f.family)}
              onChange={(e) => setOff(off.filter((x) => x !== f.family).concat(e.target.checked ? [] : [f.family]))}
            />
            {f.family}{" "}
            <span className="num text-soft">
              {f.techniques}
              {f.here > 0 && tr(", {{here}} here", { here: f.here })}
            </span>
          </label>
        ))}
      </div>
      {bring.error && <p className="text-clay">{bring.error.message}</p>}
      <p className="mt-3 flex flex-wrap items-center gap-3">
        <Button look="main" disabled={left === 0 || bring.isPending} onClick={() => bring.mutate(undefined)}>
          {on.length === page.families.length ? tr("Use the whole starter library") : tr("Use these families")}
        </Button>
        <Link className="link" to="/library/files">
          {tr("Import Markdown or a bundle of your own")}
        </Link>
        <Link className="link" to="/library">
          {tr("Start with an empty library")}
        </Link>
      </p>
      <p className="mt-4 max-w-prose text-[12.5px] text-soft">
        {tr(
          "Texts help to teach; they replace no coach. What loads joints and neck carries cautions and gates, which are yours to set; competition rules and local law on minors differ.",
        )}
      </p>
    </Part>
  );
}

export function Warnings({ all }: { all: string[] }) {
  return all.map((w) => (
    <Note key={w} tone="clay">
      {w}
    </Note>
  ));
}

export function LadderStep({ page }: { page: Page }) {
  const bring = useAction(
    (ladders: string[]) => unwrap(client.POST("/api/begin/ladders", { body: { ladders } })),
    () => tr("The ladders are here."),
  );
  return (
    <Part
      title={tr("Ladders")}
      says={tr("Belts and stripes are your own. Start from these, and change names, times and ages on Curricula.")}
    >
      {page.ladders.length === 0 && <p>{tr("The starter ladders are here.")}</p>}
      <p className="flex flex-wrap gap-2">
        {page.ladders.length > 1 && (
          <Button look="main" onClick={() => bring.mutate(page.ladders.map((l) => l.id))}>
            {tr("Use all {{ladders}}", { ladders: page.ladders.length })}
          </Button>
        )}
        {page.ladders.map((l) => (
          <Button key={l.id} onClick={() => bring.mutate([l.id])}>
            {tr("Use {{name}}", { name: l.name })}
          </Button>
        ))}
        <Link className="link self-center" to="/curricula">
          {tr("Make a ladder of your own")}
        </Link>
      </p>
      {bring.error && <p className="text-clay">{bring.error.message}</p>}
    </Part>
  );
}

export function CurriculumStep({ page }: { page: Page }) {
  const bring = useAction(
    (id: string) => unwrap(client.POST("/api/begin/curricula/{id}", { params: { path: { id } } })),
    () => tr("The curriculum is here, as a draft."),
  );
  const publish = useAction(
    (id: string) => unwrap(client.PUT("/api/curricula/{id}/state", { params: { path: { id } }, body: { published: true } })),
    () => tr("Published: it is asked for from now on."),
  );
  const [of, setOf] = useState(page.made[0]?.id ?? "");
  const [tracks, setTracks] = useState<string[]>();
  const on = tracks ?? page.tracks.map((t) => t.id);
  const make = useAction(
    () =>
      unwrap(client.POST("/api/curricula/{id}/units", { params: { path: { id: of || (page.made[0]?.id ?? "") } }, body: { tracks: on } })),
    () => tr("Made units."),
  );
  return (
    <Part
      title={tr("First curriculum and units")}
      says={tr("A curriculum says what a rank must know. Units, made of it, are what one class teaches; the planner places them.")}
    >
      {page.curricula.length > 0 && (
        <p className="flex flex-wrap gap-2">
          {page.curricula.map((c) => (
            <Button key={c.id} onClick={() => bring.mutate(c.id)}>
              {tr("Start {{name}}, {{ladder}}: {{size}} requirements", { name: c.name, ladder: c.ladder, size: c.size })}
            </Button>
          ))}
        </p>
      )}
      {bring.error && <p className="text-clay">{bring.error.message}</p>}
      <p className="mt-2">
        <Link className="link" to="/curricula">
          {tr("Choose techniques by hand, with the audit beside them")}
        </Link>
      </p>
      {page.made
        .filter((c) => !c.published)
        .map((c) => (
          <p key={c.id} className="mt-2 flex flex-wrap items-center gap-3">
            <Button look="main" disabled={publish.isPending} onClick={() => publish.mutate(c.id)}>
              {tr("Publish {{name}}", { name: c.name })}
            </Button>
            <Link className="link" to={`/curricula/${c.id}`}>
              {tr("Look at it first: its audit")}
            </Link>
          </p>
        ))}
      {publish.error && <p className="text-clay">{publish.error.message}</p>}
      {page.made.length > 0 && (
        <section className="mt-4 border-t border-hair pt-2">
          <h2>{tr("Units")}</h2>
          {page.tracks.length === 0 ? (
            <p className="text-clay">{tr("Units belong to tracks: make the timetable first, then come back.")}</p>
          ) : (
            <div className="flex flex-wrap items-end gap-3">
              <div className="w-64">
                <Select label={tr("Of")} value={of || (page.made[0]?.id ?? "")} onChange={(e) => setOf(e.target.value)}>
                  {page.made.map((c) => (
                    <option key={c.id} value={c.id}>
                      {c.name}
                    </option>
                  ))}
                </Select>
              </div>
              {page.tracks.map((t) => (
                <label key={t.id} className="flex h-[31px] items-center gap-1.5">
                  <input
                    type="checkbox"
                    checked={on.includes(t.id)}
                    onChange={(e) => setTracks(on.filter((x) => x !== t.id).concat(e.target.checked ? [t.id] : []))}
                  />
                  {t.name}
                </label>
              ))}
              <Button look="main" disabled={make.isPending} onClick={() => make.mutate(undefined)}>
                {tr("Make units")}
              </Button>
            </div>
          )}
          {make.error && <p className="text-clay">{make.error.message}</p>}
          <Warnings all={page.warnings} />
          <p className="text-[13px] text-soft">
            {page.units === 0 ? tr("There are no units yet.") : tr("There are {{units}} units.", { units: page.units })}
          </p>
        </section>
      )}
    </Part>
  );
}

export function TimetableStep() {
  return (
    <Part
      title={tr("Timetable")}
      says={tr(
        "A track is a line of classes that belong together: fundamentals, no-gi, youth. Make the tracks, then write the weekly classes, or bring them in from a list or a calendar.",
      )}
    >
      <Timetable only="classes" />
    </Part>
  );
}

export function CoachStep() {
  return (
    <Part
      title={tr("Coaches")}
      says={tr(
        "Who can lead which classes, how many a week, and what they are signed off for. Choose a coach to change that, or make somebody one.",
      )}
    >
      <Timetable only="coaches" />
    </Part>
  );
}

export function SeasonStep({ page }: { page: Page }) {
  const go = useNavigate();
  const [name, setName] = useState(tr("First season"));
  const [weeks, setWeeks] = useState(6);
  const [start, setStart] = useState(() => new Date().toISOString().slice(0, 10));
  const plan = useAction(
    async () => {
      let id = page.season;
      if (!id) {
        const out = await unwrap(client.POST("/api/seasons", { body: { name, start, weeks, closures: [] } }));
        id = out.id ?? "";
      }
      await unwrap(client.POST("/api/seasons/{id}/plan", { params: { path: { id } } }));
      return { id };
    },
    () => tr("Planned."),
    (out) => go(`/season/${out.id}`),
  );
  const missing = page.steps.filter((s) => !s.done && !s.skips && s.id !== "season");
  return (
    <Part
      title={tr("Plan the first season")}
      says={tr("Some weeks of your timetable, planned so that as many as can be see what their next rank asks.")}
    >
      {missing.length > 0 && (
        <Note tone="clay" title={tr("Still missing:")}>
          {missing.map((s) => s.name.toLowerCase()).join(", ")}.
        </Note>
      )}
      <Warnings all={page.warnings} />
      {page.planned ? (
        <Link className="link" to={`/season/${page.season}`}>
          {tr("Look at the plan")}
        </Link>
      ) : (
        <div className="flex max-w-xl flex-wrap items-end gap-3">
          {!page.season && (
            <>
              <div className="w-48">
                <Input label={tr("Name")} value={name} onChange={(e) => setName(e.target.value)} />
              </div>
              <Input label={tr("Start")} type="date" value={start} onChange={(e) => setStart(e.target.value)} />
              <div className="w-24">
                <Input
                  label={tr("Weeks")}
                  type="number"
                  min={1}
                  max={52}
                  value={weeks}
                  onChange={(e) => setWeeks(Number(e.target.value))}
                />
              </div>
            </>
          )}
          <Button look="main" disabled={plan.isPending} onClick={() => plan.mutate(undefined)}>
            {plan.isPending ? tr("Planning…") : tr("Plan the first season")}
          </Button>
        </div>
      )}
      {plan.error && <p className="mt-1 text-clay">{plan.error.message}</p>}
    </Part>
  );
}
