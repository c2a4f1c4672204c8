import "fake-indexeddb/auto";
import { screen, waitFor, within } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { S } from "../../api/client";
import { OutboxProvider } from "../../outbox/OutboxProvider";
import { empty, waiting } from "../../outbox/outbox";
import { offline, page, refuse, server, tidy } from "../../testing";
import { attendee, segment, session, technique } from "../mat/session.fixture";
import type { useClock } from "../mat/useClock";
import { CheckForm } from "./CheckForm";
import { IncidentForm } from "./IncidentForm";
import { RunAfter } from "./RunAfter";
import { nextOf, type Picked, RunChecks } from "./RunChecks";
import { RunGroups } from "./RunGroups";
import { RunNow } from "./RunNow";
import { RunPeople } from "./RunPeople";
import { RunTally } from "./RunTally";

beforeEach(empty);
afterEach(tidy);

const at = "/api/classes/tue@2026-11-24";
const phone = (element: ReactNode, may: string[] = []) => page(<OutboxProvider>{element}</OutboxProvider>, { may });

describe("the tally", () => {
  const open = (more: Partial<S["SessionPage"]> = {}) => phone(<RunTally page={session(more)} />);
  it("counts a fault of the group with one tap, up and down", async () => {
    const to = server({ [`POST ${at}/tally`]: {} });
    const p = open({ tally: [{ technique: "Hip sweep", fault: "f1", seen: 2 }] });
    await p.user.click(screen.getByLabelText("One more: The elbow leaves"));
    await waitFor(() => expect(to.sent("POST", `${at}/tally`).body).toMatchObject({ technique: "Hip sweep", fault: "f1", count: 1 }));
    await p.user.click(screen.getByLabelText("One less: The elbow leaves"));
    await waitFor(() => expect(to.sent("POST", `${at}/tally`).body).toMatchObject({ fault: "f1", count: -1 }));
    expect(screen.getByLabelText<HTMLButtonElement>("One less: The head hangs").disabled).toBe(true);
  });
  it("notes it to one person, and then goes back to the group", async () => {
    const to = server({ [`POST ${at}/tally`]: {} });
    const p = open();
    await p.user.selectOptions(screen.getByLabelText("Of whom"), "Bo Marr");
    expect(screen.queryByLabelText("One less: The elbow leaves")).toBeNull(); // nothing is counted of one person
    await p.user.click(screen.getByLabelText("One more: The elbow leaves"));
    await waitFor(() => expect(to.sent("POST", `${at}/tally`).body).toMatchObject({ fault: "f1", student: "bo", count: 0 }));
    await waitFor(() => expect(screen.getByLabelText<HTMLSelectElement>("Of whom").value).toBe(""));
  });
  it("takes a word for one person, and nothing when there is none", async () => {
    const to = server({ [`POST ${at}/tally`]: {} });
    const p = open();
    await p.user.selectOptions(screen.getByLabelText("Of whom"), "Ana Marr");
    await p.user.type(screen.getByLabelText("A correction in words"), "   ");
    await p.user.click(screen.getByText("Note it"));
    expect(to.asked).toEqual([]);
    await p.user.type(screen.getByLabelText("A correction in words"), "grip at the heel ");
    await p.user.click(screen.getByText("Note it"));
    await waitFor(() => expect(to.sent("POST", `${at}/tally`).body).toMatchObject({ student: "ana", words: "grip at the heel", count: 0 }));
  });
  it("is of one technique at a time", async () => {
    const two = [technique("Hip sweep"), technique("Bridge", { faults: [] })];
    const p = open({ techniques: two, told: [{ name: "Ana Marr", summary: "grip at the heel" } as S["Correction"]] });
    expect(screen.getByText("The elbow leaves")).toBeTruthy();
    await p.user.click(screen.getByText("Bridge"));
    expect(screen.queryByText("The elbow leaves")).toBeNull();
    expect(screen.getByText(/grip at the heel/)).toBeTruthy();
  });
  it("has nothing to count where nothing is taught", () => {
    open({ techniques: [] });
    expect(screen.getByText("Nothing is taught in this class yet.")).toBeTruthy();
  });
});

