import { act, renderHook, screen } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import type { S } from "../../api/client";
import { page, refuse, server, tidy } from "../../testing";
import { AfterClass } from "./AfterClass";
import { faultsOf, useReport } from "./report";
import { session, technique } from "./session.fixture";

afterEach(tidy);

const fault = (fault: string, seen: number, tries: number) => ({ technique: "Hip sweep", fault, seen, tries });

describe("the faults a report begins with", () => {
  it.each([
    ["nothing counted, nothing kept", [], undefined, []],
    ["what was counted, of everybody here", [{ technique: "Hip sweep", fault: "f1", seen: 1 }], undefined, [fault("f1", 1, 2)]],
    ["more seen than people here: of as many tries", [{ technique: "Hip sweep", fault: "f1", seen: 5 }], undefined, [fault("f1", 5, 5)]],
    [
      "what was kept stays beside it",
      [{ technique: "Hip sweep", fault: "f1", seen: 1 }],
      [fault("f2", 1, 8)],
      [fault("f2", 1, 8), fault("f1", 1, 2)],
    ],
    [
      "what was counted goes before what was kept of it",
      [{ technique: "Hip sweep", fault: "f1", seen: 2 }],
      [fault("f1", 1, 8)],
      [fault("f1", 2, 2)],
    ],
  ])("are %s", (_, tally, kept, faults) => {
    const recorded = kept && ({ lead: "", items: [], faults: kept } as S["AcademyClassReport"]);
    expect(faultsOf(session({ tally, recorded }))).toEqual(faults);
  });
});

describe("a report while it is written", () => {
  const report = (more: Partial<S["SessionPage"]> = {}) => renderHook(() => useReport(session(more))).result;
  it("begins with all reached, by who was to lead, and says nothing of what is empty", () => {
    expect(report().current.words).toEqual({
      items: [{ technique: "Hip sweep", kind: "teach", reached: "all", one_side: false }],
      makeups: undefined,
      note: undefined,
      lead: "sol",
    });
  });
  it("begins with what was kept", () => {
    const kept: S["AcademyClassReport"] = {
      lead: "hana",
      items: [{ technique: "Hip sweep", kind: "teach", reached: "part", point: "k1" }],
      faults: [],
      note: "left side next",
    };
    const r = report({ recorded: kept });
    expect(r.current.words).toMatchObject({ items: kept.items, note: "left side next", lead: "hana" });
  });
  it("forgets the key point when it was not a part after all", () => {
    const r = report();
    act(() => r.current.reach("Hip sweep", "part"));
    act(() => r.current.set("Hip sweep", { point: "k2" }));
    expect(r.current.items[0]).toMatchObject({ reached: "part", point: "k2" });
    act(() => r.current.reach("Hip sweep", "all"));
    expect(r.current.items[0]?.point).toBeUndefined();
  });
  it("has those of a station who came, and leaves out a station nobody came to", () => {
    const makeup = (station: string, here: boolean): S["MakeupLine"] => ({
      station,
      name: station,
      unit: "u",
      minutes: 8,
      people: [
        { id: "ana", name: "Ana", here },
        { id: "cy", name: "Cy", here: false },
      ],
      techniques: [technique("Bridge"), technique("Shrimp")],
    });
    const r = report({ makeups: [makeup("a", true), makeup("b", false)] });
    expect(r.current.makeups).toHaveLength(1);
    expect(r.current.makeups[0]?.people).toEqual(["ana"]);
    act(() => r.current.caughtUp(0, "Shrimp", "not"));
    expect(r.current.words.makeups?.[0]?.items.map((i) => i.reached)).toEqual(["all", "not"]);
  });
});

const path = "/api/classes/tue@2026-11-24/record";

