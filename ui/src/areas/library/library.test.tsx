import { screen, waitFor, within } from "@testing-library/react";
import { useState } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { S } from "../../api/client";
import { fileOf, page, refuse, server, tidy } from "../../testing";
import { ChainFinder } from "./ChainFinder";
import { DrillRows } from "./DrillRows";
import Files from "./Files";
import { History } from "./History";
import { KeyPointRows } from "./KeyPointRows";
import { LayerRows } from "./LayerRows";
import { PickPlace, PickTechnique } from "./Pick";
import { Quiz } from "./Quiz";
import { TableEditor } from "./TableEditor";
import type { Draft } from "./TechniqueEditor";
import Variants from "./Variants";
import { placeWords } from "./words";

beforeEach(() => {
  Element.prototype.scrollIntoView = () => undefined;
});
afterEach(tidy);

const technique = (id: string, more: Partial<S["TechniqueLine"]> = {}): S["TechniqueLine"] =>
  ({
    id,
    name: id,
    kind: "sweep",
    context: "both",
    family: "guard",
    gates: 1,
    points: 5,
    risky: false,
    from_at: "closed-guard/attack",
    ...more,
  }) as S["TechniqueLine"];
const position = (id: string, family: string): S["PositionLine"] => ({
  id,
  name: id,
  family,
  attack: 1,
  attacker: "top",
  defend: 1,
  defender: "bottom",
  into: 1,
  version: 1,
});
const positions = [position("closed-guard", "guard"), position("mount", "mount"), position("open-guard", "guard")];
const lists = {
  "GET /api/techniques": [technique("hip-sweep"), technique("arm-lock"), technique("bridge", { from_at: "mount/defend" })],
  "GET /api/positions": positions,
};

describe("choosing", () => {
  it("a technique that is not there any more keeps what was written", () => {
    page(<PickTechnique label="Technique" value="gone" all={[technique("hip-sweep")]} onChange={() => undefined} />);
    expect(screen.getByLabelText<HTMLSelectElement>("Technique").value).toBe("gone");
  });
  it("a place chooses the attacker first, by family, and lets go of the part with the place", async () => {
    const put = vi.fn();
    const p = page(<PickPlace label="From" positions={positions} onChange={put} none="nowhere" />);
    expect(screen.getByLabelText<HTMLSelectElement>("From: part").disabled).toBe(true);
    expect(screen.getAllByRole("group").map((g) => g.getAttribute("label"))).toEqual(["guard", "mount"]);
    await p.user.selectOptions(screen.getByLabelText("From"), "mount");
    expect(put).toHaveBeenLastCalledWith({ position: "mount", part: "attack" });
    p.unmount();
    page(<PickPlace label="From" positions={positions} onChange={put} none="nowhere" value={{ position: "mount", part: "defend" }} />);
    await p.user.selectOptions(screen.getByLabelText("From"), "open-guard");
    expect(put).toHaveBeenLastCalledWith({ position: "open-guard", part: "defend" });
    await p.user.selectOptions(screen.getByLabelText("From"), "nowhere");
    expect(put).toHaveBeenLastCalledWith(undefined);
  });
  it.each([
    [undefined, "finish"],
    [{ position: "mount", part: "defend" }, "Mount, defending"],
    [{ position: "unknown", part: "attack" }, "unknown, attacking"],
  ] as const)("says a place in words: %o", (place, words) => expect(placeWords(place, { mount: "Mount" })).toBe(words));
});

const table = (more: Partial<S["LibraryForkTable"]> = {}): S["LibraryForkTable"] => ({
  id: "t1",
  name: "Closed guard",
  at: { position: "closed-guard", part: "attack" },
  cues: [
    { id: "posture", values: ["low", "high"] },
    { id: "hand", values: ["in", "out"] },
  ],
  rows: [
    { id: "r1", priority: 1, then: "hip-sweep", when: { posture: ["low"] } },
    { id: "r2", priority: 2, then: "arm-lock", when: { hand: ["in"] } },
  ],
  ...more,
});
const findings = (more: Partial<S["TableFindings"]> = {}): S["TableFindings"] => ({
  answered: 3,
  contradicted: 0,
  contradiction_count: 0,
  contradictions: [],
  redundant: [],
  situations: 4,
  uncovered: [],
  uncovered_count: 0,
  unreachable: [],
  ...more,
});
const verdict = (f: Partial<S["TableFindings"]> = {}, more: Partial<S["TableVerdict"]> = {}): S["TableVerdict"] => ({
  findings: findings(f),
  minimal: [],
  minimal_exact: true,
  names: {},
  problems: [],
  smaller: false,
  ...more,
});
const tablePage = (v: S["TableVerdict"] = verdict(), more: Partial<S["LibraryForkTable"]> = {}): S["TablePage"] => ({
  answers: [],
  position: "Closed guard",
  table: table(more),
  verdict: v,
  version: 5,
});

