import { cleanup, screen, waitFor, within } from "@testing-library/react";
import { useState } from "react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { S } from "../../api/client";
import { page, refuse, server, tidy } from "../../testing";
import { Closures } from "./Closures";
import { CoachForm } from "./CoachForm";
import { Compare } from "./Compare";
import { CoverageBar } from "./CoverageBar";
import { CoverageLine } from "./CoverageLine";
import { Load } from "./Load";
import { Misses } from "./Misses";
import { Trial, together } from "./Moves";
import { Proposal, Repair } from "./Repair";
import { TrackRules } from "./TrackRules";
import { UnitLeaf } from "./UnitForm";
import { Units } from "./Units";
import { seenWords, Year } from "./Year";

afterEach(tidy);

const season = (more: Partial<S["SeasonPage"]> = {}): S["SeasonPage"] =>
  ({
    line: { id: "s1", name: "Autumn", coverage: 0.5, planned: true, start: "2026-09-07", end: "2026-11-29", weeks: 3 },
    today: "2026-09-15",
    closures: [{ week: 2, why: "Painting" }],
    weeks: [
      { week: 1, start: "2026-09-07" },
      { week: 2, start: "2026-09-14" },
      { week: 3, start: "2026-09-21" },
    ],
    load: [
      { id: "sol", name: "Sol", classes: 5, share: 0.7, wanted: 0.5, limit: 2, most: 2, out: [3], weeks: [1, 2, 0] },
      { id: "hana", name: "Hana", classes: 2, share: 0.45, wanted: 0.5, limit: 4, most: 1, out: [], weeks: [1, 0, 1] },
    ],
    units: [
      { id: "u1", name: "Hip sweep" },
      { id: "u2", name: "Bridge" },
    ],
    unplaced: [{ unit: "u2", name: "Bridge", why: "no minutes" }],
    ...more,
  }) as S["SeasonPage"];

const classes = [{ id: "tue", name: "Fundamentals", weekday: 2, start: "18:30" }] as S["AcademyClass"][];

const proposal = (more: Partial<S["Proposal"]> = {}): S["Proposal"] => ({
  before: 0.512,
  broken: 0.48,
  after: 0.507,
  anew: 0.509,
  changes: [],
  dropped: [],
  fewest: false,
  summary: "Closed week 3",
  what: { week: 3 },
  ...more,
});
const cell = (name: string, more: Partial<S["Cell"]> = {}): S["Cell"] =>
  ({
    class: "tue",
    week: 3,
    on: "2026-09-22",
    state: "planned",
    items: [{ unit: name, name, kind: "teach" }],
    lead: "Sol",
    ...more,
  }) as S["Cell"];

describe("closures", () => {
  it("are saved with what the form began with, so that nobody's are lost", async () => {
    const to = server({ "PUT /api/seasons/s1/closures": { change: "c" } });
    const p = page(<Closures page={season()} classes={classes} />);
    expect(screen.queryByText("Save closures")).toBeNull();
    await p.user.click(screen.getByText("Add a closure"));
    const [, second] = screen.getAllByLabelText("Week");
    await p.user.type(second as HTMLElement, "3rd");
    await p.user.selectOptions(screen.getAllByLabelText("Which")[1] as HTMLElement, "Fundamentals");
    await p.user.click(screen.getByText("Save closures"));
    expect(to.sent("PUT", "/api/seasons/s1/closures").body).toEqual({
      closures: [
        { week: 2, why: "Painting" },
        { week: 3, class: "tue" },
      ],
      was: [{ week: 2, why: "Painting" }],
    });
    await waitFor(() => expect(screen.queryByText("Save closures")).toBeNull());
  });
  it("say at their line what is wrong", async () => {
    server({ "PUT /api/seasons/s1/closures": refuse(422, "Wrong.", { "closures[0].week": "there are 3 weeks" }) });
    const p = page(<Closures page={season()} classes={classes} />);
    await p.user.type(screen.getByLabelText("Week"), "9");
    await p.user.click(screen.getByText("Save closures"));
    expect(await screen.findByText("there are 3 weeks")).toBeTruthy();
  });
  it("are opened again", async () => {
    const to = server({ "PUT /api/seasons/s1/closures": {} });
    const p = page(<Closures page={season()} classes={classes} />);
    await p.user.click(screen.getByLabelText("Open again: line 1"));
    await p.user.click(screen.getByText("Save closures"));
    expect(to.sent("PUT", "/api/seasons/s1/closures").body).toMatchObject({ closures: [] });
  });
});

