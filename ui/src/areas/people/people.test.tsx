import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { S } from "../../api/client";
import { fileOf, high, page, refuse, server, tidy } from "../../testing";
import { HoldForm, Holds } from "./Holds";
import { PeopleTable } from "./PeopleTable";
import { PersonForm } from "./PersonForm";
import { Promotions } from "./Promotions";
import { RosterImport } from "./RosterImport";

beforeEach(() => high(400));
afterEach(tidy);

const row = (id: string, more: Partial<S["PersonRow"]> = {}): S["PersonRow"] => ({
  id,
  name: id,
  initials: "",
  rank: "White",
  rank_id: "white",
  rank_no: 0,
  belt: "white",
  ladder: "adult",
  minor: false,
  student: true,
  coach: false,
  since: "2026-01-01",
  joined: "2026-01-01",
  away: 0,
  recent: 0,
  tracks: [],
  archived: false,
  ...more,
});

const ladders = [
  {
    id: "adult",
    name: "Adults",
    ranks: [
      { id: "white", name: "White" },
      { id: "blue", name: "Blue" },
    ],
  },
  { id: "youth", name: "Youth", ranks: [{ id: "grey", name: "Grey" }] },
];

describe("a person", () => {
  it("is added with what was written, and nothing of what was left empty", async () => {
    const to = server({ "GET /api/ladders": ladders, "POST /api/people": { id: "ida", change: "c" } });
    const done = vi.fn();
    const p = page(<PersonForm onDone={done} />);
    await p.user.type(screen.getByLabelText("Name"), "Ida Tarn");
    const ladder = screen.getByLabelText("Ladder");
    await p.user.selectOptions(ladder, await within(ladder).findByRole("option", { name: "Youth" }));
    expect(screen.getByLabelText<HTMLSelectElement>("Rank").value).toBe("grey"); // one begins at the foot of a ladder
    await p.user.type(screen.getByLabelText("Weight, kg"), "41.5");
    await p.user.click(screen.getByText("Save person"));
    expect(to.sent("POST", "/api/people").body).toEqual({
      name: "Ida Tarn",
      student: true,
      ladder: "youth",
      rank: "grey",
      weight_kg: 41.5,
    });
    await waitFor(() => expect(done).toHaveBeenCalledWith("ida"));
  });
  it("has a guardian once one thing of them is known", async () => {
    const to = server({ "GET /api/ladders": ladders, "POST /api/people": { id: "ida" } });
    const p = page(<PersonForm onDone={() => undefined} />);
    await p.user.type(screen.getByLabelText("Name"), "Ida");
    await p.user.type(screen.getByLabelText("Guardian's phone"), "555");
    await p.user.click(screen.getByText("Save person"));
    expect(to.sent("POST", "/api/people").body).toMatchObject({ guardian: { name: "", phone: "555" } });
  });
  it("is changed at the version it was opened at", async () => {
    const to = server({ "GET /api/ladders": ladders, "PUT /api/people/ida": { change: "c" } });
    const p = page(<PersonForm id="ida" version={7} fields={{ name: "Ida", student: true, weight_kg: 40 }} onDone={() => undefined} />);
    await p.user.clear(screen.getByLabelText("Weight, kg"));
    await p.user.click(screen.getByText("Save person"));
    expect(to.sent("PUT", "/api/people/ida").query.get("version")).toBe("7");
    expect(to.sent("PUT", "/api/people/ida").body).toEqual({ name: "Ida", student: true });
  });
  it("keeps what was written when it is refused, and says it at the field", async () => {
    server({ "GET /api/ladders": ladders, "POST /api/people": refuse(422, "Wrong.", { birth: "that is after today" }) });
    const p = page(<PersonForm onDone={() => undefined} />);
    await p.user.type(screen.getByLabelText("Name"), "Ida");
    fireEvent.change(screen.getByLabelText("Born"), { target: { value: "2999-01-01" } });
    await p.user.click(screen.getByText("Save person"));
    expect(await screen.findAllByText("that is after today", { exact: false })).toHaveLength(2);
    expect(screen.getByLabelText<HTMLInputElement>("Name").value).toBe("Ida");
  });
  it("has no rank to choose where one was decided", () => {
    server({ "GET /api/ladders": ladders });
    page(<PersonForm id="ida" decided fields={{ name: "Ida", student: true, ladder: "adult", rank: "blue" }} onDone={() => undefined} />);
    expect(screen.queryByLabelText("Rank")).toBeNull();
    expect(screen.getByText(/Their rank was decided here/)).toBeTruthy();
  });
  it("is kept apart from others, never from oneself", async () => {
    const to = server({ "GET /api/ladders": ladders, "PUT /api/people/ida": {} });
    const all = [row("ida"), row("bo"), row("cy"), row("old", { archived: true })];
    const p = page(
      <PersonForm id="ida" version={1} people={all} fields={{ name: "ida", student: true, never_with: ["cy"] }} onDone={() => undefined} />,
    );
    const add = screen.getByLabelText("Add somebody they are never paired with");
    expect(
      within(add)
        .getAllByRole("option")
        .map((o) => o.textContent),
    ).toEqual(["Add somebody", "bo"]);
    await p.user.selectOptions(add, "bo");
    await p.user.click(screen.getByLabelText("Remove cy"));
    await p.user.click(screen.getByText("Save person"));
    expect(to.sent("PUT", "/api/people/ida").body).toMatchObject({ never_with: ["bo"] });
  });
});

