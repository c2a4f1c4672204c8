import { screen, waitFor, within } from "@testing-library/react";
import { useState } from "react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { S } from "../../api/client";
import { page, refuse, server, tidy } from "../../testing";
import Begin from "../begin/Begin";
import { AccountForm } from "./AccountForm";
import { Doors } from "./Doors";
import { GateTable } from "./GateTable";
import { RequiredCells } from "./RequiredCells";
import { SegmentTable } from "./SegmentTable";
import { SettingsForm } from "./SettingsForm";

afterEach(tidy);

const form = (more: Partial<S["SettingsForm"]> = {}): S["SettingsForm"] => ({
  gates: [{ class: "neck", min_age: 16 }],
  live_share: { sweep: 0.5 },
  numbers: { met: 1, share: 0.8 },
  resistance: ["none", "little", "half", "most", "live"],
  second_factor: false,
  sheets: [{ segments: [{ kind: "warm-up", min: 5, want: 10, max: 15, rank: "must" }] }],
  signoffs: ["leg locks"],
  spacing: [2, 6],
  week_start: 1,
  zone: "Europe/Lisbon",
  ...more,
});

const academy = (more: Partial<S["AcademyPage"]> = {}): S["AcademyPage"] =>
  ({
    name: "Lantern Street",
    version: 9,
    form: form(),
    usual_form: form({ numbers: { met: 2, share: 0.7 }, zone: "UTC", signoffs: [] }),
    numbers: [
      { key: "met", name: "Exposures to meet", meaning: "how often it must be seen", default: 2, least: 1, most: 9, step: 1 },
      { key: "share", name: "Gates", unit: "%", meaning: "how many must be seen", default: 0.7, least: 0.5, most: 1, step: 0.05 },
    ],
    risks: [
      { class: "neck", regions: ["neck", "throat"] },
      { class: "twisted leg", regions: ["knee"] },
    ],
    techniques: [
      { id: "guillotine", name: "Front strangle" },
      { id: "ankle", name: "Ankle lock" },
    ],
    tracks: [
      { id: "fund", name: "Fundamentals" },
      { id: "youth", name: "Youth" },
    ],
    segments: [{ kind: "warm-up", name: "Warm-up", unit: "minutes" }],
    families: ["guard", "mount"],
    kinds: ["sweep", "escape"],
    required_cells: [{ family: "mount", kind: "escape", from: 1 }],
    usual: false,
    ...more,
  }) as S["AcademyPage"];

const ladders = [
  {
    id: "adult",
    name: "Adults",
    audience: "adult",
    ranks: [
      { id: "white", name: "White" },
      { id: "blue", name: "Blue" },
    ],
  },
];

describe("settings", () => {
  const open = (more: Record<string, unknown> = {}, onDone = vi.fn()) => {
    const to = server({
      "GET /api/ladders": ladders,
      "POST /api/academy/settings/trial": ["12 checks would be met now"],
      "PUT /api/academy/settings": { change: "c" },
      ...more,
    });
    return { to, onDone, ...page(<SettingsForm page={academy()} onDone={onDone} />) };
  };
  it("show per cent as people write it, and send it as a share", async () => {
    const p = open();
    const share = screen.getByLabelText<HTMLInputElement>("Gates, %");
    expect([share.value, share.min, share.max, share.step]).toEqual(["80", "50", "100", "5"]);
    expect(screen.getByText("how many must be seen. Usually 70")).toBeTruthy();
    await p.user.clear(share);
    await p.user.type(share, "65");
    await p.user.click(screen.getByText("Save settings"));
    expect(p.to.sent("PUT", "/api/academy/settings").body).toMatchObject({ numbers: { met: 1, share: 0.65 } });
    expect(p.to.sent("PUT", "/api/academy/settings").query.get("version")).toBe("9");
    await waitFor(() => expect(p.onDone).toHaveBeenCalled());
  });
  it("say what moves before they are saved, and nothing before they are changed", async () => {
    const p = open();
    expect(screen.getByText<HTMLButtonElement>("Save settings").disabled).toBe(true);
    expect(p.to.asked.some((a) => a.path.endsWith("/trial"))).toBe(false);
    await p.user.click(screen.getByLabelText(/give a code besides their password/));
    expect(await screen.findByText("12 checks would be met now")).toBeTruthy();
  });
  it("say at the field what cannot be, while one still writes", async () => {
    const p = open({ "POST /api/academy/settings/trial": refuse(422, "Wrong.", { zone: "there is no such zone" }) });
    await p.user.type(screen.getByLabelText("Time zone"), "x");
    expect(await screen.findByText("there is no such zone")).toBeTruthy();
  });
  it("go back to the usual values but for what is the academy's own", async () => {
    const p = open();
    await p.user.click(screen.getByText("Usual values"));
    await p.user.click(screen.getByText("Save settings"));
    expect(p.to.sent("PUT", "/api/academy/settings").body).toMatchObject({
      numbers: { met: 2, share: 0.7 },
      zone: "Europe/Lisbon",
      week_start: 1,
      signoffs: ["leg locks"],
    });
  });
  it("read lists as they are written: weeks between commas, a sign-off on each line", async () => {
    const p = open();
    await p.user.clear(screen.getByLabelText("Reviews after weeks"));
    await p.user.type(screen.getByLabelText("Reviews after weeks"), "3; 8 x,");
    await p.user.type(screen.getByLabelText("Sign-offs"), "{enter}  throws ");
    await p.user.click(screen.getByText("Save settings"));
    expect(p.to.sent("PUT", "/api/academy/settings").body).toMatchObject({ spacing: [3, 8], signoffs: ["leg locks", "throws"] });
  });
});