describe("people on a phone", () => {
  it("are checked in and out through the outbox, for a part of it too", async () => {
    const to = server({ [`PUT ${at}/attendance/cy`]: {}, [`PUT ${at}/attendance/ana`]: {}, [`DELETE ${at}/attendance/bo`]: {} });
    const p = phone(<RunPeople page={session()} />);
    await p.user.click(screen.getByLabelText("Check in Cy Marr"));
    await waitFor(() => expect(to.sent("PUT", `${at}/attendance/cy`).query.get("part")).toBeNull());
    await p.user.selectOptions(screen.getByLabelText("How much of the class Ana Marr was in"), "left early");
    await waitFor(() => expect(to.sent("PUT", `${at}/attendance/ana`).query.get("part")).toBe("early"));
    await p.user.click(screen.getByLabelText("Bo Marr is not here"));
    await waitFor(() => expect(to.sent("DELETE", `${at}/attendance/bo`)).toBeTruthy());
  });
  it("show who was found alone while a name is written", async () => {
    const p = phone(<RunPeople page={session()} />);
    await p.user.type(screen.getByLabelText("Name of who came"), "de");
    expect(screen.queryByLabelText("Ana Marr is not here")).toBeNull();
    expect(screen.getAllByRole("button", { name: /^Check in/ }).map((b) => b.getAttribute("aria-label"))).toEqual(["Check in Dee Marr"]);
  });
  it("wait on the device without network", async () => {
    server({ [`PUT ${at}/attendance/cy`]: offline });
    const p = phone(<RunPeople page={session()} />);
    await p.user.click(screen.getByLabelText("Check in Cy Marr"));
    await waitFor(async () => expect((await waiting()).map((e) => e.words)).toEqual(["Cy Marr is here"]));
  });
  it("add a guest", async () => {
    const to = server({ [`POST ${at}/guests`]: {} });
    const p = phone(<RunPeople page={session()} />);
    await p.user.click(screen.getByText(/add a guest/));
    await p.user.type(screen.getByLabelText("Name of the guest"), "Ida");
    await p.user.click(screen.getByText("Add guest"));
    await waitFor(() => expect(to.sent("POST", `${at}/guests`).body).toMatchObject({ name: "Ida", kind: "trial" }));
  });
});

describe("the record on a phone", () => {
  it("goes through the outbox with an identifier, and is said to be kept", async () => {
    const to = server({ [`POST ${at}/record`]: {} });
    const p = phone(<RunAfter page={session({ tally: [{ technique: "Hip sweep", fault: "f1", seen: 1 }] })} />);
    expect(screen.getByText(/1 faults counted tonight/)).toBeTruthy();
    await p.user.click(screen.getByRole("radio", { name: "Not" }));
    await p.user.click(screen.getByText("Save record"));
    await waitFor(() =>
      expect(to.sent("POST", `${at}/record`).body).toMatchObject({
        id: expect.stringMatching(/^[0-9a-f]{24}$/),
        items: [{ technique: "Hip sweep", reached: "not" }],
        faults: [{ fault: "f1", seen: 1, tries: 2 }],
      }),
    );
    expect(await screen.findByText("Save record again")).toBeTruthy();
  });
  it("asks as far as which key point only of a part", async () => {
    const p = phone(<RunAfter page={session()} />);
    expect(screen.queryByLabelText("As far as, of Hip sweep")).toBeNull();
    await p.user.click(screen.getByRole("radio", { name: "Part" }));
    expect(screen.getByLabelText("As far as, of Hip sweep")).toBeTruthy();
  });
});