describe("a coach's terms", () => {
  const coach: S["CoachLine"] = { id: "sol", name: "Sol", version: 4, terms: { available: [], max_per_week: 3, share: 0.5, signoffs: [] } };
  const open = (fresh = false, onDone = vi.fn()) => ({
    onDone,
    ...page(<CoachForm coach={coach} fresh={fresh} classes={classes} signoffs={["leg locks"]} onDone={onDone} />),
  });
  it("are sent with the version they were opened at, shares as shares", async () => {
    const to = server({ "PUT /api/timetable/coaches/sol": { change: "c" } });
    const p = open();
    await p.user.click(screen.getByLabelText(/Fundamentals/));
    await p.user.click(screen.getByLabelText("leg locks"));
    await p.user.clear(screen.getByLabelText("Share, per cent"));
    await p.user.type(screen.getByLabelText("Share, per cent"), "35");
    await p.user.type(screen.getByLabelText("Address for notices"), "sol@lantern.example");
    await p.user.click(screen.getByText("Save terms"));
    const sent = to.sent("PUT", "/api/timetable/coaches/sol");
    expect(sent.query.get("version")).toBe("4");
    expect(sent.body).toEqual({
      email: "sol@lantern.example",
      terms: { available: ["tue"], max_per_week: 3, share: 0.35, signoffs: ["leg locks"], out: [] },
    });
    await waitFor(() => expect(p.onDone).toHaveBeenCalled());
  });
  it("know days away, added and taken back", async () => {
    const p = open();
    await p.user.click(screen.getByText("Add days away"));
    const from = screen.getByLabelText<HTMLInputElement>("Away from");
    expect(from.value).toMatch(/^\d{4}-\d\d-\d\d$/);
    expect(screen.getByLabelText<HTMLInputElement>("until").value).toBe(from.value);
    await p.user.click(screen.getByLabelText(`Not away from ${from.value}`));
    expect(screen.queryByLabelText("Away from")).toBeNull();
  });
  it("end with the coach, but not of one who is not one yet", async () => {
    const to = server({ "DELETE /api/timetable/coaches/sol": {} });
    const p = open();
    await p.user.click(screen.getByText("No coach any more"));
    expect(to.sent("DELETE", "/api/timetable/coaches/sol")).toBeTruthy();
    tidy();
    open(true);
    expect(screen.queryByText("No coach any more")).toBeNull();
  });
});

describe("four ways", () => {
  const way = (school: string, mode: string, more: Partial<S["Way"]> = {}): S["Way"] => ({
    school,
    mode,
    bound: 0.6,
    coverage: 0.5,
    fairness: 1,
    now: false,
    rare: 0.4,
    school_kept: 1,
    spacing: 0.5,
    under: 3,
    units: 20,
    ...more,
  });
  it("are planned one after the other, the best of each column bold, one chosen", async () => {
    const ways = [
      way("block", "same", { now: true }),
      way("block", "split", { coverage: 0.55, under: 1 }),
      way("spiral", "same"),
      way("spiral", "split"),
    ];
    const to = server({
      "POST /api/seasons/s1/ways": (a: { query: URLSearchParams }) => [ways[Number(a.query.get("only")) - 1]],
      "PUT /api/seasons/s1/ways": {},
    });
    const p = page(<Compare page={season()} />);
    await p.user.click(screen.getByText("Compare the four strategies"));
    await waitFor(() => expect(screen.getAllByText("Use this plan")).toHaveLength(4));
    expect(screen.getByText("55%").className).toContain("font-bold");
    expect(screen.getByText("1 students").className).toContain("font-bold"); // fewer is better there
    expect(screen.getByText("as it is", { exact: false })).toBeTruthy();
    await p.user.click(screen.getAllByText("Use this plan")[1] as HTMLElement);
    expect(to.sent("PUT", "/api/seasons/s1/ways").body).toEqual({ school: "block", mode: "split" });
  });
  it("stop after the one that is planned", async () => {
    let free: (w: unknown) => void = () => undefined;
    const to = server({ "POST /api/seasons/s1/ways": () => new Promise((r) => (free = r)) });
    const p = page(<Compare page={season()} />);
    await p.user.click(screen.getByText("Compare the four strategies"));
    await p.user.click(await screen.findByText("Stop after this one"));
    free([way("block", "same")]);
    expect(await screen.findByText("Compare again")).toBeTruthy();
    expect(to.asked).toHaveLength(1);
  });
  it("say why they cannot be planned, and keep those that are there", async () => {
    server({
      "POST /api/seasons/s1/ways": (a: { query: URLSearchParams }) =>
        a.query.get("only") === "1" ? [way("block", "same")] : refuse(409, "The units contradict each other."),
    });
    const p = page(<Compare page={season()} />);
    await p.user.click(screen.getByText("Compare the four strategies"));
    expect((await screen.findAllByText("The units contradict each other.")).length).toBeGreaterThan(0);
    expect(screen.getAllByText("Use this plan")).toHaveLength(1);
  });
});

