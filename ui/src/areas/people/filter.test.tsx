import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { S } from "../../api/client";
import { Filters, none, passes, sorted } from "./filter";

afterEach(cleanup);

const person = (name: string, more: Partial<S["PersonRow"]> = {}): S["PersonRow"] => ({
  id: name.toLowerCase(),
  name,
  initials: name[0] ?? "",
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

const nobody = new Set<string>();

describe("a filter", () => {
  it.each([
    ["nothing", {}, person("Ana"), true],
    ["a part of the name, without accents or case", { words: "oren" }, person("Ören Vask"), true],
    ["what they are called", { words: "bix" }, person("Beatrix", { called: "Bix" }), true],
    ["another name", { words: "zoe" }, person("Ana"), false],
    ["their rank", { rank: "adult/white" }, person("Ana"), true],
    ["another ladder's rank of the same name", { rank: "youth/white" }, person("Ana"), false],
    ["a track they come to", { track: "No-gi" }, person("Ana", { tracks: ["No-gi"] }), true],
    ["a track they do not come to", { track: "No-gi" }, person("Ana"), false],
    ["coaches", { kind: "coach" as const }, person("Ana"), false],
    ["students", { kind: "student" as const }, person("Ana"), true],
    ["minors", { minor: true }, person("Ana", { minor: true }), true],
    ["held", { held: true }, person("Ana", { held: "knee" }), true],
    ["away for three weeks", { away: 3 }, person("Ana", { away: 3 }), true],
    ["away for longer than they were", { away: 4 }, person("Ana", { away: 3 }), false],
    ["a coach who trains nowhere is not away", { away: 3 }, person("Ana", { student: false, away: 90 }), false],
    ["the archived alone", { archived: true }, person("Ana"), false],
    ["those who are here alone", {}, person("Ana", { archived: true }), false],
    ["two of which one fits", { minor: true, held: true }, person("Ana", { minor: true }), false],
  ])("by %s", (_, part, p, fits) => {
    expect(passes(p, { ...none, ...part }, nobody)).toBe(fits);
  });
  it("by account, as the accounts say", () => {
    const has = new Set(["ana"]);
    expect(passes(person("Ana"), { ...none, account: "with" }, has)).toBe(true);
    expect(passes(person("Ana"), { ...none, account: "without" }, has)).toBe(false);
    expect(passes(person("Zoe"), { ...none, account: "without" }, has)).toBe(true);
  });
});

describe("sorting", () => {
  const all = [
    person("Zoe", { rank_no: 1, last_seen: "2026-11-01", recent: 12 }),
    person("Ängel", { rank_no: 3, recent: 2 }),
    person("Bo", { rank_no: 1, last_seen: "2026-11-20", recent: 9 }),
  ];
  const names = (by: Parameters<typeof sorted>[1]["by"], down: boolean) => sorted(all, { by, down }).map((p) => p.name);
  it("by name as people read it", () => expect(names("name", false)).toEqual(["Ängel", "Bo", "Zoe"]));
  it("by rank, and by name among those of one rank", () => {
    expect(names("rank", false)).toEqual(["Bo", "Zoe", "Ängel"]);
    expect(names("rank", true)).toEqual(["Ängel", "Bo", "Zoe"]);
  });
  it("by numbers and not by their digits", () => expect(names("recent", true)).toEqual(["Zoe", "Bo", "Ängel"]));
  it("with who never came first", () => expect(names("last", false)[0]).toBe("Ängel"));
  it("leaves the list it was given alone", () => {
    const before = all.map((p) => p.name);
    sorted(all, { by: "joined", down: true });
    expect(all.map((p) => p.name)).toEqual(before);
  });
});

describe("the filters on the page", () => {
  it("offer what is there, and can all be cleared at once", async () => {
    const put = vi.fn();
    const { rerender } = render(<Filters filter={none} put={put} people={[person("Ana", { tracks: ["No-gi"] })]} head />);
    expect(screen.getByRole("option", { name: "No-gi" })).toBeTruthy();
    expect(screen.queryByText("Minors")).toBeNull(); // there are none
    expect(screen.queryByText("Clear filters")).toBeNull();
    await userEvent.selectOptions(screen.getByLabelText("Comes to"), "No-gi");
    expect(put).toHaveBeenCalledWith({ track: "No-gi" });
    rerender(<Filters filter={{ ...none, track: "No-gi" }} put={put} people={[person("Ana")]} head />);
    await userEvent.click(screen.getByText("Clear filters"));
    expect(put).toHaveBeenLastCalledWith(none);
  });
  it("say nothing of accounts to whoever may not see them", () => {
    render(<Filters filter={none} put={() => undefined} people={[]} head={false} />);
    expect(screen.queryByText("Account")).toBeNull();
    expect(screen.queryByText("Archived")).toBeNull();
  });
});