describe("an incident", () => {
  const open = (may: string[] = ["note-incident"]) => phone(<IncidentForm page={session()} />, may);
  it("is noted with a hold until a clinician has cleared them", async () => {
    const to = server({ [`POST ${at}/incidents`]: {}, "POST /api/people/bo/holds": {} });
    const p = open();
    await p.user.click(screen.getByText("Somebody was hurt, or nearly"));
    const form = within(screen.getByRole("form", { name: "An incident" }));
    expect(form.getByText<HTMLButtonElement>("Save incident").disabled).toBe(true);
    const [who, hold] = form.getAllByRole("combobox") as [HTMLElement, HTMLElement];
    await p.user.selectOptions(who, "Bo Marr");
    await p.user.type(form.getByRole("textbox"), "fell on the shoulder");
    await p.user.selectOptions(hold, "Hold from live rounds until cleared");
    await p.user.click(form.getByText("Save incident"));
    await waitFor(() => expect(to.sent("POST", "/api/people/bo/holds").body).toMatchObject({ all: false, no_live: true, regions: [] }));
    expect(to.sent("POST", `${at}/incidents`).body).toMatchObject({ student: "bo", text: "fell on the shoulder" });
    expect(await screen.findByText(/they are held until a clinician has cleared them/)).toBeTruthy();
  });
  it("holds nobody when that was not wanted", async () => {
    const to = server({ [`POST ${at}/incidents`]: {} });
    const p = open();
    await p.user.click(screen.getByText("Somebody was hurt, or nearly"));
    const form = within(screen.getByRole("form", { name: "An incident" }));
    const [who, hold] = form.getAllByRole("combobox") as [HTMLElement, HTMLElement];
    await p.user.selectOptions(who, "Ana Marr");
    await p.user.type(form.getByRole("textbox"), "a cut lip");
    await p.user.selectOptions(hold, "No hold");
    await p.user.click(form.getByText("Save incident"));
    await waitFor(() => expect(to.sent("POST", `${at}/incidents`)).toBeTruthy());
    expect(to.asked).toHaveLength(1);
  });
  it("is not offered to who may not note one", () => {
    open([]);
    expect(screen.queryByText("Somebody was hurt, or nearly")).toBeNull();
  });
});

const stretch = (id: string, seconds: number, more: Partial<S["MatStretch"]> = {}): S["MatStretch"] => ({
  segment: id,
  summary: id,
  seconds,
  round: 0,
  ...more,
});

const clockOf = (more: Partial<ReturnType<typeof useClock>> = {}) => {
  const turn = vi.fn(async () => undefined);
  const stretches = [stretch("Warm-up", 120), stretch("Drill", 60, { round: 1 }), stretch("Drill", 60, { round: 2 }), stretch("Close", 60)];
  return {
    turn,
    clock: {
      page: { may_run: true, fell_out: ["Live"], begun: true } as S["ClockPage"],
      error: null,
      stretches,
      total: 300,
      passed: 130,
      running: false,
      alone: false,
      turn,
      ...more,
    } as ReturnType<typeof useClock>,
  };
};

describe("now", () => {
  const segments = [segment("Warm-up", 2), segment("Drill", 2, { technique: "Hip sweep", repetitions: 8, sides: 2 }), segment("Close", 1)];
  it("says what is on, how long still, how often, what is next and what fell out", () => {
    const { clock } = clockOf();
    page(<RunNow page={session({ segments })} clock={clock} />);
    expect(screen.getByRole("timer").textContent).toBe("0:50");
    expect(screen.getByText(/8 repetitions each, each side/)).toBeTruthy();
    expect(screen.getByText("Next: Close")).toBeTruthy();
    expect(screen.getByText("Fell out: Live")).toBeTruthy();
  });
  it("turns the clock: start, back, next, more, refit", async () => {
    const { clock, turn } = clockOf();
    const p = page(<RunNow page={session({ segments })} clock={clock} />);
    for (const b of ["Go on", "Back", "Next", "3 minutes more", "Refit the rest"]) await p.user.click(screen.getByText(b));
    expect(turn.mock.calls.map((c) => (c as unknown[])[0])).toEqual([
      { do: "start" },
      { do: "jump", to: 0 },
      { do: "jump", to: 2 },
      { do: "refit", more: 4 },
      { do: "refit" },
    ]);
  });
  it("refits nothing while it runs by itself, and says so", () => {
    const { clock } = clockOf({ alone: true, running: true });
    page(<RunNow page={session({ segments })} clock={clock} />);
    expect(screen.getByText<HTMLButtonElement>("Refit the rest").disabled).toBe(true);
    expect(screen.getByText(/runs by itself/)).toBeTruthy();
    expect(screen.getByText("Stop")).toBeTruthy();
  });
  it("is only looked at by who may not run the class", () => {
    const { clock } = clockOf({ page: { may_run: false, fell_out: [] as string[] } as S["ClockPage"] });
    page(<RunNow page={session({ segments })} clock={clock} />);
    expect(screen.queryByText("Go on")).toBeNull();
  });
  it("says the cautions, and to whom it defers", () => {
    const { clock } = clockOf();
    page(<RunNow page={session({ segments, cautions: ["Tap early."], defers: "A clinician decides." })} clock={clock} />);
    expect(screen.getByText("Tap early.")).toBeTruthy();
    expect(screen.getByText("A clinician decides.")).toBeTruthy();
  });
  it("says what is missing where nothing was chosen", () => {
    const { clock } = clockOf({ stretches: [], total: 0, passed: 0 });
    page(<RunNow page={session()} clock={clock} />);
    expect(screen.getByText(/Nothing is chosen for this class yet/)).toBeTruthy();
  });
});