describe("a repair", () => {
  const open = (more: Partial<Parameters<typeof Repair>[0]> = {}) =>
    page(<Repair page={season()} spot={{ week: 3, class: "tue" }} past={false} items={[]} {...more} />, { may: ["propose-repair"] });
  it.each([
    ["This class is cancelled", { kind: "cancelled", week: 3, class: "tue", why: "flood" }],
    ["closed", { kind: "closed", week: 3, why: "flood" }],
  ])("asks why: %s", async (_, body) => {
    const to = server({ "POST /api/seasons/s1/repairs/proposals": proposal() });
    const p = open();
    await p.user.selectOptions(screen.getByLabelText("What"), body.kind);
    await p.user.type(screen.getByLabelText(/^Why/), "flood");
    await p.user.click(screen.getByText("Show the repair"));
    expect(to.sent("POST", "/api/seasons/s1/repairs/proposals").body).toEqual(body);
  });
  it.each([
    ["coach_out", async () => undefined, { kind: "coach_out", week: 3, coach: "sol", weeks: 1 }],
    ["wanted", async () => undefined, { kind: "wanted", week: 3, unit: "u2" }],
    ["barred", async () => undefined, { kind: "barred", week: 3, unit: "u2", weeks: 1 }],
  ])("asks only what belongs to it: %s", async (kind, _, body) => {
    const to = server({ "POST /api/seasons/s1/repairs/proposals": proposal() });
    const p = open();
    await p.user.selectOptions(screen.getByLabelText("What"), kind);
    await p.user.click(screen.getByText("Show the repair"));
    expect(to.sent("POST", "/api/seasons/s1/repairs/proposals").body).toEqual(body);
  });
  it("is seen before it is taken, and seen again when anything else is meant", async () => {
    const to = server({
      "POST /api/seasons/s1/repairs/proposals": proposal({
        changes: [{ class: "tue", name: "Fundamentals", on: "2026-09-22", week: 3, before: cell("Bridge"), after: cell("Hip sweep") }],
      }),
      "POST /api/seasons/s1/repairs": { change: "c" },
    });
    const p = open();
    await p.user.click(screen.getByText("Show the repair"));
    expect(await screen.findByText("Hip sweep · Sol")).toBeTruthy();
    await p.user.selectOptions(screen.getByLabelText("What"), "closed");
    await waitFor(() => expect(screen.queryByText("Repair plan")).toBeNull());
    await p.user.click(screen.getByText("Show the repair"));
    await p.user.click(await screen.findByText("Repair plan"));
    expect(to.sent("POST", "/api/seasons/s1/repairs").body).toEqual({ kind: "closed", week: 3 });
    expect(await screen.findByText("Closed week 3 and repaired the plan.")).toBeTruthy();
  });
  it("of what is past is of what was not reached", async () => {
    const to = server({ "POST /api/seasons/s1/repairs/proposals": proposal() });
    const p = open({ past: true, items: [{ unit: "u1", name: "Hip sweep" }] as S["WhyItem"][] });
    await p.user.click(screen.getByText("Show the repair"));
    expect(to.sent("POST", "/api/seasons/s1/repairs/proposals").body).toEqual({ kind: "not_reached", week: 3, class: "tue", unit: "u1" });
  });
  it("is not offered to who may not ask for one", () => {
    page(<Repair page={season()} spot={{ week: 3, class: "tue" }} past={false} items={[]} />);
    expect(screen.queryByText("Something happened")).toBeNull();
  });
  it.each([
    [{ changes: [] }, "No class has to change."],
    [{ fewest: true }, "No plan within 1% of it changes fewer classes."],
    [{ dropped: ["Bridge"] }, "No room any more for what was not reached: Bridge."],
  ])("says what it does: %o", (more, words) => {
    page(<Proposal p={proposal(more)} />);
    expect(document.body.textContent).toContain(words);
    expect(document.body.textContent).toContain("Coverage 51.2% now, 48.0% if nothing else changes, 50.7% repaired.");
  });
  it("says which class is left empty, and which had nothing", () => {
    const change = { class: "tue", name: "Fundamentals", on: "2026-09-22", week: 3 };
    page(
      <Proposal
        p={proposal({
          changes: [
            { ...change, before: cell("Bridge", { lead: undefined }) },
            { ...change, week: 4, after: cell("Sweep") },
          ],
        })}
      />,
    );
    expect(screen.getByText("Bridge · no coach")).toBeTruthy();
    expect(screen.getAllByText("nothing")).toHaveLength(2);
  });
});