function Colleague() {
  const [shown, show] = useState(tablePage());
  return (
    <>
      <button type="button" onClick={() => show({ ...tablePage(verdict(), { name: "Their name" }), version: 6 })}>
        A colleague saves
      </button>
      <TableEditor page={shown} onDone={() => undefined} />
    </>
  );
}

describe("a fork table", () => {
  const may = ["save-fork-table", "judge-fork-table", "delete-record"];
  const open = (v: S["TableVerdict"] = verdict(), more: Partial<S["LibraryForkTable"]> = {}) => {
    const to = server({
      ...lists,
      "POST /api/fork-tables/verdict": v,
      "PUT /api/fork-tables": { id: "t1", change: "c" },
      "DELETE /api/records/fork table/t1": { change: "c" },
    });
    return { to, ...page(<TableEditor page={tablePage(v, more)} onDone={() => undefined} />, { may }) };
  };
  const saved = (to: ReturnType<typeof server>) => to.sent("PUT", "/api/fork-tables").body as S["LibraryForkTable"];
  it("takes a row's value in and out; all of them and none of them are any", async () => {
    const p = open();
    await p.user.click(screen.getByLabelText("r1: hand in"));
    await p.user.click(screen.getByLabelText("r2: hand out")); // now both: any
    await p.user.click(screen.getByText("Save table"));
    expect(saved(p.to).rows.map((r) => r.when)).toEqual([{ posture: ["low"], hand: ["in"] }, {}]);
    expect(p.to.sent("PUT", "/api/fork-tables").query.get("version")).toBe("5");
  });
  it("renames a cue and its values in every row", async () => {
    const p = open();
    await p.user.type(screen.getByLabelText("Cue posture"), "!");
    await p.user.clear(screen.getByLabelText("Values of posture!"));
    await p.user.type(screen.getByLabelText("Values of posture!"), "down, up");
    await p.user.click(screen.getByText("Save table"));
    expect(saved(p.to).cues[0]).toEqual({ id: "posture!", values: ["down", "up"] });
    expect(saved(p.to).rows[0]?.when).not.toHaveProperty("posture");
  });
  it("forgets a cue that is removed in every row", async () => {
    const p = open();
    await p.user.click(screen.getByLabelText("Remove cue hand"));
    await p.user.click(screen.getByText("Save table"));
    expect(saved(p.to).rows.map((r) => r.when)).toEqual([{ posture: ["low"] }, {}]);
  });
  it("adds a row under a number nobody has, with an answer still to be chosen", async () => {
    const p = open(verdict(), { rows: [{ id: "r2", priority: 1, then: "arm-lock", when: {} }] });
    await p.user.click(screen.getByText("Add a row"));
    expect(screen.getByLabelText<HTMLSelectElement>("Answer of r3").value).toBe("");
    await p.user.selectOptions(screen.getByLabelText("Answer of r3"), "hip-sweep");
    await p.user.click(screen.getByText("Save table"));
    expect(saved(p.to).rows.map((r) => [r.id, r.then])).toEqual([
      ["r2", "arm-lock"],
      ["r3", "hip-sweep"],
    ]);
  });
  it("offers what starts here before the rest", async () => {
    open();
    const answers = await screen.findByLabelText("Answer of r1");
    await waitFor(() =>
      expect(
        within(answers)
          .getAllByRole("group")
          .map((g) => [...g.children].map((o) => o.textContent)),
      ).toEqual([["hip-sweep", "arm-lock"], ["bridge"]]),
    );
  });
  it("fills a hole, drops what could go, takes the smaller table", async () => {
    const minimal = [{ id: "m1", priority: 1, then: "hip-sweep", when: {} }];
    const p = open(
      verdict(
        {
          uncovered: [
            [
              { cue: "posture", values: ["high"] },
              { cue: "hand", values: ["out"] },
            ],
          ],
          uncovered_count: 1,
          redundant: ["r2"],
        },
        { smaller: true, minimal },
      ),
    );
    expect(await screen.findByText("posture high, hand out")).toBeTruthy();
    await p.user.click(screen.getByText("Add a row for it"));
    expect(screen.getByLabelText("r3: posture high").getAttribute("aria-pressed")).toBe("true");
    await p.user.click(screen.getByText("Remove row"));
    expect(screen.queryByLabelText("Answer of r2")).toBeNull();
    await p.user.click(screen.getByText("Use the smaller table"));
    await p.user.click(screen.getByText("Save table"));
    expect(saved(p.to).rows).toEqual(minimal);
  });
  it("marks rows that contradict, never apply, or could go", async () => {
    open(
      verdict({
        contradictions: [{ pattern: [], rows: ["r1", "r2"] } as unknown as S["Contradiction"]],
        contradiction_count: 1,
        contradicted: 1,
      }),
    );
    expect(await screen.findAllByText("contradicts")).toHaveLength(2);
    expect(screen.getByText("every situation")).toBeTruthy();
  });
  it("keeps what is written when somebody else changed it, says so, and shows theirs on Cancel", async () => {
    server({ ...lists, "POST /api/fork-tables/verdict": verdict() });
    const p = page(<Colleague />, { may });
    await p.user.click(screen.getByLabelText("r1: hand in"));
    await p.user.click(screen.getByText("A colleague saves"));
    expect(screen.getByText(/Somebody else changed this table meanwhile/)).toBeTruthy();
    expect(screen.getByLabelText("r1: hand in").getAttribute("aria-pressed")).toBe("true");
    await p.user.click(screen.getByText("Cancel"));
    expect(screen.getByLabelText<HTMLInputElement>("Name").value).toBe("Their name");
    expect(screen.getByLabelText("r1: hand in").getAttribute("aria-pressed")).toBe("false");
    expect(screen.queryByText("not saved yet")).toBeNull();
  });
  it("takes theirs over by itself where nothing was written", async () => {
    server({ ...lists, "POST /api/fork-tables/verdict": verdict() });
    const p = page(<Colleague />, { may });
    await p.user.click(screen.getByText("A colleague saves"));
    expect(screen.getByLabelText<HTMLInputElement>("Name").value).toBe("Their name");
    expect(screen.queryByText(/Somebody else changed this table/)).toBeNull();
  });
  it("is read by who may not write it", () => {
    server(lists);
    page(<TableEditor page={tablePage()} onDone={() => undefined} />);
    expect(screen.queryByText("Save table")).toBeNull();
    expect(screen.getByText("low")).toBeTruthy();
    expect(screen.getAllByText("any")).toHaveLength(2);
  });
});