describe("groups", () => {
  const rounds = [1, 2, 3].map((n) => ({
    again: 0,
    coach: [],
    groups: [
      [
        { id: `a${n}`, name: "Ana" },
        { id: `b${n}`, name: `Bo ${n}` },
      ],
    ],
  }));
  const of = (more: Partial<S["RotationPage"]>) => session({ rotation: { ...session().rotation, rounds, ...more } });
  it("know from the clock which round is on, and keep what was run", async () => {
    const to = server({ [`POST ${at}/rotation`]: {} });
    const { clock } = clockOf({ passed: 190 }); // in round 2
    const p = page(<RunGroups page={of({})} clock={clock} />);
    expect(screen.getByRole("heading", { name: "Round 2 now" })).toBeTruthy();
    await p.user.click(screen.getByText("Pair again"));
    expect(to.sent("POST", `${at}/rotation`).body).toMatchObject({ run: 2, size: 2, odd: "larger" });
  });
  it("change the odd one's place and the size with one tap", async () => {
    const to = server({ [`POST ${at}/rotation`]: {} });
    const { clock } = clockOf({ passed: 0 });
    const p = page(<RunGroups page={of({ rounds: [] })} clock={clock} />);
    await p.user.click(screen.getByText("Odd one: trio"));
    expect(to.sent("POST", `${at}/rotation`).body).toMatchObject({ odd: "coach", run: 0 });
    await p.user.click(screen.getByText("Pairs"));
    expect(to.sent("POST", `${at}/rotation`).body).toMatchObject({ size: 3 });
  });
  it("say why they could not be made", async () => {
    server({ [`POST ${at}/rotation`]: refuse(409, "Nobody is here.") });
    const { clock } = clockOf();
    const p = page(<RunGroups page={of({ stale: true })} clock={clock} />);
    expect(screen.getByText(/Somebody came or left/)).toBeTruthy();
    await p.user.click(screen.getByText("Pair again"));
    expect((await screen.findAllByText("Nobody is here.")).length).toBeGreaterThan(0);
  });
});

const form: S["CheckForm"] = {
  id: "sweep",
  name: "Hip sweep",
  sides: ["right", "left"],
  cautions: ["Let the arm go."],
  points: [
    { id: "k1", cues: ["Grip the right sleeve", "Grip the left sleeve"], gate: true },
    { id: "k2", cues: ["Turn", "Turn"], checkpoint: true },
  ],
};
const person = (id: string, more: Partial<S["CheckPerson"]> = {}): S["CheckPerson"] => ({
  id,
  name: id,
  belt: "white",
  rank: "White",
  choices: [],
  ...more,
});
const suggested = (student: string, more: Partial<S["SuggestedCheck"]> = {}): S["SuggestedCheck"] => ({
  student,
  name: student,
  technique: "sweep",
  label: "Hip sweep",
  coach: "sol",
  coach_name: "Sol",
  sides: ["right", "left"],
  start: 4.5,
  value: 1,
  why: ["due for a refresh"],
  ...more,
});
const checks = (more: Partial<S["ChecksPage"]> = {}): S["ChecksPage"] => ({
  bound: 3,
  value: 2.5,
  proven: false,
  considered: 9,
  minutes: 10,
  can: [
    { id: "sol", name: "Sol" },
    { id: "hana", name: "Hana" },
  ],
  coaches: [{ id: "sol", name: "Sol" }],
  defers: "A clinician decides.",
  standard: "Both gates seen.",
  forms: [form],
  people: [
    person("ana"),
    person("bo"),
    person("cy", { out: "held: knee", choices: [{ technique: "sweep", sides: [], ready: true, summary: "open" }] }),
  ],
  resistance: ["none", "little", "half", "most", "live"],
  suggested: [suggested("ana"), suggested("bo", { sides: ["left"] })],
  ...more,
});