const candidate = (id: string, more: Partial<S["Candidate"]> = {}): S["Candidate"] => ({
  person: row(id),
  next: "Blue",
  next_id: "blue",
  checks: 4,
  classes: 60,
  months: 14,
  most: 4,
  stripes: 2,
  notes: [],
  readiness: { met: 8, of: 10, missing: [], rank: "blue", ready: false, share: 0.8, waits: ["2 months more"] },
  ...more,
});

describe("promotions", () => {
  const lists = {
    "GET /api/promotions/candidates": [candidate("ana"), candidate("bo", { stripes: 4 }), candidate("cy", { next: "", stripes: 0 })],
    "GET /api/promotions/2026-11-26": { given: [{ id: "g1", name: "Dee", summary: "Blue", belt: "blue" }], not_yet: [] },
  };
  const open = () => {
    vi.setSystemTime(new Date("2026-11-26T10:00:00Z"));
    return page(<Promotions />);
  };
  afterEach(() => void vi.useRealTimers());
  it("promote nobody by themselves", async () => {
    server(lists);
    open();
    expect(await screen.findByLabelText("Decision about ana")).toBeTruthy();
    expect(screen.getByText<HTMLButtonElement>("Save decisions").disabled).toBe(true);
  });
  it("offer what can be given: no stripe too many, no rank past the end", async () => {
    server(lists);
    open();
    const of = async (who: string) =>
      within(await screen.findByLabelText(`Decision about ${who}`))
        .getAllByRole("option")
        .map((o) => o.textContent);
    expect(await of("ana")).toEqual(["none", "Blue", "stripe 3", "not yet"]);
    expect(await of("bo")).toEqual(["none", "Blue", "not yet"]);
    expect(await of("cy")).toEqual(["none", "stripe 1", "not yet"]);
  });
  it("are kept together, each with an identifier, a reason where it is not yet", async () => {
    const to = server({ ...lists, "POST /api/promotions": ["a", "b"] });
    const p = open();
    await p.user.selectOptions(await screen.findByLabelText("Decision about ana"), "Blue");
    await p.user.selectOptions(screen.getByLabelText("Decision about bo"), "not yet");
    await p.user.type(screen.getByLabelText("Why not yet: bo"), "more rounds");
    await p.user.click(screen.getByText("Save 2 decisions"));
    const body = to.sent("POST", "/api/promotions").body as { on: string; decisions: S["RankDecision"][] };
    expect(body.on).toBe("2026-11-26");
    expect(body.decisions.map((d) => [d.student, d.outcome, d.reason])).toEqual([
      ["ana", "rank", undefined],
      ["bo", "not yet", "more rounds"],
    ]);
    expect(new Set(body.decisions.map((d) => d.id)).size).toBe(2);
    await waitFor(() => expect(screen.getByText<HTMLButtonElement>("Save decisions").disabled).toBe(true));
  });
  it("are taken back before they are kept", async () => {
    server(lists);
    const p = open();
    await p.user.selectOptions(await screen.findByLabelText("Decision about ana"), "Blue");
    await p.user.selectOptions(screen.getByLabelText("Decision about ana"), "none");
    expect(screen.getByText<HTMLButtonElement>("Save decisions").disabled).toBe(true);
  });
  it("say what was decided on the day, with its certificates", async () => {
    server(lists);
    open();
    const day = within(await screen.findByLabelText("Decided on this day"));
    expect(day.getByText("Blue", { selector: "b" })).toBeTruthy();
    expect(day.getByText("Certificates").getAttribute("href")).toBe("/api/promotions/2026-11-26/certificates.pdf");
  });
});