const words: S["Words"] = {
  contexts: [],
  defences: ["none", "light", "full"],
  defers: "",
  depths: [],
  facings: [],
  families: [],
  forms: ["set-up repetitions", "flow"],
  kinds: [],
  measures: ["angle"],
  media: [],
  paces: ["slow", "fast"],
  resistance: ["none", "little"],
  risks: [],
  sections: [],
};

function Editor({ begin, part }: { begin: Draft; part: "points" | "drills" | "layers" }) {
  const [t, set] = useState(begin);
  const props = { t, put: (x: Partial<Draft>) => set({ ...t, ...x }), wrong: { "key_points[0].cue": "say it in a few words" }, words };
  return (
    <>
      {part === "points" && <KeyPointRows {...props} positions={positions} />}
      {part === "drills" && <DrillRows {...props} />}
      {part === "layers" && <LayerRows {...props} />}
      <output>{JSON.stringify(t)}</output>
    </>
  );
}

describe("writing a technique", () => {
  const said = () => JSON.parse(screen.getAllByRole("status")[0]?.textContent ?? "{}") as Draft;
  it("leaves out what is empty: a tick taken off, a detail wiped, the last fault removed", async () => {
    const begin = {
      key_points: [{ id: "k1", cue: "Grip", gate: true, detail: "x", faults: [{ id: "f1", what: "", consequence: "", correction: "" }] }],
    } as unknown as Draft;
    const p = page(<Editor begin={begin} part="points" />);
    await p.user.click(screen.getByLabelText("Gate"));
    await p.user.clear(screen.getByLabelText("Detail"));
    await p.user.click(screen.getByLabelText("Remove: Faults at 1 1"));
    expect(said().key_points).toEqual([{ id: "k1", cue: "Grip" }]);
    expect(screen.getByText("say it in a few words")).toBeTruthy();
  });
  it("measures a key point: of what first, then how much", async () => {
    const p = page(<Editor begin={{ key_points: [{ id: "k1", cue: "Turn" }] } as unknown as Draft} part="points" />);
    expect(screen.queryByLabelText("How much")).toBeNull();
    await p.user.selectOptions(screen.getByLabelText("Measure"), "angle");
    await p.user.type(screen.getByLabelText("How much"), "45°");
    expect(said().key_points?.[0]?.measure).toEqual({ of: "angle", value: "45°" });
    await p.user.selectOptions(screen.getByLabelText("Measure"), "none");
    expect(said().key_points?.[0]?.measure).toBeUndefined();
  });
  it("gives a fault where it leads, and whether someone can be hurt", async () => {
    const p = page(<Editor begin={{ key_points: [{ id: "k1", cue: "Turn" }] } as unknown as Draft} part="points" />);
    await p.user.click(screen.getByText("Add a fault at key point 1"));
    await p.user.type(screen.getByLabelText("What goes wrong"), "Too slow");
    await p.user.selectOptions(screen.getByLabelText("You end up in"), "mount");
    await p.user.selectOptions(screen.getByLabelText("You end up in: part"), "defender");
    await p.user.click(screen.getByLabelText("Someone can be hurt"));
    expect(said().key_points?.[0]?.faults?.[0]).toMatchObject({
      what: "Too slow",
      leads_to: { position: "mount", part: "defend" },
      danger: true,
    });
  });
  it("begins each layer against one defence more", async () => {
    const p = page(<Editor begin={{} as Draft} part="layers" />);
    for (let i = 0; i < 4; i++) await p.user.click(screen.getByText("Add a layer"));
    expect(said().layers?.map((y) => y.defence)).toEqual(["none", "light", "full", "none"]);
  });
  it("has drills with form, pace and resistance from the server's lists", async () => {
    const p = page(<Editor begin={{} as Draft} part="drills" />);
    await p.user.click(screen.getByText("Add a drill"));
    await p.user.selectOptions(screen.getByLabelText("Form"), "flow");
    await p.user.selectOptions(screen.getByLabelText("Resistance"), "0 · none");
    await p.user.type(screen.getByLabelText("Who wins by what"), "x");
    await p.user.clear(screen.getByLabelText("Who wins by what"));
    expect(said().drills?.[0]).toMatchObject({ form: "flow", pace: "slow", resistance: 0 });
    expect(said().drills?.[0]?.wins).toBeUndefined();
  });
});