describe("who misses what", () => {
  const misses: S["MissesPage"] = {
    units: [
      { unit: "u1", name: "Hip sweep", area: "Guard", mean: 0.6, needed: 2 },
      { unit: "u2", name: "Bridge", area: "Mount", mean: 0.2, needed: 1 },
    ],
    students: [
      { id: "ana", name: "Ana", belt: "white", rank: "White", mean: 0.3, cells: { u1: 0.4, u2: 0.2 } },
      { id: "bo", name: "Bo", belt: "blue", rank: "Blue", mean: 0.8, cells: { u1: 0.8 } },
    ],
  };
  const help = { found: true, summary: "Teach the bridge on Thursday.", before: 0.3, after: 0.5, now: 0.6, coverage: 0.61 };
  it("leaves a square empty where nothing is needed, and finds a student", async () => {
    server({ "GET /api/seasons/s1/misses": misses });
    const p = page(<Misses season="s1" />);
    expect(await screen.findByTitle("Ana, Bridge: 20%")).toBeTruthy();
    expect(screen.queryByTitle(/Bo, Bridge/)).toBeNull();
    await p.user.type(screen.getByLabelText("Find a student"), "an");
    expect(screen.queryByText("Bo")).toBeNull();
  });
  it("finds the one change that helps a student most, and makes it", async () => {
    const to = server({
      "GET /api/seasons/s1/misses": misses,
      "GET /api/seasons/s1/help": help,
      "POST /api/seasons/s1/help": { change: "c" },
    });
    const p = page(<Misses season="s1" />, { may: ["find-help", "take-help"] });
    await p.user.click(await screen.findByText("Ana"));
    expect(await screen.findByText(/Teach the bridge on Thursday/)).toBeTruthy();
    expect(screen.getByText(/the whole season 60\.0% → 61\.0%/)).toBeTruthy();
    await p.user.click(screen.getByText("Apply this change"));
    expect(to.sent("POST", "/api/seasons/s1/help").query.get("student")).toBe("ana");
    await waitFor(() => expect(screen.queryByText("Apply this change")).toBeNull());
  });
  it("looks for help for a unit too, and says when there is none", async () => {
    const to = server({
      "GET /api/seasons/s1/misses": misses,
      "GET /api/seasons/s1/help": { ...help, found: false, summary: "No single change helps." },
    });
    const p = page(<Misses season="s1" />, { may: ["find-help", "take-help"] });
    await p.user.click(await screen.findByTitle(/Bridge: 20% of 1 who need it/));
    expect(await screen.findByText("No single change helps.")).toBeTruthy();
    expect(to.sent("GET", "/api/seasons/s1/help").query.get("unit")).toBe("u2");
    expect(screen.queryByText("Apply this change")).toBeNull();
  });
  it("says to plan first when there is nothing to miss", async () => {
    server({ "GET /api/seasons/s1/misses": { students: [], units: [] } });
    page(<Misses season="s1" />);
    expect(await screen.findByText("Plan the season first.")).toBeTruthy();
  });
});