function Gates({ begin }: { begin: S["SafetyGate"][] }) {
  const [gates, set] = useState(begin);
  return (
    <>
      <GateTable page={academy()} gates={gates} onChange={set} wrong={{ "gates[0]": "an escape cannot come later" }} />
      <output>{JSON.stringify(gates)}</output>
    </>
  );
}

describe("gates", () => {
  const said = () => JSON.parse(screen.getAllByRole("status")[0]?.textContent ?? "[]") as S["SafetyGate"][];
  it("are of each kind of load, set there or not, and taken away by wiping the number", async () => {
    server({ "GET /api/ladders": ladders });
    const p = page(<Gates begin={[{ class: "neck", min_age: 16 }]} />);
    await p.user.type(screen.getByLabelText("From age: twisted leg"), "18");
    await p.user.selectOptions(
      await screen.findByLabelText("From rank: neck"),
      await within(screen.getByLabelText("From rank: neck")).findByRole("option", { name: "Blue" }),
    );
    await p.user.clear(screen.getByLabelText("From age: neck"));
    expect(said()).toEqual([
      { class: "neck", min_rank: 1 },
      { class: "twisted leg", min_age: 18 },
    ]);
    expect(screen.getByText("an escape cannot come later", { exact: false })).toBeTruthy();
  });
  it("are of one technique, once, and can be removed", async () => {
    server({ "GET /api/ladders": ladders });
    const p = page(<Gates begin={[]} />);
    const choose = screen.getByLabelText(/A gate for one technique/);
    await p.user.selectOptions(choose, "Ankle lock");
    expect(within(choose).queryByText("Ankle lock")).toBeNull();
    await p.user.click(screen.getByLabelText("Tracks: Ankle lock"));
    await p.user.click(within(screen.getByRole("row", { name: /Ankle lock/ })).getByLabelText("Youth"));
    expect(said()).toEqual([{ technique: "ankle", tracks: ["youth"] }]);
    await p.user.click(within(screen.getByRole("row", { name: /Ankle lock/ })).getByLabelText("Youth"));
    expect(said()[0]?.tracks).toBeUndefined(); // no track chosen is all of them
    await p.user.click(screen.getByText("Remove"));
    expect(said()).toEqual([]);
  });
});

function Segments() {
  const [sheets, set] = useState(form().sheets);
  return (
    <>
      <SegmentTable page={academy()} sheets={sheets} onChange={set} wrong={{}} />
      <output>{JSON.stringify(sheets)}</output>
    </>
  );
}