describe("variants side by side", () => {
  const set = (more: Partial<S["SetPage"]> = {}): S["SetPage"] => ({
    id: "v1",
    name: "Sweeps",
    question: "Which first?",
    version: 2,
    names: { "hip-sweep": "Hip sweep", "arm-lock": "Arm lock" },
    house: "hip-sweep",
    reason: "It teaches the hips.",
    choices: [{ name: "hand", options: ["high", "low"] }],
    grid: { rows: ["high", "low"], columns: [""], empty: 1, cells: [[["hip-sweep"]], [[]]] },
    variants: [
      { technique: "hip-sweep", gains: "balance", costs: "time", at: ["high"] },
      { technique: "arm-lock", gains: "finish", costs: "risk", at: ["low"] },
    ],
    ...more,
  });
  it("are laid out as a grid, its empty cells said", async () => {
    server({ ...lists, "GET /api/variant-sets": [set()] });
    page(<Variants />);
    const grid = within(await screen.findByRole("table", { name: "Sweeps, laid out" }));
    expect(grid.getByText("Hip sweep")).toBeTruthy();
    expect(grid.getByText("nobody has written one")).toBeTruthy();
    expect(screen.getByText("It teaches the hips.")).toBeTruthy();
  });
  it("keep each variant's options when a choice is added or taken away", async () => {
    const to = server({ ...lists, "GET /api/variant-sets": [set()], "PUT /api/variant-sets": { id: "v1", change: "c" } });
    const p = page(<Variants />, { may: ["save-variant-set"] });
    await p.user.click(await screen.findByLabelText("Change Sweeps"));
    await p.user.click(screen.getByText("Add a choice: lay them out as a grid"));
    const [, options] = screen.getAllByLabelText("Options");
    await p.user.type(options as HTMLElement, "inside; outside;");
    await p.user.click(screen.getByText("Save variants"));
    const sent = () => to.sent("PUT", "/api/variant-sets");
    expect(sent().query.get("version")).toBe("2");
    expect((sent().body as S["LibraryVariantSet"]).choices?.[1]?.options).toEqual(["inside", "outside"]);
    expect((sent().body as S["LibraryVariantSet"]).variants.map((v) => v.at)).toEqual([
      ["high", ""],
      ["low", ""],
    ]);
  });
  it("have no options once there is no choice", async () => {
    const to = server({ ...lists, "GET /api/variant-sets": [set()], "PUT /api/variant-sets": {} });
    const p = page(<Variants />, { may: ["save-variant-set"] });
    await p.user.click(await screen.findByLabelText("Change Sweeps"));
    await p.user.click(screen.getByLabelText("Remove: Choices between them 1"));
    await p.user.click(screen.getByText("Save variants"));
    const body = to.sent("PUT", "/api/variant-sets").body as S["LibraryVariantSet"];
    expect(body).not.toHaveProperty("choices");
    expect(body.variants.every((v) => v.at === undefined)).toBe(true);
  });
  it("say what is wrong at the variant it is of", async () => {
    server({
      ...lists,
      "GET /api/variant-sets": [],
      "PUT /api/variant-sets": refuse(422, "Wrong.", { "variants[0].technique": "choose one", name: "name it" }),
    });
    const p = page(<Variants />, { may: ["save-variant-set"] });
    await p.user.click(await screen.findByText("New set of variants"));
    await p.user.click(screen.getByText("Add a variant"));
    expect(screen.getByLabelText<HTMLInputElement>("House choice").disabled).toBe(true);
    await p.user.click(screen.getByText("Save variants"));
    expect(await screen.findAllByText(/choose one/)).toHaveLength(2);
  });
});