describe("a move by hand", () => {
  const trial = (more: Partial<S["Trial"]> = {}): S["Trial"] => ({
    before: 0.5,
    after: 0.488,
    breaks: [],
    changes: [],
    gains: [],
    loses: [],
    done: "Moved the bridge",
    summary: "The bridge goes to Thursday.",
    ...more,
  });
  const carried = { unit: "u2", name: "Bridge", kind: "teach", from: { week: 1, class: "tue" } };
  const path = "/api/seasons/s1/moves";
  it("says what it costs before it is made", async () => {
    const to = server({
      [`POST ${path}/trial`]: trial({ loses: Array.from({ length: 8 }, (_, i) => ({ student: `S${i}`, with: 0.6, without: 0.4 })) }),
      [`POST ${path}`]: { change: "c" },
    });
    const onDone = vi.fn();
    const p = page(<Trial page={season()} carried={carried} target={{ week: 2, class: "tue" }} onDone={onDone} />);
    expect(await screen.findByText("(-1.2 points)")).toBeTruthy();
    expect(screen.getByText(/S5 60% → 40%, and 2 more/)).toBeTruthy();
    expect(screen.getByText("No rule is broken.")).toBeTruthy();
    await p.user.click(screen.getByText("Make this move"));
    expect(to.sent("POST", path).body).toEqual({
      unit: "u2",
      kind: "teach",
      from: { week: 1, class: "tue" },
      to: { week: 2, class: "tue" },
    });
    await waitFor(() => expect(onDone).toHaveBeenCalled());
    expect(await screen.findByText("Moved the bridge.")).toBeTruthy();
  });
  it("can be made although it breaks a rule, said so", async () => {
    const b = (name: string, what: string) => ({ class: name, name, own: false, rule: "r", week: 2, what });
    server({ [`POST ${path}/trial`]: trial({ breaks: [b("A", "45 of 30 minutes"), b("B", "45 of 30 minutes"), b("B", "no coach")] }) });
    page(<Trial page={season()} carried={carried} target={{ week: 2, class: "tue" }} onDone={() => undefined} />);
    expect(await screen.findByText("Make this move all the same")).toBeTruthy();
    expect(screen.getByText("Week 2, A and B: 45 of 30 minutes")).toBeTruthy();
  });
  it("takes out for good without a target", async () => {
    const to = server({ [`POST ${path}/trial`]: trial(), [`POST ${path}`]: {} });
    const p = page(<Trial page={season()} carried={carried} target={null} onDone={() => undefined} />);
    await p.user.click(await screen.findByText("Remove from the class"));
    expect(to.sent("POST", path).body).toEqual({ unit: "u2", kind: "teach", from: { week: 1, class: "tue" } });
  });
  it("gives a class to another coach", async () => {
    const to = server({ [`POST ${path}/trial`]: trial(), [`POST ${path}`]: {} });
    const p = page(<Trial page={season()} carried={{ ...carried, lead: "hana", name: "Hana" }} target={null} onDone={() => undefined} />);
    await p.user.click(await screen.findByText("Give them the class"));
    expect(to.sent("POST", path).body).toEqual({ lead: "hana", to: { week: 1, class: "tue" } });
  });
  it("puts what is broken alike into one line", () => {
    const b = (name: string, week: number) => ({ class: name, name, own: week === 1, rule: "r", week, what: "too long" });
    expect(together([b("A", 1), b("B", 1), b("A", 2), b("", 3)]).map((g) => [g.week, g.names.join("+")])).toEqual([
      [1, "A+B"],
      [2, "A"],
      [3, ""],
    ]);
  });
});