describe("the desk after a class", () => {
  it("sends what was reached, by whom, and the faults that were seen", async () => {
    const to = server({ [`POST ${path}`]: { change: "c" } });
    const p = page(<AfterClass page={session()} />);
    await p.user.click(screen.getByRole("radio", { name: "Part" }));
    await p.user.selectOptions(screen.getByLabelText("As far as, of Hip sweep"), "Turn");
    await p.user.click(screen.getByRole("radio", { name: "Left alone" }));
    await p.user.click(screen.getByLabelText("One more: The elbow leaves"));
    await p.user.selectOptions(screen.getByLabelText("Led by"), "Hana Vell");
    await p.user.type(screen.getByLabelText("Note for the next coach"), "left side");
    await p.user.click(screen.getByText("Save record"));
    expect(to.sent("POST", path).body).toEqual({
      items: [{ technique: "Hip sweep", kind: "teach", reached: "part", one_side: true, side: "left", point: "k2" }],
      faults: [fault("f1", 1, 2)],
      note: "left side",
      lead: "hana",
    });
  });
  it("counts a fault neither under nothing nor over those who are here", async () => {
    const to = server({ [`POST ${path}`]: {} });
    const p = page(<AfterClass page={session()} />);
    const [more, less] = [screen.getByLabelText("One more: The head hangs"), screen.getByLabelText("One less: The head hangs")];
    expect((less as HTMLButtonElement).disabled).toBe(true);
    for (let i = 0; i < 4; i++) await p.user.click(more);
    await p.user.click(screen.getByText("Save record"));
    expect(to.sent("POST", path).body).toMatchObject({ faults: [fault("f2", 2, 2)] });
    await p.user.click(less);
    await p.user.click(less);
    await p.user.click(screen.getByText("Save record"));
    expect(to.sent("POST", path).body).toMatchObject({ faults: [] });
  });
  it("says what the server found wrong and keeps what was written", async () => {
    server({ [`POST ${path}`]: refuse(422, "The record is wrong.", { "items[0].point": "name the key point" }) });
    const p = page(<AfterClass page={session()} />);
    await p.user.type(screen.getByLabelText("Note for the next coach"), "left side");
    await p.user.click(screen.getByText("Save record"));
    expect(await screen.findByText("name the key point")).toBeTruthy();
    expect(screen.getByLabelText<HTMLTextAreaElement>("Note for the next coach").value).toBe("left side");
  });
  it("asks first what the class teaches when nothing is", () => {
    page(<AfterClass page={session({ techniques: [] })} />);
    expect(screen.getByRole("heading", { name: "Nothing to record" })).toBeTruthy();
  });
  it("has a technique without sides ask for none", () => {
    page(<AfterClass page={session({ techniques: [technique("Breakfall", { sided: false })] })} />);
    expect(screen.queryByText("Left alone")).toBeNull();
  });
  it("tells the head instructor, and nobody else, how to repair what was not reached", async () => {
    const unreached = [{ class: "tue", name: "Hip sweep", season: "s1", unit: "u1", week: 4 }];
    const proposal = {
      before: 0.5,
      broken: 0.4,
      after: 0.49,
      anew: 0.495,
      changes: [],
      dropped: [],
      fewest: true,
      summary: "Taught again",
    };
    const to = server({ "POST /api/seasons/s1/repairs/proposals": proposal, "POST /api/seasons/s1/repairs": { change: "c" } });
    const p = page(<AfterClass page={session({ unreached })} />, { may: ["take-repair"] });
    await p.user.click(screen.getByText("Show the repair"));
    expect(await screen.findByText(/No plan within 1% of it changes fewer classes/)).toBeTruthy();
    await p.user.click(screen.getByText("Repair plan"));
    expect(to.sent("POST", "/api/seasons/s1/repairs").body).toEqual({ kind: "not_reached", week: 4, class: "tue", unit: "u1" });
    tidy();
    page(<AfterClass page={session({ unreached })} />);
    expect(screen.queryByText("Show the repair")).toBeNull();
    expect(screen.getByText(/The head instructor is offered/)).toBeTruthy();
  });
});