describe("the chain finder", () => {
  const chain: S["ChainPage"] = {
    found: true,
    minutes: 12,
    reached: [],
    summary: "Two steps, 12 minutes.",
    steps: [
      {
        technique: "hip-sweep",
        name: "Hip sweep",
        from: "Closed guard",
        to: "Mount",
        from_id: "closed-guard",
        to_id: "mount",
        minutes: 6,
        side: "right",
      },
      { technique: "arm-lock", name: "Arm lock", from: "Mount", to: "finish", from_id: "mount", to_id: "", minutes: 6 },
    ] as S["ChainStep"][],
  };
  it("asks from where one stands, and shows the places on the map", async () => {
    const to = server({ ...lists, "GET /api/map/chain": chain });
    const shown = vi.fn();
    const p = page(<ChainFinder filter={{} as never} start="closed-guard" onChain={shown} />);
    await p.user.click(screen.getByText("Find it"));
    expect(await screen.findByText("Two steps, 12 minutes.")).toBeTruthy();
    expect(Object.fromEntries(to.sent("GET", "/api/map/chain").query)).toMatchObject({
      from: "closed-guard/attack",
      to: "finish",
      by: "steps",
    });
    expect(shown).toHaveBeenLastCalledWith(["closed-guard", "mount"]);
    expect(screen.getByRole("link", { name: "Hip sweep" }).getAttribute("href")).toBe("/library/hip-sweep?side=right");
  });
  it("goes round what is to be avoided, and turns the chain", async () => {
    const to = server({ ...lists, "GET /api/map/chain": chain });
    const p = page(<ChainFinder filter={{} as never} start="closed-guard" onChain={() => undefined} />);
    await p.user.click(screen.getByText("Find it"));
    await p.user.click(await screen.findByLabelText("Avoid Hip sweep"));
    await waitFor(() => expect(to.sent("GET", "/api/map/chain").query.getAll("avoid").join()).toBe("hip-sweep"));
    await p.user.click(screen.getByRole("radio", { name: "Other side" }));
    await waitFor(() => expect(to.sent("GET", "/api/map/chain").query.get("turned")).toBe("true"));
    await p.user.click(screen.getByText("Hip sweep ✕"));
    expect(screen.queryByText("Hip sweep ✕")).toBeNull();
  });
  it("says where one gets to when there is none", async () => {
    server({
      ...lists,
      "GET /api/map/chain": { ...chain, found: false, steps: [], summary: "There is no way.", reached: ["Mount", "Side"] },
    });
    const shown = vi.fn();
    const p = page(<ChainFinder filter={{} as never} start="closed-guard" onChain={shown} />);
    await p.user.click(screen.getByText("Find it"));
    expect(await screen.findByText("From there one gets to: Mount; Side.")).toBeTruthy();
    expect(shown).toHaveBeenLastCalledWith([]);
  });
  it("cannot be asked from nowhere", () => {
    server(lists);
    page(<ChainFinder filter={{} as never} start="" onChain={() => undefined} />);
    expect(screen.getByText<HTMLButtonElement>("Find it").disabled).toBe(true);
  });
});