describe("whom to check now", () => {
  it("is a list with its reasons, and how sure it is that no other is worth more", async () => {
    const to = server({ [`GET ${at}/checks`]: checks() });
    phone(<RunChecks page={session()} />);
    expect(await screen.findByText("No choice is worth more than 3.00; this one is worth 2.50.", { exact: false })).toBeTruthy();
    expect(screen.getAllByText("4:30")).toHaveLength(2);
    expect(screen.getByText("Hip sweep, both sides")).toBeTruthy();
    expect(screen.getByText("Hip sweep, left")).toBeTruthy();
    expect([...to.sent("GET", `${at}/checks`).query.keys()]).toEqual([]); // as it is kept on the device
  });
  it("is asked again for other minutes and other coaches", async () => {
    const to = server({ [`GET ${at}/checks`]: checks() });
    const p = phone(<RunChecks page={session()} />);
    await p.user.click(await screen.findByRole("radio", { name: "20 min" }));
    await waitFor(() => expect(to.sent("GET", `${at}/checks`).query.get("minutes")).toBe("20"));
    await p.user.click(screen.getByText("Checked by Sol"));
    await p.user.click(screen.getByLabelText("Hana"));
    await waitFor(() => expect(to.sent("GET", `${at}/checks`).query.getAll("coaches").join()).toBe("sol,hana"));
  });
  it("offers nobody who is kept out", async () => {
    server({ [`GET ${at}/checks`]: checks() });
    phone(<RunChecks page={session()} />);
    expect(await screen.findByText("· held: knee")).toBeTruthy();
    expect(screen.getByRole<HTMLButtonElement>("button", { name: /open/, hidden: true }).disabled).toBe(true);
  });
  it("says that nobody is here, or nobody ready", async () => {
    server({ [`GET ${at}/checks`]: checks({ suggested: [], people: [] }) });
    phone(<RunChecks page={session()} />);
    expect(await screen.findByText("Nobody is here yet.")).toBeTruthy();
  });
  const picked = (student: string): Picked => ({ student: person(student), technique: "sweep", sides: ["right"] });
  it("goes on to the next that was not done", () => {
    expect(nextOf(checks(), [], picked("ana"))?.student.id).toBe("bo");
    expect(nextOf(checks(), ["bo sweep"], picked("ana"))).toBeUndefined();
    expect(nextOf(checks(), [], picked("cy"))?.student.id).toBe("ana");
    expect(nextOf(checks({ people: [] }), [], picked("cy"))).toBeUndefined(); // they went home
  });
});