function Rules({ begin }: { begin: S["SeasonRules"] }) {
  const [rules, set] = useState(begin);
  return (
    <>
      <TrackRules rules={rules} onChange={set} wrong={{ "rules.most_new": "more than there may be units" }} />
      <output>{JSON.stringify(rules)}</output>
    </>
  );
}

describe("the rules of a track", () => {
  const said = () => JSON.parse(screen.getAllByRole("status")[0]?.textContent ?? "");
  it("are numbers, or none; ticks, or none", async () => {
    const p = page(<Rules begin={{ most_units: 3, risk_apart: true }} />);
    await p.user.clear(screen.getByLabelText("Units in a class"));
    await p.user.type(screen.getByLabelText("Taught again after"), "4");
    await p.user.type(screen.getByLabelText("In one area, least"), "3");
    await p.user.type(screen.getByLabelText("In one area, most"), "5");
    await p.user.click(screen.getByLabelText(/No two units in one class/));
    expect(said()).toEqual({ teach_gap: 4, area_least: 3, area_most: 5 });
    expect(screen.getByText("more than there may be units")).toBeTruthy();
  });
  it("name review weeks only where a class of reviews alone is barred", async () => {
    const p = page(<Rules begin={{}} />);
    expect(screen.queryByLabelText("But in these weeks")).toBeNull();
    await p.user.click(screen.getByLabelText("No class of reviews alone"));
    await p.user.type(screen.getByLabelText("But in these weeks"), "6, 12;");
    expect(said()).toEqual({ teach_each: true, review_weeks: [6, 12] });
    await p.user.clear(screen.getByLabelText("But in these weeks"));
    expect(said()).toEqual({ teach_each: true });
  });
});

describe("the load of the coaches", () => {
  it("marks shares that are off, limits that are reached, weeks away", () => {
    page(<Load page={season()} />);
    const sol = within(screen.getByRole("row", { name: /^Sol/ }));
    expect(sol.getByText("70%").className).toContain("text-clay");
    expect(sol.getByTitle("at the limit").textContent).toBe("2");
    expect(sol.getByText("away")).toBeTruthy();
    expect(within(screen.getByRole("row", { name: /^Hana/ })).getByText("45%").className).not.toContain("text-clay");
  });
  it("shows what follows when one is away, from the first week still to come", async () => {
    const to = server({ "POST /api/seasons/s1/repairs/proposals": proposal(), "POST /api/seasons/s1/repairs": {} });
    const p = page(<Load page={season()} />, { may: ["propose-repair"] });
    await p.user.click(screen.getAllByText("If away…")[0] as HTMLElement);
    expect(screen.getByLabelText<HTMLInputElement>("From week").value).toBe("3");
    await p.user.click(screen.getByText("Show what happens"));
    await p.user.click(await screen.findByText("Repair plan"));
    expect(to.sent("POST", "/api/seasons/s1/repairs").body).toEqual({ kind: "coach_out", coach: "sol", week: 3, weeks: 2 });
  });
  it("is none before there is a plan", () => {
    page(<Load page={season({ line: { ...season().line, planned: false } })} />);
    expect(screen.getByText("Plan the season first.")).toBeTruthy();
  });
});