describe("the quiz", () => {
  const question: S["QuizQuestion"] = {
    asked: 4,
    correct: 3,
    seconds: 2.4,
    boxes: [2, 1, 0, 0, 0],
    choices: [
      { id: "hip-sweep", name: "Hip sweep" },
      { id: "arm-lock", name: "Arm lock" },
    ],
    name: "Closed guard",
    part: "attack",
    position: "Closed guard",
    row: "r1",
    scheme: "Five boxes.",
    situation: [{ cue: "posture", value: "low" }],
    table: "t1",
  };
  const right: S["QuizVerdict"] = { answer: { id: "arm-lock", name: "Arm lock" }, box: 2, given: "Arm lock", right: true, row: "r1" };
  it("is answered with a key, timed, and goes on with Enter to another row", async () => {
    const to = server({ "GET /api/fork-tables/t1/quiz": question, "POST /api/fork-tables/t1/quiz": right });
    const p = page(<Quiz table="t1" />);
    await screen.findByText("low");
    await p.user.keyboard("b");
    expect(await screen.findByText("Right.")).toBeTruthy();
    const sent = to.sent("POST", "/api/fork-tables/t1/quiz").body as { answer: string; ms: number };
    expect(sent.answer).toBe("arm-lock");
    expect(sent.ms).toBeGreaterThanOrEqual(0);
    await p.user.keyboard("{Enter}");
    await waitFor(() => expect(to.sent("GET", "/api/fork-tables/t1/quiz").query.get("last")).toBe("r1"));
    expect(await screen.findByRole("group", { name: "Answers" })).toBeTruthy();
  });
  it("takes an answer in one's own words", async () => {
    const to = server({
      "GET /api/fork-tables/t1/quiz": question,
      "POST /api/fork-tables/t1/quiz": { ...right, right: false, given: "the pull" },
    });
    const p = page(<Quiz table="t1" />);
    await p.user.click(await screen.findByLabelText("Answer in my own words"));
    await p.user.type(screen.getByLabelText("Your answer"), "the pull{Enter}");
    expect(await screen.findByText(/you said the pull/)).toBeTruthy();
    expect(to.sent("POST", "/api/fork-tables/t1/quiz").body).toMatchObject({ answer: "the pull", free: true });
  });
  it("says when a table has nothing to ask", async () => {
    server({ "GET /api/fork-tables/t1/quiz": refuse(409, "The table has no rows.") });
    page(<Quiz table="t1" />);
    expect(await screen.findByText("The table has no rows.")).toBeTruthy();
  });
});