describe("a check on a phone", () => {
  const kept = (met: boolean): S["Kept"] => ({
    id: "c1",
    mark: { due: false, held: false, rung: "passed", side: "right" },
    verdict: { met, reasons: met ? [] : ["A gate was missing."], rung: met ? "passed" : undefined, score: 1 },
  });
  const open = (sides = ["right", "left"]) => {
    const seen = { back: vi.fn(), kept: vi.fn(), next: vi.fn() };
    const p = phone(
      <CheckForm
        page={checks()}
        session="tue@2026-11-24"
        picked={{ student: person("ana"), technique: "sweep", sides }}
        form={form}
        onBack={seen.back}
        onKept={seen.kept}
        next={{ student: person("bo"), technique: "sweep", sides: ["left"] }}
        onNext={seen.next}
      />,
    );
    return { ...p, seen };
  };
  const bodies = (to: ReturnType<typeof server>) => to.asked.map((a) => a.body as S["KeepCheck"]);
  it("is of both sides in one go, all seen but what was touched", async () => {
    const to = server({ "POST /api/checks": kept(true) });
    const p = open();
    await p.user.click(screen.getByLabelText("missing: key point 2, left"));
    await p.user.click(screen.getByLabelText("prompted: key point 1, right"));
    await p.user.click(screen.getByLabelText("prompted: key point 1, right")); // touched again: seen after all
    await p.user.selectOptions(screen.getByLabelText("Partner"), "bo");
    await p.user.click(screen.getByText("Save check"));
    await waitFor(() => expect(p.seen.kept).toHaveBeenCalledOnce());
    expect(bodies(to).map((b) => [b.side, b.observation.points, b.observation.partner])).toEqual([
      ["right", { k1: "seen", k2: "seen" }, "bo"],
      ["left", { k1: "seen", k2: "missing" }, "bo"],
    ]);
    expect(new Set(bodies(to).map((b) => b.id)).size).toBe(2);
    await p.user.click(screen.getByText("Next: bo"));
    expect(p.seen.next).toHaveBeenCalled();
  });
  it("waits on the device while the server is away, whatever it answers", async () => {
    await empty();
    server({ "POST /api/checks": () => refuse(503, "The database cannot be reached.") });
    const p = open();
    await p.user.click(screen.getByText("Save check"));
    await waitFor(async () => expect(await waiting()).toHaveLength(2));
    expect(p.seen.kept).toHaveBeenCalledOnce();
    await empty();
  });
  it("sends the side that is left when the other one was saved", async () => {
    let held = true;
    const to = server({
      "POST /api/checks": (a: { body: unknown }) =>
        (a.body as S["KeepCheck"]).side === "left" && held ? refuse(422, "They are held.") : kept(true),
    });
    const p = open();
    await p.user.click(screen.getByText("Save check"));
    expect(await screen.findByText(/They are held/)).toBeTruthy();
    held = false;
    await p.user.click(screen.getByText("Save check"));
    await waitFor(() => expect(p.seen.kept).toHaveBeenCalledOnce());
    expect(bodies(to).map((b) => b.side)).toEqual(["right", "left", "left"]);
  });
  it("counts what worked and what did not, when it was live", async () => {
    const to = server({ "POST /api/checks": kept(false) });
    const p = open(["right"]);
    await p.user.click(screen.getByRole("radio", { name: "4" }));
    for (const b of [/^Worked/, /^Worked/, /^Did not/]) await p.user.click(screen.getByRole("button", { name: b }));
    await p.user.click(screen.getByLabelText(/taught it back/));
    await p.user.click(screen.getByText("Save check"));
    expect(await screen.findByText(/not yet\. A gate was missing\./)).toBeTruthy();
    expect(bodies(to)[0]?.observation).toMatchObject({ resistance: 4, tries: 3, successes: 2, taught_back: true });
    expect(screen.getByLabelText("Correct the check, right").getAttribute("href")).toContain("correct=c1");
  });
  it("remembers the partner and the resistance for the next one", async () => {
    server({ "POST /api/checks": kept(true) });
    const p = open();
    await p.user.click(screen.getByRole("radio", { name: "3" }));
    await p.user.selectOptions(screen.getByLabelText("Partner"), "bo");
    await p.user.click(screen.getByText("Save check"));
    await waitFor(() => expect(p.seen.kept).toHaveBeenCalled());
    p.unmount();
    open();
    expect(screen.getByRole("radio", { name: "3" }).getAttribute("aria-checked")).toBe("true");
    expect(screen.getByLabelText<HTMLSelectElement>("Partner").value).toBe("bo");
    expect(within(screen.getByLabelText("Partner")).queryByText("cy")).toBeNull(); // held: nobody's partner
  });
  it("waits on the device without network, both sides", async () => {
    server({ "POST /api/checks": offline });
    const p = open();
    await p.user.click(screen.getByText("Save check"));
    expect(await screen.findAllByText(/judged when there is network/)).toHaveLength(2);
    expect((await waiting()).map((e) => e.words)).toEqual(["Check: ana, Hip sweep, right", "Check: ana, Hip sweep, left"]);
    expect(p.seen.kept).toHaveBeenCalled();
  });
  it("that is refused stays to be mended", async () => {
    server({ "POST /api/checks": refuse(422, "The check is wrong.", { "observation.tries": "count the tries" }) });
    const p = open();
    await p.user.click(screen.getByText("Save check"));
    expect(await screen.findByText("The check is wrong. count the tries")).toBeTruthy();
    expect(p.seen.kept).not.toHaveBeenCalled();
    expect(screen.getByText<HTMLButtonElement>("Save check").disabled).toBe(false);
  });
  it("needs a side", async () => {
    const p = open(["right"]);
    await p.user.click(screen.getByLabelText("right"));
    expect(screen.getByText<HTMLButtonElement>("Save check").disabled).toBe(true);
    await p.user.click(screen.getByLabelText("left"));
    expect(screen.getByText(/Grip the left sleeve/)).toBeTruthy();
  });
});

describe("a guest among those who are here", () => {
  it("is marked, and not checked", () => {
    phone(<RunPeople page={session({ here: [attendee("ida", { guest: "trial" })] })} />, ["keep-check"]);
    expect(screen.getByText("· guest")).toBeTruthy();
    expect(screen.queryByRole("link", { name: "Check" })).toBeNull();
  });
});
