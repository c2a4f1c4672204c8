import { screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { S } from "../../api/client";
import { page, refuse, server, tidy } from "../../testing";
import { Attendance } from "./Attendance";
import { GuestForm } from "./GuestForm";
import Mat from "./Mat";
import { Rotation } from "./Rotation";
import { Segments } from "./Segments";
import { Reactions, SeriesAndCare } from "./SeriesAndCare";
import { Sheet } from "./Sheet";
import { attendee, segment, session } from "./session.fixture";
import { TakeBack } from "./TakeBack";

afterEach(tidy);

const at = "/api/classes/tue@2026-11-24";

describe("attendance", () => {
  it("checks in who is pressed, with an identifier of its own each time", async () => {
    const to = server({ [`PUT ${at}/attendance/cy`]: {}, [`PUT ${at}/attendance/dee`]: {} });
    const p = page(<Attendance page={session()} />);
    await p.user.click(screen.getByRole("button", { name: /Check in Cy Marr/ }));
    await p.user.click(screen.getByRole("button", { name: /Check in Dee Marr/ }));
    expect(await screen.findByText("Dee Marr is here.")).toBeTruthy();
    const [one, two] = ["cy", "dee"].map((who) => to.sent("PUT", `${at}/attendance/${who}`).query.get("event"));
    expect(one).toMatch(/^[0-9a-f]{24}$/);
    expect(one).not.toBe(two);
  });
  it("finds by a part of the name and takes the first with Enter", async () => {
    const to = server({ [`PUT ${at}/attendance/dee`]: {} });
    const p = page(<Attendance page={session()} />);
    const name = screen.getByLabelText<HTMLInputElement>("Name of who came");
    await p.user.type(name, " DEE ");
    expect(screen.queryByRole("button", { name: /Check in Cy/ })).toBeNull();
    await p.user.keyboard("{Enter}");
    await waitFor(() => expect(to.sent("PUT", `${at}/attendance/dee`)).toBeTruthy());
    await waitFor(() => expect(name.value).toBe(""));
  });
  it("takes back who is not here after all, and says for how much of it others were", async () => {
    const to = server({ [`DELETE ${at}/attendance/ana`]: {}, [`PUT ${at}/attendance/bo`]: {} });
    const p = page(<Attendance page={session()} />);
    await p.user.click(screen.getByLabelText("Ana Marr is not here"));
    await p.user.selectOptions(screen.getByLabelText("How much of the class Bo Marr was in"), "came late");
    expect(to.sent("DELETE", `${at}/attendance/ana`)).toBeTruthy();
    expect(to.sent("PUT", `${at}/attendance/bo`).query.get("part")).toBe("late");
    expect(await screen.findByText("Bo Marr came late.")).toBeTruthy();
  });
  it("says why somebody is not paired, and offers no check of them", () => {
    const here = [
      attendee("ana", { out: "held: knee" }),
      attendee("bo", { no_live: "no live rounds: under 16" }),
      attendee("gus", { guest: "visitor" }),
    ];
    page(<Attendance page={session({ here })} />, { may: ["keep-check"] });
    expect(screen.getByText("Not paired: held: knee")).toBeTruthy();
    expect(screen.getByText("no live rounds: under 16")).toBeTruthy();
    expect(screen.getByText("· visitor")).toBeTruthy();
    const checks = screen.getAllByRole("link", { name: "Check" });
    expect(checks.map((a) => a.getAttribute("href"))).toEqual(["/check?student=bo&class=tue@2026-11-24&technique=Hip sweep"]);
  });
  it("says why somebody cannot be checked in", async () => {
    server({ [`PUT ${at}/attendance/cy`]: refuse(409, "The class is closed.") });
    const p = page(<Attendance page={session()} />);
    await p.user.click(screen.getByRole("button", { name: /Check in Cy/ }));
    expect(await screen.findByText("The class is closed.")).toBeTruthy();
  });
  it("offers whoever is not known as a guest, by the name that was written", async () => {
    const to = server({ [`POST ${at}/guests`]: {} });
    const p = page(<Attendance page={session()} />, { may: ["add-guest"] });
    await p.user.type(screen.getByLabelText("Name of who came"), "Ida Tarn");
    expect(screen.getByText("Nobody of that name.")).toBeTruthy();
    await p.user.click(screen.getByText(/add a guest/));
    expect(screen.getByLabelText<HTMLInputElement>("Name of the guest").value).toBe("Ida Tarn");
    await p.user.click(screen.getByText("Add guest"));
    await waitFor(() => expect(to.sent("POST", `${at}/guests`).body).toMatchObject({ name: "Ida Tarn", kind: "trial" }));
  });
});

describe("a guest", () => {
  it("has a name, and a weight that is a number or none", async () => {
    const add = vi.fn();
    const p = page(<GuestForm name="" onAdd={add} />);
    await p.user.click(screen.getByText(/add a guest/));
    expect(screen.getByText<HTMLButtonElement>("Add guest").disabled).toBe(true);
    await p.user.type(screen.getByLabelText("Name of the guest"), "  Ida ");
    await p.user.click(screen.getByRole("radio", { name: "A visit" }));
    await p.user.type(screen.getByLabelText(/Weight in kg/), "about 62.5kg");
    await p.user.click(screen.getByText("Add guest"));
    expect(add).toHaveBeenCalledWith({ id: expect.stringMatching(/^[0-9a-f]+$/), name: "Ida", kind: "visitor", weight_kg: 62.5 });
    await p.user.click(screen.getByText(/add a guest/));
    await p.user.type(screen.getByLabelText("Name of the guest"), "Uri");
    await p.user.click(screen.getByText("Add guest"));
    expect(add.mock.lastCall?.[0]).not.toHaveProperty("weight_kg");
  });
});

describe("pairs", () => {
  const rounds: S["RoundLine"][] = [
    {
      again: 0,
      coach: [],
      groups: [
        [
          { id: "ana", name: "Ana" },
          { id: "bo", name: "Bo" },
        ],
      ],
    },
    {
      again: 1,
      coach: [{ id: "cy", name: "Cy" }],
      groups: [
        [
          { id: "ana", name: "Ana" },
          { id: "dee", name: "Dee" },
        ],
      ],
    },
  ];
  const open = (more: Partial<S["RotationPage"]> = {}) =>
    page(<Rotation page={session({ rotation: { ...session().rotation, ...more } })} />);
  it("are made as they are, with one thing changed", async () => {
    const to = server({ [`POST ${at}/rotation`]: {} });
    const p = open({ run: 0 });
    await p.user.click(screen.getByText("Pair them"));
    expect(to.sent("POST", `${at}/rotation`).body).toEqual({ run: 0, odd: "larger", mix: "any", size: 2 });
    await p.user.click(screen.getByRole("radio", { name: "In 3s" }));
    expect(to.sent("POST", `${at}/rotation`).body).toEqual({ run: 0, odd: "larger", mix: "any", size: 3 });
    await p.user.click(screen.getByRole("radio", { name: "With the coach" }));
    expect(to.sent("POST", `${at}/rotation`).body).toMatchObject({ odd: "coach" });
  });
  it("show each round, who works with the coach, who meets again", () => {
    open({ rounds, run: 1 });
    const [first, second] = screen.getAllByRole("listitem").filter((x) => x.matches("[data-round]")) as [HTMLElement, HTMLElement];
    expect(within(first).getByText("run")).toBeTruthy();
    expect(within(second).getByText("Ana – Dee")).toBeTruthy();
    expect(within(second).getByText("Cy works with the coach")).toBeTruthy();
    expect(within(second).getByText("1 meet again")).toBeTruthy();
  });
  it("take a round as run with one press", async () => {
    const to = server({ [`POST ${at}/rotation`]: {} });
    const p = open({ rounds, run: 1 });
    await p.user.click(screen.getByText("This round was run"));
    expect(to.sent("POST", `${at}/rotation`).body).toMatchObject({ run: 2 });
  });
  it("say when they are for others than are here", () => {
    open({ rounds, stale: true, paired: 4 });
    expect(screen.getByText(/The pairs are for 4/)).toBeTruthy();
  });
  it("say whom they leave out and what to do instead", () => {
    open({ out: [attendee("ana", { out: "held: knee", instead: "Calls the cues." })] });
    expect(screen.getByText(/is not paired: held: knee\. Calls the cues\./)).toBeTruthy();
  });
});

describe("the minutes of a class", () => {
  const four = session({
    segments: [segment("Warm-up", 10), segment("Show", 5), segment("Drill", 20, { repetitions: 24, sides: 2, trio: 16 })],
    order: ["Warm-up", "Show", "Drill"],
    fell_out: [segment("Live", 0, { why: "No minutes were left.", needs: 3, instead: ["Show"] })],
    edits: { edits: [{ id: "Show", minutes: 5 }], order: [] },
    used: 35,
    short: 2,
  });
  const open = () => page(<Segments page={four} />);
  const path = `${at}/sheet`;
  it("say repetitions, for both sides and in a trio", () => {
    open();
    expect(screen.getByText("each, each side")).toBeTruthy();
    expect(screen.getByText("· 16 in a trio")).toBeTruthy();
    expect(screen.getByText(/2 minutes too short/)).toBeTruthy();
  });
  it("keep the other edits when one is made", async () => {
    const to = server({ [`PUT ${path}`]: {} });
    const p = open();
    await p.user.click(screen.getByText("Change the sheet"));
    await p.user.click(screen.getByLabelText("One minute more: Drill"));
    expect(to.sent("PUT", path).body).toEqual({
      edits: [
        { id: "Show", minutes: 5 },
        { id: "Drill", minutes: 21 },
      ],
      order: [],
    });
    await p.user.click(screen.getByLabelText("One minute less: Show"));
    expect(to.sent("PUT", path).body).toEqual({ edits: [{ id: "Show", minutes: 4 }], order: [] });
    await p.user.click(screen.getByLabelText("Leave out: Warm-up"));
    expect(to.sent("PUT", path).body).toMatchObject({ edits: [{ id: "Show" }, { id: "Warm-up", dropped: true, minutes: 0 }] });
  });
  it.each([
    ["Later: Warm-up", ["Show", "Warm-up", "Drill"]],
    ["Earlier: Drill", ["Warm-up", "Drill", "Show"]],
  ])("move: %s", async (button, order) => {
    const to = server({ [`PUT ${path}`]: {} });
    const p = open();
    await p.user.click(screen.getByText("Change the sheet"));
    await p.user.click(screen.getByLabelText(button));
    expect(to.sent("PUT", path).body).toMatchObject({ order });
  });
  it("do not move past the ends", async () => {
    const p = open();
    await p.user.click(screen.getByText("Change the sheet"));
    expect(screen.getByLabelText<HTMLButtonElement>("Earlier: Warm-up").disabled).toBe(true);
    expect(screen.getByLabelText<HTMLButtonElement>("Later: Drill").disabled).toBe(true);
  });
  it("say what fell out, what would keep it, and keep it", async () => {
    const to = server({ [`PUT ${path}`]: {} });
    const p = open();
    expect(screen.getByLabelText("Fell out").textContent).toContain(
      "3 more minutes would make room for it. Added back, it takes the place of Show.",
    );
    await p.user.click(screen.getByText("Add it back"));
    expect(to.sent("PUT", path).body).toMatchObject({ edits: [{ id: "Show" }, { id: "Live", dropped: false, kept: true }] });
  });
  it("go back to what fits by itself", async () => {
    const to = server({ [`PUT ${path}`]: {} });
    const p = open();
    await p.user.click(screen.getByText("As it fits by itself"));
    expect(to.sent("PUT", path).body).toEqual({ edits: [], order: [] });
  });
  it("cannot be changed by who may not run the class", () => {
    page(<Segments page={{ ...four, may_run: false }} />);
    expect(screen.queryByText("Change the sheet")).toBeNull();
    expect(screen.queryByText("Add it back")).toBeNull();
  });
});

describe("the sheet", () => {
  const units = [
    { unit: "u1", name: "Hip sweep", area: "Guard", kind: "teach" },
    { unit: "u2", name: "Scissor sweep", area: "Guard", kind: "teach" },
  ] as S["CellItem"][];
  it("chooses what is taught by hand, and goes back to the plan", async () => {
    const to = server({ [`PUT ${at}/choice`]: {} });
    const p = page(<Sheet page={session({ units, from: "hand" })} />);
    await p.user.click(screen.getByText("Choose what to teach"));
    await p.user.selectOptions(screen.getByLabelText("Unit"), "Scissor sweep (Guard)");
    await p.user.click(screen.getByText("Teach it"));
    expect(to.sent("PUT", `${at}/choice`).body).toEqual({ items: [{ unit: "u2", kind: "teach" }] });
    await p.user.click(await screen.findByText("Go back to the plan"));
    expect(to.sent("PUT", `${at}/choice`).body).toEqual({ items: [] });
  });
  it("is read, not changed, by who may not run the class", () => {
    page(<Sheet page={session({ units, may_run: false })} />);
    for (const words of ["Choose what to teach", "On a phone", "Open the clock"]) expect(screen.queryByText(words)).toBeNull();
    expect(screen.getByText("Hips under")).toBeTruthy();
    expect(screen.getByText("Someone can be hurt.")).toBeTruthy();
    expect(screen.getByText("seen 1 of 4")).toBeTruthy();
  });
  it("begins with the last coach's note, and with who catches up", () => {
    const makeups: S["MakeupLine"][] = [
      {
        station: "m",
        name: "Bridge",
        unit: "u",
        minutes: 8,
        coach: "Sol",
        techniques: [],
        people: [
          { id: "ana", name: "Ana", here: true },
          { id: "cy", name: "Cy", here: false },
        ],
      },
    ];
    page(<Sheet page={session({ last_note: "Left side is open.", last_note_by: "Sol", makeups })} />);
    expect(screen.getByText(/Left side is open/)).toBeTruthy();
    expect(screen.getByText("Ana, Cy (not here); 8 minutes, with Sol.")).toBeTruthy();
  });
});

describe("the weeks and the care", () => {
  it("say nothing where there is nothing to say", () => {
    const { container } = page(<SeriesAndCare page={session()} />);
    expect(container.querySelector("section")).toBeNull();
  });
  it("say what came, what is next, who missed it, who has nobody of their size", () => {
    const series = {
      before: [{ session: "a", on: "2026-11-17", summary: "Bridge", reached: "reached in part" }],
      next: [{ session: "b", on: "2026-12-01", summary: "Scissor sweep" }],
      why: ["It stands on the bridge."],
    };
    const care = { missed: [{ id: "cy", name: "Cy", of: "the bridge" }], sizes: [{ id: "bo", name: "Bo" }] };
    page(<SeriesAndCare page={session({ series, care } as Partial<S["SessionPage"]>)} />);
    expect(screen.getByText("· reached in part")).toBeTruthy();
    expect(screen.getByRole("link", { name: "Tue 1 Dec" }).getAttribute("href")).toBe("/mat/b");
    expect(screen.getByText(/has not met the bridge/)).toBeTruthy();
    expect(screen.getByText(/Bo has nobody/)).toBeTruthy();
  });
  it("list the reactions of tonight's table", () => {
    const reactions = [{ table: "t1", name: "Closed guard", calls: [{ situation: "They post", answer: "Sweep" }] }];
    page(<Reactions page={session({ reactions } as Partial<S["SessionPage"]>)} />);
    expect(screen.getByRole("link", { name: "Closed guard" }).getAttribute("href")).toBe("/library/fork-tables/t1");
    expect(screen.getByText("Sweep")).toBeTruthy();
  });
});

describe("a check taken back", () => {
  it("wants a reason, and then goes back to where one came from", async () => {
    let given = false;
    const path = "/api/checks/c1/withdraw";
    const to = server({ [`POST ${path}`]: () => (given ? {} : refuse(422, "Give a reason.", { reason: "say why" })) });
    const p = page(<TakeBack id="c1" back="/ledger/ana" />, { at: "/check", path: "/check" });
    await p.user.click(screen.getByText("Withdraw check"));
    expect(await screen.findByText("say why")).toBeTruthy();
    given = true;
    await p.user.type(screen.getByLabelText("Why it is withdrawn"), "it was Bo");
    await p.user.click(screen.getByText("Withdraw check"));
    await waitFor(() => expect(p.where()).toBe("/ledger/ana"));
    expect(to.sent("POST", path).body).toEqual({ reason: "it was Bo" });
  });
});

describe("the class that is open", () => {
  it("keeps what is being written when the only class of today gets its own address", async () => {
    const open = session();
    vi.stubGlobal("matchMedia", () => ({ matches: false }));
    vi.stubGlobal(
      "EventSource",
      class {
        close() {} // nothing changes
      },
    );
    server({
      "GET /api/week": [{ on: "2026-11-24", today: true, classes: [open.summary] }],
      [`GET ${at}`]: open,
    });
    const p = page(<Mat />, { at: "/mat", path: "/mat/:session?" });
    await p.user.type(await screen.findByLabelText("Name of who came"), "dee");
    await p.router.navigate(`/mat/${open.summary.session}`);
    await waitFor(() => expect(p.where()).toBe(`/mat/${open.summary.session}`));
    const name = screen.getByLabelText<HTMLInputElement>("Name of who came");
    expect(name.value).toBe("dee");
    expect(document.activeElement).toBe(name);
  });
});