describe("units", () => {
  const unit = (id: string, name: string, more: Partial<S["UnitLine"]> = {}): S["UnitLine"] =>
    ({
      id,
      name,
      area: "Guard",
      techniques: ["sweep"],
      teaches: [{ id: "sweep", name: "Hip sweep" }],
      tracks: ["fund"],
      track_names: "Fundamentals",
      minutes: 20,
      review_minutes: 8,
      requires: [],
      stands_on: [],
      opens: [],
      refused: [],
      version: 3,
      ...more,
    }) as S["UnitLine"];
  const units = (more: Partial<S["UnitsPage"]> = {}): S["UnitsPage"] =>
    ({
      units: [
        unit("u1", "Sweeps"),
        unit("u2", "Escapes", { area: "Mount", tracks: [], track_names: "", refused: ["No-gi: it needs the jacket"] }),
      ],
      tracks: [{ id: "fund", name: "Fundamentals", units: 2, demand: 96, supply: 80, enough: false, season: "Autumn" }],
      movements: [{ id: "bridge", name: "Bridging" }],
      signoffs: ["leg locks"],
      areas: [],
      review_share: 0.4,
      ...more,
    }) as S["UnitsPage"];
  const lists = {
    "GET /api/units": units(),
    "GET /api/techniques": [
      { id: "sweep", name: "Hip sweep" },
      { id: "elbow", name: "Elbow escape" },
    ],
  };
  it("are found by area, track and technique, and say what is wrong with them", async () => {
    server(lists);
    const open = vi.fn();
    const p = page(<Units season="s1" open="" onOpen={open} />, { may: ["list-units", "save-unit"] });
    expect(await screen.findByText("none: it is never taught")).toBeTruthy();
    expect(screen.getByText("No-gi: it needs the jacket")).toBeTruthy();
    expect(screen.getByText("16 short: the planner chooses")).toBeTruthy();
    await p.user.type(screen.getByRole("searchbox"), "mount");
    expect(screen.queryByText("Sweeps")).toBeNull();
    expect(screen.getByText("1 of 2")).toBeTruthy();
    await p.user.click(screen.getByText("Escapes"));
    expect(open).toHaveBeenCalledWith("u2");
    await p.user.type(screen.getByRole("searchbox"), "zzz");
    expect(screen.getByText("No unit of that name")).toBeTruthy();
  });
  it("are written: techniques and what they stand on put in and taken out, never themselves", async () => {
    const to = server({ ...lists, "PUT /api/units": { id: "u1", change: "c" } });
    const done = vi.fn();
    const p = page(<UnitLeaf season="s1" id="u1" onDone={done} />, { may: ["list-units"] });
    const add = await screen.findByLabelText("Add a technique");
    await p.user.selectOptions(add, await within(add).findByRole("option", { name: "Elbow escape" }));
    await p.user.click(screen.getByRole("button", { name: "Add a technique: Elbow escape" }));
    await p.user.click(screen.getByLabelText("Remove from Teaches: Hip sweep"));
    const stands = screen.getByLabelText("Add a unit it stands on");
    expect(within(stands).queryByText("Sweeps")).toBeNull();
    await p.user.selectOptions(stands, "Escapes");
    await p.user.click(screen.getByRole("button", { name: "Add a unit it stands on: Escapes" }));
    await p.user.click(screen.getByText("Save unit"));
    const sent = to.sent("PUT", "/api/units");
    expect(sent.query.get("version")).toBe("3");
    expect(sent.body).toMatchObject({ id: "u1", techniques: ["elbow"], requires: ["u2"], minutes: 20 });
    expect(sent.body).not.toHaveProperty("track_names");
    await waitFor(() => expect(done).toHaveBeenCalledWith("u1"));
  });
  it("that are gone say so", async () => {
    server(lists);
    page(<UnitLeaf season="s1" id="u9" onDone={() => undefined} />, { may: ["list-units"] });
    expect(await screen.findByText("There is no unit of that name any more.")).toBeTruthy();
  });
});

describe("coverage", () => {
  it("says the number, the bound, and where both come from", async () => {
    const p = page(
      <CoverageBar coverage={0.41} bound={0.44} explained={{ formula: "Sum over needs.", students: 80, needs: 900 } as S["Explained"]} />,
    );
    expect(screen.getByText("no plan can reach more than 44%")).toBeTruthy();
    await p.user.click(screen.getByRole("button", { name: "41%" }));
    expect(screen.getByText(/80 students, 900 open needs/)).toBeTruthy();
  });

  it("says what was computed at planning where something was", () => {
    page(<CoverageBar coverage={0.41} planned={0.36} />);
    expect(screen.getByText(/^36% when it was planned/)).toBeTruthy();
    cleanup();
    page(<CoverageBar coverage={0.41} />);
    expect(screen.queryByText(/when it was planned/)).toBeNull();
  });
  const line = {
    published: "2026-09-01",
    formula: "As a sum.",
    weeks: 4,
    forecast: [
      { week: 0, low: 0, mean: 0, high: 0 },
      { week: 4, low: 0.3, mean: 0.4, high: 0.5 },
    ],
    happened: [
      { week: 1, share: 0.1 },
      { week: 2, share: 0.2 },
    ],
    from: [
      { week: 2, low: 0.2, mean: 0.2, high: 0.2 },
      { week: 4, low: 0.3, mean: 0.38, high: 0.45 },
    ],
  };
  it("over a season is a line with its words", async () => {
    server({ "GET /api/seasons/s1/coverage": line });
    const p = page(<CoverageLine season="s1" />);
    const said = (await screen.findByText(/Weeks along the foot/)).textContent;
    expect(said).toContain("40% at the end");
    expect(said).toContain("20% by the end of week 2");
    expect(said).toContain("38% at the end, between 30% and 45%");
    const paths = [...p.container.querySelectorAll("svg path")].map((x) => x.getAttribute("d") ?? "");
    expect(paths.every((d) => !d.includes("NaN"))).toBe(true);
  });
  it("has no line before the season is published", async () => {
    server({ "GET /api/seasons/s1/coverage": { ...line, published: "" } });
    page(<CoverageLine season="s1" />);
    expect(await screen.findByText(/Once the season is published/)).toBeTruthy();
  });
});