const hold = (more: Partial<S["HoldLine"]> = {}): S["HoldLine"] => ({
  id: "h1",
  active: true,
  all: false,
  no_live: false,
  from: "2026-11-01",
  regions: ["knee"],
  summary: "knee",
  ...more,
});

describe("holds", () => {
  it("end with what a clinician said, recorded by name", async () => {
    const to = server({ "POST /api/people/ana/clearances": { change: "c" } });
    const p = page(<Holds id="ana" page={{ holds: [hold()] } as S["PersonPage"]} />, { may: ["clear-hold"] });
    await p.user.click(screen.getByText("Record a clearance"));
    expect(screen.getByText<HTMLButtonElement>("Save clearance").disabled).toBe(true);
    await p.user.type(screen.getByLabelText("Cleared by"), "Dr Ilse Noor");
    await p.user.click(screen.getByText("Save clearance"));
    expect(to.sent("POST", "/api/people/ana/clearances").query.get("hold")).toBe("h1");
    expect(to.sent("POST", "/api/people/ana/clearances").body).toMatchObject({ clinician: "Dr Ilse Noor" });
  });
  it("offer no clearance of what ended, nor to who may not record one", () => {
    const ended = hold({ active: false, cleared_on: "2026-11-10", clinician: "Dr Noor" });
    page(<Holds id="ana" page={{ holds: [ended] } as S["PersonPage"]} />, { may: ["clear-hold"] });
    expect(screen.queryByText("Record a clearance")).toBeNull();
    tidy();
    page(<Holds id="ana" page={{ holds: [hold()] } as S["PersonPage"]} />);
    expect(screen.queryByText("Record a clearance")).toBeNull();
  });
  it("are nothing to who may not set one when there is none", () => {
    const { container } = page(<Holds id="ana" page={{ holds: [] as S["HoldLine"][] } as S["PersonPage"]} />);
    expect(container.querySelector("section")).toBeNull();
  });
  it("say before they are kept who sees what, and what tonight they take somebody out of", async () => {
    const effect = {
      summary: "Out of what loads the knee",
      coach: "held: knee",
      desk: "held",
      regions: ["knee", "neck"],
      tonight: ["Fundamentals: the leg entry"],
    };
    const to = server({ "POST /api/people/ana/holds/trial": effect, "POST /api/people/ana/holds": { change: "c" } });
    const p = page(<HoldForm id="ana" name="Ana" onDone={() => undefined} />);
    expect(screen.getByText<HTMLButtonElement>("Save hold").disabled).toBe(true);
    await p.user.click(await screen.findByLabelText("knee"));
    await p.user.click(screen.getByLabelText("situational and live rounds"));
    expect(await screen.findByText("Fundamentals: the leg entry")).toBeTruthy();
    await p.user.type(screen.getByLabelText("Note"), "as told by phone");
    await p.user.click(screen.getByText("Save hold"));
    expect(to.sent("POST", "/api/people/ana/holds").body).toMatchObject({ regions: ["knee"], no_live: true, note: "as told by phone" });
  });
});