describe("the segments of a class", () => {
  const said = () => JSON.parse(screen.getAllByRole("status")[0]?.textContent ?? "[]") as S["AcademyTrackSheet"][];
  it("are a track's own once they are changed for it, until they are as for all again", async () => {
    const p = page(<Segments />);
    await p.user.selectOptions(screen.getByLabelText("Segments of which track"), "Youth");
    expect(screen.getByText(/what you change is this track's own/)).toBeTruthy();
    await p.user.selectOptions(screen.getByLabelText("How much it matters: Warm-up"), "should");
    expect(said().map((s) => [s.track ?? "", s.segments[0]?.rank])).toEqual([
      ["", "must"],
      ["youth", "should"],
    ]);
    await p.user.click(screen.getByText("As for all tracks again"));
    expect(said()).toHaveLength(1);
  });
});

describe("cells that may not stay empty", () => {
  it("are changed as a list, or back to the usual ones", async () => {
    const to = server({ "PUT /api/academy/required-cells": { change: "c" } });
    const p = page(<RequiredCells page={academy()} />, { may: ["set-required-cells"] });
    await p.user.click(screen.getByText("Change them"));
    await p.user.click(screen.getByText("Add a cell"));
    await p.user.selectOptions(screen.getAllByLabelText("Ladders")[1] as HTMLElement, "youth");
    await p.user.click(screen.getByText("Save cells"));
    expect(to.sent("PUT", "/api/academy/required-cells").body).toEqual({
      required_cells: [
        { family: "mount", kind: "escape", from: 1 },
        { family: "guard", kind: "sweep", from: 1, audience: "youth" },
      ],
    });
    await p.user.click(await screen.findByText("Change them"));
    await p.user.click(screen.getByText("Back to the usual ones"));
    expect(to.sent("PUT", "/api/academy/required-cells").body).toEqual({});
  });
});

describe("door readers", () => {
  it("get a key that is shown once, and can be ended", async () => {
    const to = server({
      "GET /api/doors": [{ id: "d1", name: "Front", made: "" }],
      "POST /api/doors": { id: "d2", key: "k-123" },
      "DELETE /api/doors/d1": { change: "c" },
    });
    const p = page(<Doors />);
    expect(await screen.findByText("no tap yet")).toBeTruthy();
    await p.user.type(screen.getByLabelText("Name of a door"), "Back");
    await p.user.click(screen.getByText("Make a key"));
    expect(await screen.findByText("k-123")).toBeTruthy();
    expect(screen.getByLabelText<HTMLInputElement>("Name of a door").value).toBe("");
    await p.user.click(screen.getByLabelText("End Front"));
    expect(to.sent("DELETE", "/api/doors/d1")).toBeTruthy();
  });
});

describe("an account", () => {
  const roles = [
    { role: "coach", means: "runs classes" },
    { role: "guardian", means: "sees their child" },
  ];
  const people = [
    { id: "kit", name: "Kit", minor: true, archived: false },
    { id: "sol", name: "Sol", minor: false, archived: false },
    { id: "old", name: "Old", minor: true, archived: true },
  ];
  const lists = { "GET /api/roles": roles, "GET /api/people": people };
  const line = (more: Partial<S["AccountLine"]> = {}): S["AccountLine"] => ({
    id: "a1",
    name: "Sol",
    sign_in: "sol",
    roles: ["coach"],
    factor: true,
    state: "open",
    wards: [],
    ...more,
  });
  it("is invited for a guardian with the children they see, and the address is handed over once", async () => {
    const to = server({ ...lists, "POST /api/accounts": { address: "http://hall/link#abc", until: "2026-11-29T10:00:00Z" } });
    const p = page(<AccountForm onDone={() => undefined} />);
    await p.user.type(screen.getByLabelText("Signs in as"), "ines");
    await p.user.click(await screen.findByLabelText(/guardian/));
    expect(await screen.findByLabelText("Kit")).toBeTruthy();
    expect(screen.queryByLabelText("Old")).toBeNull();
    await p.user.click(screen.getByLabelText("Kit"));
    await p.user.click(screen.getByText("Invite"));
    expect(to.sent("POST", "/api/accounts").body).toEqual({ sign_in: "ines", roles: ["guardian"], wards: ["kit"] });
    expect(await screen.findByText("http://hall/link#abc")).toBeTruthy();
    expect(screen.getByText("Hand this address over.")).toBeTruthy();
    expect(screen.queryByText("Invite")).toBeNull();
  });
  it("sees nobody's page once it is no guardian's any more", async () => {
    const to = server({ ...lists, "PUT /api/accounts/a1": { change: "c" } });
    const p = page(<AccountForm line={line({ roles: ["guardian"], wards: [{ id: "kit", name: "Kit" }] })} onDone={() => undefined} />);
    await p.user.click(await screen.findByLabelText(/guardian/));
    await p.user.click(screen.getByText("Save account"));
    expect(to.sent("PUT", "/api/accounts/a1").body).toEqual({ sign_in: "sol", roles: [], closed: false });
  });
  it.each([
    [{ state: "open" }, "Close account", true],
    [{ state: "closed" }, "Open account again", false],
  ] as const)("is closed and opened: %o", async (more, button, closed) => {
    const to = server({ ...lists, "PUT /api/accounts/a1": {} });
    const p = page(<AccountForm line={line(more)} onDone={() => undefined} />);
    await p.user.click(screen.getByText(button));
    expect(to.sent("PUT", "/api/accounts/a1").body).toMatchObject({ closed });
  });
  it("is signed out everywhere, and loses its second factor", async () => {
    const to = server({ ...lists, "DELETE /api/accounts/a1/sessions": {}, "DELETE /api/accounts/a1/second-factor": {} });
    const p = page(<AccountForm line={line()} onDone={() => undefined} />);
    await p.user.click(screen.getByText("Sign out everywhere"));
    await p.user.click(screen.getByText("Remove second factor"));
    expect(to.asked.filter((a) => a.method === "DELETE")).toHaveLength(2);
  });
  it("says at the field what is wrong", async () => {
    server({ ...lists, "POST /api/accounts": refuse(422, "Wrong.", { roles: "choose at least one", sign_in: "somebody has it" }) });
    const p = page(<AccountForm onDone={() => undefined} />);
    await p.user.click(screen.getByText("Invite"));
    expect(await screen.findAllByText("choose at least one", { exact: false })).toHaveLength(2);
    expect(screen.getAllByText("somebody has it", { exact: false })).toHaveLength(2);
  });
});

describe("the beginning of an academy", () => {
  const step = (id: S["BeginStep"]["id"], done: boolean, more: Partial<S["BeginStep"]> = {}): S["BeginStep"] =>
    ({ id, name: id, done, has: "nothing yet", missing: "needed", skips: false, ...more }) as S["BeginStep"];
  const begin = (more: Partial<S["BeginPage"]> = {}): S["BeginPage"] =>
    ({
      steps: [step("library", false), step("ladders", false), step("attendance", false, { skips: true }), step("season", false)],
      families: [
        { family: "guard", techniques: 40, here: 0 },
        { family: "mount", techniques: 20, here: 20 },
      ],
      ladders: [
        { id: "adult", name: "Adults" },
        { id: "youth", name: "Youth" },
      ],
      curricula: [],
      made: [],
      tracks: [],
      units: 0,
      warnings: [],
      planned: false,
      ...more,
    }) as S["BeginPage"];
  it("opens at the first step that is still to do, and takes the families one teaches", async () => {
    const to = server({ "GET /api/begin": begin(), "POST /api/begin/library": { change: "c" } });
    const p = page(<Begin />);
    await p.user.click(await screen.findByLabelText(/mount 20, 20 here/));
    await p.user.click(screen.getByText("Use these families"));
    expect(to.sent("POST", "/api/begin/library").body).toEqual({ families: ["guard"] });
  });
  it("brings nothing twice: with all of it here there is nothing to take", async () => {
    server({ "GET /api/begin": begin({ families: [{ family: "mount", techniques: 20, here: 20 }] }) });
    page(<Begin />);
    expect((await screen.findByText<HTMLButtonElement>("Use the whole starter library")).disabled).toBe(true);
  });
  it("goes on from what may be skipped", async () => {
    server({
      "GET /api/begin": begin({ steps: [step("library", true), step("attendance", false, { skips: true }), step("season", false)] }),
    });
    const p = page(<Begin />);
    expect(await screen.findByRole("heading", { name: "Plan the first season" })).toBeTruthy(); // what skips is not waited for
    await p.user.click(screen.getByRole("button", { name: /: attendance/ }));
    await p.user.click(screen.getByText("Go on"));
    expect(screen.getByRole("heading", { name: "Plan the first season" })).toBeTruthy();
  });
  it("says what is still missing before a season is planned", async () => {
    server({ "GET /api/begin": begin() });
    const p = page(<Begin />);
    await p.user.click(await screen.findByRole("button", { name: /: season/ }));
    expect(screen.getByText("library, ladders.")).toBeTruthy();
  });
  it("plans the first season and opens it, also one that was begun", async () => {
    const to = server({
      "GET /api/begin": begin({ steps: [step("season", false)] }),
      "POST /api/seasons": { id: "s1" },
      "POST /api/seasons/s1/plan": { change: "c" },
    });
    const p = page(<Begin />, { at: "/begin", path: "/begin" });
    await p.user.click(await screen.findByRole("button", { name: "Plan the first season" }));
    await waitFor(() => expect(p.where()).toBe("/season/s1"));
    expect(to.sent("POST", "/api/seasons").body).toMatchObject({ name: "First season", weeks: 6, closures: [] });
    tidy();
    const again = server({ "GET /api/begin": begin({ steps: [step("season", false)], season: "s7" }), "POST /api/seasons/s7/plan": {} });
    const q = page(<Begin />, { at: "/begin", path: "/begin" });
    await q.user.click(await screen.findByRole("button", { name: "Plan the first season" }));
    await waitFor(() => expect(q.where()).toBe("/season/s7"));
    expect(again.asked.some((a) => a.path === "/api/seasons")).toBe(false);
  });
});
