import { describe, expect, it } from "vitest";
import type { S } from "../api/client";
import type { Entry } from "./outbox";
import { overlay } from "./overlay";

const attendee = (id: string, more: Partial<S["Attendee"]> = {}): S["Attendee"] => ({
  id,
  name: id.toUpperCase(),
  belt: "white",
  rank: "White",
  initials: "",
  chance: 0.5,
  here: false,
  minor: false,
  coach: false,
  student: true,
  ...more,
});

const page = {
  summary: { session: "tue-1" },
  here: [attendee("ana", { here: true })],
  others: [attendee("bo"), attendee("cy")],
  tally: [{ technique: "sweep", fault: "f1", seen: 2 }],
} as S["SessionPage"];

const entry = (part: Partial<Entry> & Pick<Entry, "kind">): Entry => ({
  session: "tue-1",
  words: "",
  method: "POST",
  path: "/api/x",
  ...part,
});
const ids = (all: S["Attendee"][]) => all.map((a) => a.id);

describe("a class with what waits laid over it", () => {
  it("is as it was when nothing waits, and the page itself never changes", () => {
    const before = JSON.stringify(page);
    expect(overlay(page, [])).toEqual(page);
    overlay(page, [entry({ kind: "check-in", student: "bo" }), entry({ kind: "check-out", student: "ana" })]);
    expect(JSON.stringify(page)).toBe(before);
  });
  it("has who was checked in here, once", () => {
    const p = overlay(page, [entry({ kind: "check-in", student: "bo" }), entry({ kind: "check-in", student: "bo" })]);
    expect(ids(p.here)).toEqual(["ana", "bo"]);
    expect(ids(p.others)).toEqual(["cy"]);
    expect(p.here[1]?.here).toBe(true);
  });
  it("knows for how much of it somebody was there, also of who was here already", () => {
    const p = overlay(page, [
      entry({ kind: "check-in", student: "bo", path: "/api/x?event=1&part=late" }),
      entry({ kind: "check-in", student: "ana", path: "/api/x?event=2&part=early" }),
    ]);
    expect(p.here.map((a) => a.part)).toEqual(["early", "late"]);
    expect(overlay(p, [entry({ kind: "check-in", student: "ana", path: "/api/x?event=3" })]).here[0]?.part).toBeUndefined();
  });
  it("has who went after all among the others", () => {
    const p = overlay(page, [entry({ kind: "check-out", student: "ana" }), entry({ kind: "check-out", student: "nobody" })]);
    expect(ids(p.here)).toEqual([]);
    expect(ids(p.others)).toEqual(["bo", "cy", "ana"]);
  });
  it.each([
    ["on top of what the server has", { count: 1, fault: "f1" }, 3],
    ["down again", { count: -1, fault: "f1" }, 1],
    ["never under nothing", { count: -9, fault: "f1" }, 0],
    ["a fault not counted yet", { count: 1, fault: "f2" }, 1],
  ])("counts %s", (_, body, seen) => {
    const p = overlay(page, [entry({ kind: "tally", body: { technique: "sweep", id: "t", ...body } })]);
    expect(p.tally.find((t) => t.fault === body.fault)?.seen).toBe(seen);
  });
  it("leaves the count alone for a word said to one person", () => {
    const p = overlay(page, [
      entry({ kind: "tally", student: "ana", body: { technique: "sweep", id: "t", count: 0, student: "ana", words: "heel" } }),
    ]);
    expect(p.tally).toEqual(page.tally);
  });
  it("has a guest, once", () => {
    const guest = entry({ kind: "guest", body: { id: "g1", name: "Ida", kind: "trial" } });
    const p = overlay(page, [guest, guest]);
    expect(p.here.filter((a) => a.guest)).toHaveLength(1);
    expect(p.here[1]).toMatchObject({ name: "Ida", guest: "trial", student: false });
  });
  it("is recorded as the report says", () => {
    const items = [{ technique: "sweep", kind: "teach", reached: "part" }];
    const p = overlay(page, [entry({ kind: "report", body: { items, faults: [], note: "next time" } })]);
    expect(p.recorded).toMatchObject({ items, note: "next time" });
  });
  it("has nothing of another class, and nothing that was refused", () => {
    expect(overlay(page, [entry({ kind: "check-in", student: "bo", session: "wed-1" })])).toEqual(page);
    expect(overlay(page, [entry({ kind: "check-in", student: "bo", refused: "they are archived" })])).toEqual(page);
  });
});