describe("the history of a record", () => {
  const states = [
    { edit: "e2", at: "2026-11-20T10:00:00Z", by: "Hana", summary: "Changed the cue", current: true, gone: false },
    { edit: "e1", at: "2026-11-01T10:00:00Z", by: "Sol", summary: "Added", current: false, gone: false },
  ];
  const path = "/api/records/technique/sweep/history";
  it("is read state by state and restored, never what it is now", async () => {
    const to = server({
      [`GET ${path}`]: states,
      [`GET ${path}/e1`]: {
        current: false,
        gone: false,
        lines: [
          { in: "then", text: "old cue" },
          { in: "now", text: "new cue" },
          { in: "both", text: "name" },
        ],
      },
      [`GET ${path}/e2`]: { current: true, gone: false, lines: [] },
      [`POST ${path}/e1/restore`]: { change: "c" },
    });
    const p = page(<History kind="technique" id="sweep" onClose={() => undefined} />, { may: ["restore-record"] });
    const [now, then] = await screen.findAllByText("Read");
    await p.user.click(then as HTMLElement);
    expect(await screen.findByText("only in that state:", { exact: false })).toBeTruthy();
    await p.user.click(screen.getByText("Restore this state"));
    expect(to.sent("POST", `${path}/e1/restore`)).toBeTruthy();
    await waitFor(() => expect(screen.queryByText("Restore this state")).toBeNull());
    await p.user.click(now as HTMLElement);
    await waitFor(() => expect(to.sent("GET", `${path}/e2`)).toBeTruthy());
    expect(screen.queryByText("Restore this state")).toBeNull();
  });
});

describe("records from files", () => {
  const row = (item: string, more: Partial<S["ImportRow"]> = {}): S["ImportRow"] => ({
    item,
    id: item,
    name: item,
    file: `${item}.md`,
    kind: "technique",
    what: "new",
    open: false,
    summary: "is added",
    changes: [],
    duplicates: [],
    warnings: [],
    wrong: [],
    ...more,
  });
  const preview = (more: Partial<S["ImportPreview"]> = {}): S["ImportPreview"] => ({
    ready: true,
    summary: "2 records",
    problems: [],
    rows: [row("sweep"), row("lock", { what: "same", summary: "is as it was" })],
    ...more,
  });
  const may = ["preview-import", "import-library"];
  it("are looked through first, and written when it is said so", async () => {
    const to = server({ "POST /api/library/imports/preview": preview(), "POST /api/library/imports": { change: "c" } });
    const p = page(<Files />, { may });
    await p.user.upload(screen.getByLabelText("Choose files"), [fileOf("a.md", "---\n"), fileOf("b.md", "x")]);
    expect(await screen.findByText("2 records")).toBeTruthy();
    expect((to.sent("POST", "/api/library/imports/preview").body as S["LibraryImport"]).files.map((f) => [f.name, atob(f.text)])).toEqual([
      ["a.md", "---\n"],
      ["b.md", "x"],
    ]);
    expect(screen.queryByLabelText("Leave out lock")).toBeNull();
    await p.user.click(screen.getByLabelText("Leave out sweep"));
    await waitFor(() =>
      expect(to.sent("POST", "/api/library/imports/preview").body).toMatchObject({ decisions: [{ item: "sweep", do: "leave" }] }),
    );
    await waitFor(() => expect(screen.getByText<HTMLButtonElement>("Import").disabled).toBe(false));
    await p.user.click(screen.getByText("Import"));
    expect(to.sent("POST", "/api/library/imports").body).toMatchObject({ decisions: [{ item: "sweep", do: "leave" }] });
    await waitFor(() => expect(screen.queryByText("2 records")).toBeNull());
  });
  it("say what is wrong with them, and are not written so", async () => {
    server({
      "POST /api/library/imports/preview": preview({
        ready: false,
        problems: ["sweep.md line 4: there is no kind “swep”"],
        rows: [row("sweep", { what: "wrong", wrong: ["line 4: there is no kind “swep”"], warnings: ["no gate"] })],
      }),
    });
    const p = page(<Files />, { may });
    await p.user.upload(screen.getByLabelText("Choose files"), fileOf("a.md", "x"));
    expect(await screen.findByText("sweep.md line 4: there is no kind “swep”")).toBeTruthy();
    expect(screen.getByText("Look: no gate")).toBeTruthy();
    expect(screen.getByText<HTMLButtonElement>("Import").disabled).toBe(true);
  });
  it("are only given out to who may not bring any in", () => {
    page(<Files />);
    expect(screen.queryByText("Choose files")).toBeNull();
    expect(screen.getByText("The library as a folder of Markdown files")).toBeTruthy();
    expect(screen.queryByText("The whole academy as a bundle")).toBeNull();
  });
});
