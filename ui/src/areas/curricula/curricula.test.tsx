import { fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { S } from "../../api/client";
import { page, refuse, server, tidy } from "../../testing";
import { AddTechnique } from "./AddTechnique";
import { LadderForm } from "./LadderForm";
import { Requirements } from "./Requirements";

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

const requirement = (id: string, more: Partial<S["RequirementLine"]> = {}): S["RequirementLine"] => ({
  technique: id,
  name: id,
  family: "guard",
  kind: "sweep",
  minutes: 12,
  rung: "passed",
  both_sides: true,
  sided: true,
  weight: 1,
  or_names: [],
  ...more,
});

const curriculum = (more: Partial<S["CurriculumPage"]> = {}): S["CurriculumPage"] =>
  ({
    line: { id: "blue", name: "Blue" },
    rungs: ["met", "drilled", "passed", "live", "teaches"],
    addable: [technique("hip-sweep"), technique("arm-lock", { kind: "submission" })],
    findings: [],
    requirements: [requirement("bridge"), requirement("shrimp", { sided: false }), requirement("trap")],
    ...more,
  }) as S["CurriculumPage"];

describe("adding a technique", () => {
  const open = (found: S["TechniqueLine"][], at?: Parameters<typeof AddTechnique>[0]["at"]) => {
    const to = server({
      "GET /api/techniques": found,
      "PUT /api/curricula/blue/requirements/hip-sweep": { change: "c" },
      "PUT /api/curricula/blue/requirements/arm-lock": { change: "c" },
    });
    const clear = vi.fn();
    return { to, clear, ...page(<AddTechnique page={curriculum()} at={at} onClear={clear} />, { may: ["set-requirement"] }) };
  };
  it("finds it by a name or an alias, walked with the arrows, taken with Enter", async () => {
    const p = open([technique("hip-sweep"), technique("arm-lock", { matched: "elbow pull" }), technique("bridge")]);
    await p.user.selectOptions(screen.getByLabelText("Rung"), "live");
    await p.user.type(screen.getByRole("combobox", { name: "Name or alias" }), "ha");
    await waitFor(() => expect(screen.getAllByRole("option", { name: /hip-sweep|arm-lock/ })).toHaveLength(2));
    expect(screen.getByText("· elbow pull")).toBeTruthy();
    await p.user.keyboard("{ArrowUp}{Enter}"); // round to the last
    await waitFor(() =>
      expect(p.to.sent("PUT", "/api/curricula/blue/requirements/arm-lock").body).toEqual({ rung: "live", both_sides: true, weight: 1 }),
    );
    expect(await screen.findByText("Required arm-lock, live.")).toBeTruthy();
  });
  it("says what is required already, and what is called nothing", async () => {
    const p = open([technique("bridge")]);
    await p.user.type(screen.getByLabelText("Name or alias"), "bri");
    expect(await screen.findByText("bridge is required here already.")).toBeTruthy();
    tidy();
    const q = open([]);
    await q.user.type(screen.getByLabelText("Name or alias"), "zzz");
    expect(await screen.findByText("Nothing is called that.")).toBeTruthy();
    expect(screen.getByText<HTMLButtonElement>("Require it").disabled).toBe(true);
  });
  it("offers what fits a cell of the matrix", async () => {
    const p = open([], { position: "closed-guard", name: "Closed guard", kind: "sweep" } as Parameters<typeof AddTechnique>[0]["at"]);
    expect(screen.getByText(/Closed guard, sweep: 1 in the library/)).toBeTruthy();
    await p.user.click(screen.getByRole("option", { name: /hip-sweep/ }));
    expect(p.to.sent("PUT", "/api/curricula/blue/requirements/hip-sweep")).toBeTruthy();
    await p.user.click(screen.getByText("Close"));
    expect(p.clear).toHaveBeenCalled();
  });
  it("is not offered to who may not", () => {
    page(<AddTechnique page={curriculum()} onClear={() => undefined} />);
    expect(screen.queryByText("Require it")).toBeNull();
  });
});

describe("requirements", () => {
  const path = (t: string) => `/api/curricula/blue/requirements/${t}`;
  const open = (more: Partial<S["CurriculumPage"]> = {}, may = ["set-requirement"]) => {
    const to = server({
      "GET /api/techniques": [technique("hip-sweep"), technique("bridge")],
      [`PUT ${path("bridge")}`]: { change: "c" },
      [`PUT ${path("trap")}/place`]: { change: "c" },
      [`PUT ${path("bridge")}/place`]: { change: "c" },
      [`PUT ${path("hip-sweep")}`]: {},
      [`PUT ${path("hip-sweep")}/place`]: { change: "c" },
      [`DELETE ${path("trap")}`]: { change: "c" },
    });
    return { to, ...page(<Requirements page={curriculum(more)} />, { may }) };
  };
  const row = (name: string) => screen.getByRole("row", { name: new RegExp(`\\d ${name}`) });
  it("are moved with Alt and the arrows", () => {
    const p = open();
    fireEvent.keyDown(row("trap"), { key: "ArrowUp", altKey: true });
    fireEvent.keyDown(row("bridge"), { key: "ArrowDown" }); // without Alt it only walks
    expect(p.to.asked.map((a) => [a.path, a.body])).toEqual([]);
    return waitFor(() => expect(p.to.asked.map((a) => [a.path, a.body])).toEqual([[`${path("trap")}/place`, { to: 1 }]]));
  });
  it("are dragged to their place, and one from the list is required there", async () => {
    const p = open();
    const carry = (id: string) => ({ dataTransfer: { getData: () => id, setData: () => undefined } });
    fireEvent.dragStart(row("bridge"));
    fireEvent.drop(row("trap"), carry(""));
    await waitFor(() => expect(p.to.sent("PUT", `${path("bridge")}/place`).body).toEqual({ to: 2 }));
    fireEvent.drop(row("trap"), carry("hip-sweep"));
    await waitFor(() => expect(p.to.sent("PUT", `${path("hip-sweep")}/place`).body).toEqual({ to: 2 }));
    expect(p.to.sent("PUT", path("hip-sweep")).body).toMatchObject({ rung: "passed" });
  });
  it("weigh what is written when one leaves the field, and nothing when it is the same", async () => {
    const p = open();
    const weight = screen.getByLabelText("Weight of bridge");
    await p.user.click(weight);
    await p.user.tab();
    expect(p.to.asked.filter((a) => a.method === "PUT")).toEqual([]);
    await p.user.clear(weight);
    await p.user.type(weight, "2.5");
    await p.user.tab();
    expect(p.to.sent("PUT", path("bridge")).body).toMatchObject({ weight: 2.5, rung: "passed", both_sides: true });
  });
  it("are taken out, and say so with an undo", async () => {
    const p = open();
    await p.user.click(screen.getByLabelText("Remove trap"));
    expect(await screen.findByText("Removed trap.")).toBeTruthy();
    expect(screen.getByText("Undo")).toBeTruthy();
  });
  it("are read once the version is frozen", () => {
    open({ frozen: "published on 1 March" });
    expect(screen.queryByLabelText("Weight of bridge")).toBeNull();
    expect(screen.queryByLabelText("Remove bridge")).toBeNull();
  });
  it("say that there are none", () => {
    open({ requirements: [] });
    expect(screen.getByText("Nothing is required yet")).toBeTruthy();
  });
});

describe("a ladder", () => {
  const adult = {
    id: "adult",
    name: "Adults",
    audience: "adult",
    ranks: [{ id: "w", name: "White", belt: "white", min_months: 0, min_classes: 0 }],
    version: 3,
    moves: [],
    students: 0,
  } as unknown as S["LadderLine"];
  const youth = {
    ...adult,
    id: "youth",
    name: "Youth",
    audience: "youth",
    ranks: [{ id: "g", name: "Grey", belt: "grey", min_months: 0, min_classes: 0 }],
    version: 5,
  } as S["LadderLine"];
  it("is new with ranks that have a name of their own", async () => {
    const to = server({ "PUT /api/ladders": { id: "kids", change: "c" } });
    const done = vi.fn();
    const p = page(<LadderForm all={[adult]} onDone={done} />);
    await p.user.type(screen.getByLabelText("Ladder"), "Kids");
    for (const name of ["First", "Second"]) {
      await p.user.click(screen.getByText("Add a rank"));
      await p.user.type(screen.getAllByLabelText("Rank").pop() as HTMLElement, name);
    }
    await p.user.click(screen.getByText("Save ladder"));
    expect(to.sent("PUT", "/api/ladders").query.get("version")).toBe("0");
    expect(to.sent("PUT", "/api/ladders").body).toMatchObject({
      name: "Kids",
      ranks: [
        { id: "rank-1", name: "First" },
        { id: "rank-2", name: "Second" },
      ],
    });
    await waitFor(() => expect(done).toHaveBeenCalledWith("kids"));
  });
  it("leads on to another one, rank by rank, from an age on", async () => {
    const to = server({ "PUT /api/ladders": { id: "youth", change: "c" } });
    const p = page(<LadderForm line={youth} all={[adult, youth]} onDone={() => undefined} />);
    await p.user.selectOptions(screen.getByLabelText("To"), "Adults");
    await p.user.selectOptions(screen.getByLabelText("Grey becomes"), "White");
    await p.user.click(screen.getByText("Save ladder"));
    expect(to.sent("PUT", "/api/ladders").query.get("version")).toBe("5");
    expect(to.sent("PUT", "/api/ladders").body).toMatchObject({ onward: { ladder: "adult", age: 16, ranks: { g: "w" } } });
    await p.user.selectOptions(screen.getByLabelText("To"), "nobody moves on");
    await p.user.click(screen.getByText("Save ladder"));
    await waitFor(() => expect(to.sent("PUT", "/api/ladders").body).not.toHaveProperty("onward"));
  });
  it("says at the rank what is wrong with it, and leaves ages away that were wiped", async () => {
    const to = server({ "PUT /api/ladders": refuse(422, "Wrong.", { "ranks[0].max_age": "is under the age it begins at" }) });
    const p = page(<LadderForm line={youth} all={[adult, youth]} onDone={() => undefined} />);
    await p.user.type(screen.getByLabelText("From age"), "9");
    await p.user.clear(screen.getByLabelText("From age"));
    await p.user.type(screen.getByLabelText("To age"), "7");
    await p.user.click(screen.getByText("Save ladder"));
    expect(await screen.findAllByText("is under the age it begins at", { exact: false })).toHaveLength(2);
    expect((to.sent("PUT", "/api/ladders").body as S["LadderLine"]).ranks[0]).toEqual({
      id: "g",
      name: "Grey",
      belt: "grey",
      min_months: 0,
      min_classes: 0,
      max_age: 7,
    });
  });
});
