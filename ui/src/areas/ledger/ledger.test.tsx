import { screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import type { S } from "../../api/client";
import { high, page, refuse, server, tidy } from "../../testing";
import { Agreement } from "./Agreement";
import { Fading } from "./Fading";
import { Gaps } from "./Gaps";
import { OutlookOf, Ready, rangeOf } from "./Outlook";
import { Path } from "./Path";
import { Bar, wordsOf } from "./PositionsGrid";
import { PositionsTable } from "./PositionsTable";
import { TestDays } from "./TestDays";

beforeEach(() => high(400));
afterEach(tidy);

const named = (id: string) => ({ id, name: id });

describe("gaps", () => {
  const group = (unit: string, more: Partial<S["GapGroup"]> = {}): S["GapGroup"] => ({
    unit,
    name: unit,
    class: "tue",
    session: "tue@2026-12-01",
    on: "2026-12-01",
    where: "Fundamentals",
    minutes: 15,
    people: [named("ana"), named("bo")],
    ...more,
  });
  const gaps = (more: Partial<S["GapsPage"]> = {}): S["GapsPage"] => ({
    bound: 2,
    proven: true,
    people: 3,
    weeks: 6,
    groups: [group("Bridge")],
    nobody: [],
    ...more,
  });
  const may = ["add-makeup", "add-unit-to-class"];
  it("put a group into a class as a station, for those people", async () => {
    const to = server({ "GET /api/ledger/gaps": gaps(), "POST /api/classes/tue@2026-12-01/makeups": { change: "c" } });
    const p = page(<Gaps />, { may });
    await p.user.click(await screen.findByRole("button", { name: /As a station/ }));
    expect(to.sent("POST", "/api/classes/tue@2026-12-01/makeups").body).toEqual({ unit: "Bridge", people: ["ana", "bo"] });
    expect(await screen.findByText("Fundamentals on Tue 1 Dec has a station: Bridge.")).toBeTruthy();
  });
  it("put it into the class for everybody", async () => {
    const to = server({ "GET /api/ledger/gaps": gaps(), "POST /api/classes/tue@2026-12-01/units": { change: "c" } });
    const p = page(<Gaps />, { may });
    await p.user.click(await screen.findByRole("button", { name: /For the whole class/ }));
    expect(to.sent("POST", "/api/classes/tue@2026-12-01/units").body).toEqual({ unit: "Bridge", kind: "teach" });
  });
  it("say what is there already, and offer nothing more for it", async () => {
    server({ "GET /api/ledger/gaps": gaps({ groups: [group("Bridge", { put: "station" }), group("Sweep", { put: "unit" })] }) });
    page(<Gaps />, { may });
    expect(await screen.findByText("has a station there")).toBeTruthy();
    expect(screen.getByText("taught to all there")).toBeTruthy();
    expect(screen.queryByRole("button", { name: /station|whole class/ })).toBeNull();
  });
  it("say why a class does not take it", async () => {
    server({
      "GET /api/ledger/gaps": gaps(),
      "POST /api/classes/tue@2026-12-01/makeups": refuse(409, "No minutes are left.", { unit: "it needs 15" }),
    });
    const p = page(<Gaps />, { may });
    await p.user.click(await screen.findByRole("button", { name: /As a station/ }));
    expect(await screen.findByText("No minutes are left. it needs 15")).toBeTruthy();
  });
  it("say how sure they are of the fewest, and for whom no class fits", async () => {
    server({ "GET /api/ledger/gaps": gaps({ proven: false, nobody: [{ person: "Cy", unit: "Guard pass" }] }) });
    page(<Gaps />);
    expect(await screen.findByText("Fewer than 2 cannot.")).toBeTruthy();
    expect(screen.getByText("Cy: Guard pass")).toBeTruthy();
    expect(screen.queryByRole("button", { name: /As a station/ })).toBeNull(); // they may not
  });
  it("are none when nobody missed anything", async () => {
    server({ "GET /api/ledger/gaps": gaps({ groups: [] }) });
    page(<Gaps />);
    expect(await screen.findByText(/Whoever missed a unit of the last 6 weeks/)).toBeTruthy();
  });
});

describe("a path", () => {
  const walked = (path: S["LedgerPathPoint"][]) => ({ person: { id: "ana", name: "Ana" }, next: "Blue", path }) as S["StudentPage"];
  const path = [
    { on: "2026-09-01", share: 0, met: 0.1 },
    { on: "2026-10-13", share: 0.2, met: 0.4 },
    { on: "2026-11-24", share: 0.25, met: 0.5 },
  ];
  const outlook = (likely: object) => ({ "GET /api/students/ana/outlook": { rank: "Blue", likely } });
  it("is drawn to today, said in words, and there as a table", async () => {
    server(outlook({ last: [] }));
    const { container } = page(<Path page={walked(path)} />);
    expect(await screen.findByRole("img", { name: "25% as required, 50% met" })).toBeDefined();
    expect(screen.getByRole("figure", { name: "The path to Blue" })).toBeDefined();
    expect(screen.getAllByRole("row", { hidden: true }).map((r) => r.textContent)).toEqual([
      "DayAs requiredMet on every side",
      "Sep 1, 20260%10%",
      "Oct 13, 202620%40%",
      "Nov 24, 202625%50%",
    ]);
    expect(container.querySelector("[data-fan]")).toBeNull();
  });
  it("goes on as a fan to the days on which all is likely there", async () => {
    server(outlook({ last: [], p10: "2027-03-01", p90: "2027-06-01" }));
    const { container } = page(<Path page={walked(path)} />);
    await waitFor(() => expect(container.querySelector("[data-fan]")).not.toBeNull());
    expect(screen.getByText("Jun 1, 2027")).toBeDefined();
  });
  it("draws no fan to what lies further ahead than a year", async () => {
    const { asked } = server(outlook({ last: [], p10: "2028-03-01" }));
    const { container } = page(<Path page={walked(path)} />);
    await waitFor(() => expect(asked.length).toBe(1));
    expect(container.querySelector("[data-fan]")).toBeNull();
    expect(screen.getByText("today")).toBeDefined();
  });
  it("is not drawn of less than three points", () => {
    server(outlook({ last: [] }));
    const { container } = page(<Path page={walked(path.slice(0, 2))} />);
    expect(container.querySelector("figure")).toBeNull();
  });
});

describe("when they are ready", () => {
  it.each([
    [{}, /not within two years/],
    [{ p10: "2027-01-05" }, /at the soonest/],
    [{ p10: "2027-01-05", p90: "2027-01-05" }, /^[^t]*2027$/],
    [{ p10: "2027-01-05", p50: "2027-02-01", p90: "2027-03-01" }, / to /],
  ])("is a range in words: %o", (range, words) => expect(rangeOf(range)).toMatch(words));
  const line = (id: string, more: object = {}) => ({
    id,
    name: id,
    belt: "white",
    rank: "White",
    next: "Blue",
    share: 0.5,
    nowhere: 0,
    missing: 4,
    within: 0.9,
    ...more,
  });
  const list = {
    formula: "Runs of the weeks to come.",
    rows: [
      line("ana", { p10: "2027-01-05", p50: "2027-02-01", p90: "2027-03-01", last: "Bridge" }),
      line("bo", { nowhere: 2 }),
      line("cy", { p10: "2027-01-20", p50: "2027-02-20", p90: "2027-04-01" }),
    ],
    waiting: [{ technique: "bridge", name: "Bridge", students: 2, people: ["ana", "cy"] }],
  };
  const backtest = (judged: number) => ({
    formula: "f",
    from: "2026-09-01",
    students: 10,
    ranks: {},
    needs: { judged, within: judged * 0.8, all: 20, came: 7, expected: 6.6, after: 0, before: 0 },
  });
  it("is listed by month, with what waits longest and what nobody teaches", async () => {
    server({ "GET /api/ledger/outlook": list, "GET /api/ledger/backtest": backtest(0) });
    page(<Ready />);
    const months = (await screen.findAllByRole("heading", { level: 2 })).map((h) => h.textContent);
    expect(months.slice(0, 2).map((m) => m?.match(/\d+$/)?.[0])).toEqual(["2", "1"]);
    expect(months[1]).toContain("Later than two years");
    expect(screen.getByText("waits longest on Bridge")).toBeTruthy();
    expect(screen.getByText("2 asked for that no class to come teaches")).toBeTruthy();
    expect(await screen.findByText("no range was to end by today.")).toBeTruthy();
  });
  it("says how the ranges of some weeks ago held", async () => {
    const to = server({
      "GET /api/ledger/outlook": list,
      "GET /api/ledger/backtest": (a: { query: URLSearchParams }) => backtest(a.query.get("weeks") === "20" ? 50 : 10),
    });
    const p = page(<Ready />);
    await waitFor(() =>
      expect(document.querySelector("[data-backtest]")?.textContent).toContain("of 10 ranges that were to end by today 80% held"),
    );
    await p.user.selectOptions(screen.getByRole("combobox"), "20 weeks");
    await waitFor(() => expect(document.querySelector("[data-backtest]")?.textContent).toContain("of 50 ranges"));
    expect(to.sent("GET", "/api/ledger/backtest").query.get("weeks")).toBe("20");
  });
  it("of nobody says where to begin", async () => {
    server({ "GET /api/ledger/outlook": { ...list, rows: [] }, "GET /api/ledger/backtest": backtest(0) });
    page(<Ready />);
    expect(await screen.findByRole("link", { name: "Write a curriculum" })).toBeTruthy();
  });
  it("of one student says what would bring it forward", async () => {
    const one = {
      formula: "f",
      rank: "Blue",
      missing: 3,
      waits: [],
      likely: { p10: "2027-01-05", p50: "2027-02-01", p90: "2027-03-01", exact: false, last: [], within: 1 },
      rates: { come: "1.4 classes a week" },
      last: [{ name: "Bridge", share: 0.4 }],
      nowhere: ["Leg entry"],
      forward: [{ days: 12, summary: "Come once a week more" }],
      horizon: "2028-11-01",
    };
    server({ "GET /api/students/ana/outlook": one });
    page(<OutlookOf student="ana" />);
    expect(await screen.findByText("12 days")).toBeTruthy();
    expect(screen.getByText(/In no class to come: Leg entry/)).toBeTruthy();
    expect(screen.getByText(/the head instructor's decision/)).toBeTruthy();
  });
});

const curve = (first: number): S["LedgerCurve"] => ({ first, growth: 1.5, shrink: 0.6 });

describe("what fades", () => {
  const fading = (more: Partial<S["FadingPage"]> = {}, fit: Partial<S["LedgerRetentionFit"]> = {}): S["FadingPage"] => ({
    due: 2,
    formula: "2 to the minus days over half-life.",
    in_use: curve(30),
    fit: {
      better: true,
      checks: 300,
      held: 60,
      enough_data: true,
      default: curve(30),
      fitted: curve(41.2),
      of_default: { brier: 0.2, log_loss: 0.6 },
      of_fitted: { brier: 0.18, log_loss: 0.55 },
      ...fit,
    },
    classes: [
      {
        session: "tue@2026-12-01",
        name: "Fundamentals",
        on: "2026-12-01",
        lines: [{ technique: "bridge", name: "Bridge", people: [named("Ana"), named("Bo")] }],
      },
    ],
    rows: [
      {
        ...({ id: "ana", name: "Ana", belt: "white", rank: "White" } as S["FadingRow"]),
        due: 2,
        lowest: [{ technique: "bridge", name: "Bridge", side: "left", share: 0.4 }],
      },
    ],
    ...more,
  });
  it("is due by student, and by the class that would refresh it", async () => {
    server({ "GET /api/ledger/fading": fading() });
    page(<Fading />);
    expect(await screen.findByText("Bridge left 40%")).toBeTruthy();
    expect(screen.getByText("for 2").getAttribute("title")).toBe("Ana, Bo");
  });
  it("is fitted to the record only when that is better, and only when it is wanted", async () => {
    const to = server({ "GET /api/ledger/fading": fading(), "POST /api/ledger/fading/fit": { change: "c" } });
    const p = page(<Fading />, { may: ["use-fit"] });
    expect(await screen.findByText(/41\.2 days/)).toBeTruthy();
    await p.user.click(screen.getByText("Use the fitted curve"));
    expect(to.sent("POST", "/api/ledger/fading/fit")).toBeTruthy();
  });
  it.each([
    [{ better: false }, ["use-fit"], /The curve in use is as good: it stays/],
    [{}, [], /foretells them better/],
    [{ enough_data: false, checks: 12 }, ["use-fit"], /There are 12 checks after a success; with 60/],
  ])("offers no fit where there is none to take: %o", async (fit, may, words) => {
    server({ "GET /api/ledger/fading": fading({}, fit) });
    page(<Fading />, { may });
    expect(await screen.findByText(words)).toBeTruthy();
    expect(screen.queryByText("Use the fitted curve")).toBeNull();
  });
  it("is nothing when nothing is due, and says when no class would refresh what is", async () => {
    server({ "GET /api/ledger/fading": fading({ due: 0 }) });
    page(<Fading />);
    expect(await screen.findByText("Nothing is due")).toBeTruthy();
    tidy();
    server({ "GET /api/ledger/fading": fading({ classes: [] }) });
    page(<Fading />);
    expect(await screen.findByText(/No class of the next two weeks touches what is due/)).toBeTruthy();
  });
});

describe("how far coaches agree", () => {
  const rate = (more: Partial<S["LedgerAgreement"]> = {}): S["LedgerAgreement"] => ({
    by_chance: 0.5,
    high: 0.9,
    low: 0.4,
    kappa: 0.7,
    known: true,
    pairs: 40,
    same: 0.85,
    ...more,
  });
  const agreement: S["AgreementPage"] = {
    all: rate(),
    checks: 12,
    days: 14,
    weeks: 26,
    formula: "Cohen's kappa.",
    coaches: [{ a: "Sol", b: "Hana", ...rate() }],
    points: [
      {
        cue: "Hips under",
        different: "Sol sees it, Hana does not",
        name: "Hip sweep",
        point: "k1",
        technique: "sweep",
        gate: true,
        ...rate({ same: 0.5 }),
      },
      { cue: "Grip", different: "", name: "Hip sweep", point: "k2", technique: "sweep", ...rate() },
    ],
  };
  it("is said by pair and by key point, those alone that are seen differently", async () => {
    const to = server({ "GET /api/ledger/agreement": agreement });
    const p = page(<Agreement />);
    expect(await screen.findByText("Sol sees it, Hana does not")).toBeTruthy();
    expect(screen.queryByText("Grip")).toBeNull();
    expect(screen.getByText("Sol and Hana")).toBeTruthy();
    await p.user.selectOptions(screen.getByLabelText("Over"), "52 weeks");
    await waitFor(() => expect(to.sent("GET", "/api/ledger/agreement").query.get("weeks")).toBe("52"));
  });
  it("is not known before two checked the same", async () => {
    server({ "GET /api/ledger/agreement": { ...agreement, checks: 0 } });
    page(<Agreement />);
    expect(await screen.findByText("No two coaches checked the same")).toBeTruthy();
  });
});

describe("students by positions", () => {
  const cell = (more: Partial<S["PositionCell"]> = {}): S["PositionCell"] => ({ at: 0, part: "attack", of: 4, there: 1, ...more });
  const student = (id: string, more: Partial<S["PositionRow"]> = {}): S["PositionRow"] => ({
    ...({ belt: "white", rank: "White" } as S["PositionRow"]),
    id,
    name: id,
    behind: 1,
    due: 0,
    share: 0.5,
    cells: [],
    ...more,
  });
  const positions: S["PositionsPage"] = {
    coaches: [named("Sol")],
    group: {} as S["PositionsFilter"],
    ladders: [named("Adults")],
    ranks: [
      { id: "white", ladder: "Adults", name: "White" },
      { id: "grey", ladder: "Youth", name: "Grey" },
    ],
    tracks: [named("Fundamentals")],
    positions: [
      { id: "mount", name: "Mount", family: "mount", attack: true, defend: true },
      { id: "", name: "Movements", family: "", attack: true, defend: false },
    ],
    rows: [
      student("Ana", {
        behind: 3,
        share: 0.2,
        cells: [cell({ met: 2, due: 1 }), cell({ part: "defend", there: 4, passed: 4 }), cell({ at: 1, of: 2, there: 0 })],
      }),
      student("Bo", { behind: 1, share: 0.9, cells: [cell({ there: 4 })] }),
      student("Cy", { behind: 2, share: 0.5, held: "knee", cells: [cell({ there: 0 })] }),
    ],
  };
  const order = () => screen.getAllByRole("rowheader").map((h) => h.querySelector("a")?.getAttribute("href")?.split("/").pop());
  it("stand with who is furthest behind first, and by whatever head is pressed", async () => {
    server({ "GET /api/ledger/positions": positions });
    const p = page(<PositionsTable />);
    await screen.findAllByRole("rowheader");
    expect(order()).toEqual(["Ana", "Cy", "Bo"]);
    await p.user.click(screen.getByRole("button", { name: /^Student/ }));
    expect(order()).toEqual(["Ana", "Bo", "Cy"]);
    await p.user.click(screen.getByRole("button", { name: /^Student/ }));
    expect(order()).toEqual(["Cy", "Bo", "Ana"]);
    await p.user.click(screen.getByTitle("Mount: sort by what is behind here"));
    expect(order()).toEqual(["Cy", "Ana", "Bo"]);
  });
  it("say in words what a cell draws, and lead into it", async () => {
    server({ "GET /api/ledger/positions": positions });
    page(<PositionsTable />);
    const mount = await screen.findByLabelText("Ana, Mount: attack: 1 of 4 there, 2 met, 1 fading; defend: 4 of 4 there, 4 passed");
    expect(mount.getAttribute("href")).toBe("/ledger/Ana?position=mount");
    expect(screen.getByLabelText(/Ana, Movements/).getAttribute("href")).toBe("/ledger/Ana?position=movements");
    expect(screen.queryByLabelText(/Bo, Movements/)).toBeNull(); // nothing is asked of them there
    expect(screen.getByText("· held")).toBeTruthy();
  });
  it("are found by name here, and grouped by the server", async () => {
    const to = server({ "GET /api/ledger/positions": positions });
    const p = page(<PositionsTable />);
    await p.user.type(await screen.findByLabelText("Find a student"), "b");
    expect(order()).toEqual(["Bo"]);
    expect(screen.getByText(/^1 student\./)).toBeTruthy();
    expect(screen.getByLabelText<HTMLSelectElement>("Rank").disabled).toBe(true);
    await p.user.selectOptions(screen.getByLabelText("Ladder"), "Adults");
    expect(
      within(screen.getByLabelText("Rank"))
        .getAllByRole("option")
        .map((o) => o.textContent),
    ).toEqual(["all", "White"]);
    await p.user.selectOptions(screen.getByLabelText("Rank"), "White");
    await p.user.type(screen.getByLabelText("Age from"), "1x6");
    await waitFor(() =>
      expect(Object.fromEntries(to.sent("GET", "/api/ledger/positions").query)).toEqual({
        ladder: "Adults",
        rank: "white",
        age_from: "16",
      }),
    );
    await p.user.selectOptions(screen.getByLabelText("Ladder"), "all");
    await waitFor(() => expect(to.sent("GET", "/api/ledger/positions").query.get("rank")).toBeNull()); // a rank belongs to its ladder
  });
  it("need a curriculum and people", async () => {
    server({ "GET /api/ledger/positions": { ...positions, rows: [] } });
    page(<PositionsTable />);
    expect(await screen.findByText("Nothing to compare with yet")).toBeTruthy();
  });
  it.each([
    [cell({ there: 0 }), "0 of 4 there"],
    [cell({ there: 2, drilled: 1, passed: 2, live: 1 }), "2 of 4 there, 1 drilled, 2 passed, 1 live"],
  ])("say a cell in words", (c, words) => expect(wordsOf(c)).toBe(words));
  it.each([
    [cell({ there: 2, met: 3, due: 1 }), [31, 16, 0]],
    [cell({ there: 1, met: 4, due: 1 }), [31, 8, 16]],
    [cell({ there: 0, of: 0 }), [31, 0, 0]],
  ])("draw a cell as long as it is", (c, widths) => {
    const { container } = page(<Bar cell={c} />);
    expect([...container.querySelectorAll("rect")].map((r) => Number(r.getAttribute("width")))).toEqual(widths);
  });
});

describe("a day of tests", () => {
  const outlook = {
    rows: [
      { id: "ana", name: "Ana", next: "Blue", share: 0.9 },
      { id: "bo", name: "Bo", next: "Blue", share: 0.5 },
    ],
  };
  const slot = (more: Partial<S["TestSlot"]> = {}): S["TestSlot"] => ({
    at: "10:00",
    student: "ana",
    name: "Ana",
    technique: "sweep",
    label: "Hip sweep",
    sides: ["left", "right"],
    examiner: "Sol",
    partner: "Bo",
    result: "open",
    ...more,
  });
  const day = (more: Partial<S["TestDayPage"]> = {}): S["TestDayPage"] =>
    ({
      bound: "10:40",
      ends: "10:45",
      defers: "",
      day: { id: "d1", name: "November tests", on: "2026-11-28", start: "10:00", plan: { proven: false, mean_gap_kg: 3.21 } },
      people: [
        {
          id: "ana",
          name: "Ana",
          belt: "white",
          rank: "White",
          next: "Blue",
          met: 2,
          tests: 3,
          share: 0.95,
          ready: true,
          sheet: "/api/sheet.pdf",
        },
      ],
      slots: [
        slot(),
        slot({ at: "10:10", student: "bo", name: "Bo", examiner: "Hana", result: "met" }),
        slot({ at: "10:20", technique: "bridge", label: "Bridge", result: "not met", sides: [] }),
      ],
      left_out: [{ name: "Cy", label: "Leg entry", why: "nobody is signed off" }],
      ...more,
    }) as S["TestDayPage"];
  it("is planned from who is tested and who examines", async () => {
    const to = server({
      "GET /api/test-days": [],
      "GET /api/ledger/outlook": outlook,
      "GET /api/ledger/positions": { coaches: [{ id: "sol", name: "Sol" }] },
      "POST /api/test-days": { id: "d1", change: "c" },
      "GET /api/test-days/d1": day(),
    });
    const p = page(<TestDays />, { may: ["plan-test-day"] });
    await p.user.click(await screen.findByText("New day of tests"));
    await p.user.type(screen.getByLabelText("Name of the day"), "November tests");
    await p.user.click(await screen.findByLabelText("Sol"));
    await p.user.click(screen.getByLabelText(/^Ana|Ana/));
    await p.user.type(screen.getByLabelText("Break from minute"), "60");
    await p.user.type(screen.getByLabelText("to minute"), "75");
    await p.user.click(screen.getByText("Plan the day"));
    expect(to.sent("POST", "/api/test-days").body).toMatchObject({
      name: "November tests",
      start: "10:00",
      minutes: 180,
      rest_minutes: 2,
      change_minutes: 1,
      breaks: [{ start: 60, end: 75 }],
      examiners: ["sol"],
      people: ["ana"],
      helpers: [],
    });
    await waitFor(() => expect(p.where()).toBe("/?view=tests&day=d1"));
  });
  it("says at the field, by its name, what is wrong with it", async () => {
    server({
      "GET /api/test-days": [],
      "GET /api/ledger/outlook": outlook,
      "GET /api/ledger/positions": { coaches: [] },
      "POST /api/test-days": refuse(422, "Wrong.", { people: "choose at least one" }),
    });
    const p = page(<TestDays />, { may: ["plan-test-day"] });
    await p.user.click(await screen.findByText("New day of tests"));
    await p.user.click(screen.getByText("Plan the day"));
    expect(await screen.findByText("Who is tested: choose at least one")).toBeTruthy();
  });
  it("is read by time, by person or by examiner, with results", async () => {
    server({ "GET /api/test-days/d1": day() });
    const p = page(<TestDays />, { at: "/?day=d1", may: ["keep-check"] });
    expect(await screen.findByText(/No plan ends before 10:40/)).toBeTruthy();
    expect(screen.getByText(/differ by 3\.2 kg/)).toBeTruthy();
    expect(screen.getByText("everything is there")).toBeTruthy();
    expect(screen.getByText("nobody is signed off")).toBeTruthy();
    await p.user.click(screen.getByText("by person"));
    expect(screen.getByRole("heading", { name: "Bo" })).toBeTruthy();
    await p.user.click(screen.getByText("by examiner"));
    expect(screen.getByRole("heading", { name: "Hana" })).toBeTruthy();
    expect(screen.getAllByRole("link", { name: "Check" })[0]?.getAttribute("href")).toBe("/check?student=ana&technique=sweep");
  });
  it("is removed, its checks stay", async () => {
    const to = server({ "GET /api/test-days/d1": day(), "GET /api/test-days": [], "DELETE /api/test-days/d1": { change: "c" } });
    const p = page(<TestDays />, { at: "/?day=d1", may: ["remove-test-day"] });
    await p.user.click(await screen.findByText("Remove"));
    expect(to.sent("DELETE", "/api/test-days/d1")).toBeTruthy();
    expect(await screen.findByText("Removed the day of tests; its checks stay.")).toBeTruthy();
    await waitFor(() => expect(p.where()).toBe("/?view=tests"));
  });
});