describe("the year", () => {
  const seen = (more: Partial<S["YearSeen"]> = {}): S["YearSeen"] => ({ taught: 0, reviewed: 0, missed: 0, planned: 0, ...more });
  it.each([
    [seen(), "nothing"],
    [seen({ taught: 2, planned: 1 }), "2 taught, 1 planned"],
    [seen({ reviewed: 1, missed: 3 }), "1 reviewed, 3 not reached"],
  ])("says how often a season gives something: %o", (s, words) => expect(seenWords(s)).toBe(words));
  const row = (name: string, more: Partial<S["YearRow"]> = {}): S["YearRow"] => ({
    technique: name,
    name,
    or: [],
    open: 0,
    unseen: false,
    units: [],
    seen: [seen({ taught: 1 }), seen()],
    ...more,
  });
  const year = (rows: S["YearRow"][]): S["YearPage"] => ({
    seasons: [
      { id: "s1", name: "Autumn", start: "2026-09-07", end: "2026-11-29", state: "running" },
      { id: "s2", name: "Winter", start: "2026-12-07", end: "2027-02-28", state: "to come" },
    ],
    ranks: [
      { curriculum: "blue", ladder: "Adults", rank: "Blue", belt: "blue", students: 1, unseen: rows.filter((r) => r.unseen).length, rows },
      { curriculum: "grey", ladder: "Youth", rank: "Grey", belt: "grey", students: 4, unseen: 0, rows: [row("Bridge")] },
    ],
    unseen: rows.filter((r) => r.unseen).length,
    waiting: rows.filter((r) => r.unseen && r.open > 0).length,
  });
  it("shows what nobody sees, and all of it when it is wanted", async () => {
    server({
      "GET /api/year": year([row("Leg entry", { unseen: true, open: 3, seen: [seen(), seen()], or: ["Other entry"] }), row("Sweep")]),
    });
    const p = page(<Year />);
    expect(await screen.findByText("1 of what is required is in none of these seasons;")).toBeTruthy();
    expect(screen.getByText(/1 of it somebody has still open/)).toBeTruthy();
    expect(screen.queryByText("Sweep")).toBeNull();
    expect(screen.getByText("none: no plan can have it")).toBeTruthy();
    expect(screen.queryByRole("link", { name: "Grey" })).toBeNull();
    await p.user.click(screen.getByRole("checkbox"));
    expect(screen.getByText("Sweep")).toBeTruthy();
    expect(screen.getByRole("link", { name: "Grey" })).toBeTruthy();
    expect(screen.getAllByText("nothing").length).toBeGreaterThan(1);
  });
  it("says when everything is seen, and where to begin when nothing is required", async () => {
    server({ "GET /api/year": year([row("Sweep")]) });
    page(<Year />);
    expect(await screen.findByText(/Everything that is required is taught or reviewed/)).toBeTruthy();
    tidy();
    server({ "GET /api/year": { ...year([]), ranks: [] } });
    page(<Year />);
    expect(await screen.findByRole("link", { name: "Write a curriculum" })).toBeTruthy();
  });
});