describe("the table of people", () => {
  const all = [
    row("ana", { held: "knee" }),
    row("bo", { coach: true, student: false }),
    row("cy", { minor: true, away: 5, last_seen: "2026-10-01" }),
  ];
  const open = (more: Partial<Parameters<typeof PeopleTable>[0]> = {}) => {
    const heard = { sort: vi.fn(), choose: vi.fn(), open: vi.fn() };
    const p = page(
      <PeopleTable
        people={all}
        open="bo"
        sort={{ by: "name", down: false }}
        onSort={heard.sort}
        onChoose={heard.choose}
        onOpen={heard.open}
        chosen={["ana"]}
        {...more}
      />,
    );
    return { ...p, heard };
  };
  it("opens and chooses people, one or all that are shown", async () => {
    const p = open();
    await p.user.click(await screen.findByText("cy"));
    expect(p.heard.open).toHaveBeenCalledWith("cy");
    await p.user.click(screen.getByLabelText("Choose cy"));
    expect(p.heard.choose).toHaveBeenLastCalledWith(["ana", "cy"]);
    await p.user.click(screen.getByLabelText("Choose ana"));
    expect(p.heard.choose).toHaveBeenLastCalledWith([]);
    await p.user.click(screen.getByLabelText("Choose all that are shown"));
    expect(p.heard.choose).toHaveBeenLastCalledWith(["ana", "bo", "cy"]);
  });
  it("sorts by a head, and turns round at the second press", async () => {
    const p = open();
    await p.user.click(screen.getByText(/^Name/));
    expect(p.heard.sort).toHaveBeenLastCalledWith({ by: "name", down: true });
    await p.user.click(screen.getByText(/^Joined/));
    expect(p.heard.sort).toHaveBeenLastCalledWith({ by: "joined", down: false });
    expect(screen.getByRole("columnheader", { name: /Name/ }).getAttribute("aria-sort")).toBe("ascending");
  });
  it("says who is held, a minor, a coach; and lets nobody be chosen where nobody may", async () => {
    open({ chosen: undefined });
    await screen.findByText("cy");
    for (const words of ["· held", "· minor", "· coach"]) expect(screen.getByText(words)).toBeTruthy();
    expect(screen.queryByRole("checkbox")).toBeNull();
    expect(screen.getByText("never")).toBeTruthy(); // Ana, a student, was never seen; of a coach nothing is said
  });
});

describe("a roster", () => {
  const preview = (more: Partial<S["RosterPreview"]> = {}): S["RosterPreview"] => ({
    ready: false,
    summary: "1 to decide, 1 to add",
    rows: [
      { do: "ask", line: 2, name: "Ana Marr", like: [{ id: "ana", name: "Ana Mar" }], rank: "", summary: "may be Ana Mar", wrong: [] },
      { do: "add", line: 3, name: "Ida Tarn", like: [], rank: "White", summary: "is added", wrong: [] },
      { do: "same", line: 4, name: "Bo", like: [], rank: "", summary: "is as it was", wrong: [] },
    ],
    ...more,
  });
  it("is looked through, decided row by row, and only then taken in", async () => {
    let ready = false;
    const to = server({ "POST /api/people/roster/preview": () => preview({ ready }), "POST /api/people/roster": {} });
    const done = vi.fn();
    const p = page(<RosterImport onDone={done} />);
    await p.user.upload(screen.getByLabelText("Roster (CSV)"), fileOf("people.csv", "name\nAna Marr\n"));
    expect(await screen.findByText("1 to decide, 1 to add")).toBeTruthy();
    expect(screen.getByText<HTMLButtonElement>("Import people").disabled).toBe(true);
    expect(screen.queryByText("Bo")).toBeNull(); // what stays as it is needs nobody's eye
    ready = true;
    await p.user.selectOptions(screen.getByLabelText("What becomes of Ana Marr"), "is Ana Mar");
    await waitFor(() => expect(screen.getByText<HTMLButtonElement>("Import people").disabled).toBe(false));
    await p.user.click(screen.getByText("Import people"));
    expect(to.sent("POST", "/api/people/roster").body).toEqual({
      file: { name: "people.csv", text: btoa("name\nAna Marr\n") },
      decisions: [{ line: 2, as: "ana" }],
    });
    await waitFor(() => expect(done).toHaveBeenCalled());
    expect(screen.queryByText("Import people")).toBeNull();
  });
  it("that cannot be read says why", async () => {
    server({ "POST /api/people/roster/preview": refuse(422, "There is no column called name.") });
    const p = page(<RosterImport />);
    await p.user.upload(screen.getByLabelText("Roster (CSV)"), fileOf("people.csv", "x"));
    expect((await screen.findAllByText("There is no column called name.")).length).toBeGreaterThan(0);
  });
});
