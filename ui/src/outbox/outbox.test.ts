import "fake-indexeddb/auto";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { S } from "../api/client";
import { deliver, drop, type Entry, empty, put, retry, waiting } from "./outbox";
import { overlay } from "./overlay";

const tap = (n: number): Entry => ({
  kind: "tally",
  session: "c.2026-11-24",
  words: `tap ${n}`,
  method: "POST",
  path: `/api/${n}`,
  body: { id: `t${n}`, technique: "knee-cut", fault: "f", count: 1 },
});
const answer = (status: number, body: unknown = {}) => new Response(JSON.stringify(body), { status });

beforeEach(() => empty());

describe("the outbox", () => {
  it("sends in order, once, and leaves nothing on the device", async () => {
    for (const n of [1, 2, 3]) await put(tap(n));
    const send = vi.fn(async (_: unknown) => answer(200));
    expect(await deliver(send as never)).toEqual({ taken: 3, refused: 0, stopped: false });
    expect(send.mock.calls.map((c) => c[0])).toEqual(["/api/1", "/api/2", "/api/3"]);
    expect(await waiting()).toEqual([]);
  });

  it("loses nothing without network, and goes on where it stopped", async () => {
    for (const n of [1, 2, 3]) await put(tap(n));
    let up = false;
    const send = vi.fn(async (path: string) => {
      if (!up && path !== "/api/1") throw new TypeError("no network");
      return answer(200);
    });
    expect(await deliver(send as never)).toMatchObject({ taken: 1, stopped: true });
    expect((await waiting()).map((e) => e.path)).toEqual(["/api/2", "/api/3"]);
    up = true;
    expect(await deliver(send as never)).toMatchObject({ taken: 2, stopped: false });
    expect(await waiting()).toEqual([]);
  });

  it.each([500, 502, 503, 401, 429])("waits while the server answers %i", async (status) => {
    await put(tap(1));
    expect(await deliver((async () => answer(status)) as never)).toMatchObject({ taken: 0, stopped: true });
    expect(await waiting()).toHaveLength(1);
  });

  it("leaves alone what somebody else did on this device", async () => {
    await put({ ...tap(1), by: "ines" });
    await put({ ...tap(2), by: "dov" });
    expect(await deliver((async () => answer(200)) as never, "dov")).toMatchObject({ taken: 1 });
    expect((await waiting()).map((e) => e.by)).toEqual(["ines"]);
  });

  it("keeps what is refused with its reason, and sends those behind it", async () => {
    for (const n of [1, 2]) await put(tap(n));
    const send = async (path: string) =>
      path === "/api/1" ? answer(422, { detail: "No.", errors: [{ message: "Not a fault." }] }) : answer(200);
    expect(await deliver(send as never)).toEqual({ taken: 1, refused: 1, stopped: false });
    const [left] = await waiting();
    expect(left?.refused).toBe("No. Not a fault.");
    expect(await deliver(send as never), "it is not sent again by itself").toEqual({ taken: 0, refused: 0, stopped: false });
    if (left) await retry(left);
    expect((await waiting())[0]?.refused).toBeUndefined();
    await drop((await waiting())[0]?.key ?? -1);
    expect(await waiting()).toEqual([]);
  });
});

describe("a class as it will be", () => {
  const who = (id: string) => ({ id, name: id }) as S["Attendee"];
  const page = {
    summary: { session: "c.2026-11-24" },
    here: [who("a")],
    others: [who("b"), who("c")],
    tally: [{ technique: "knee-cut", fault: "f", seen: 2 }],
  } as unknown as S["SessionPage"];
  const entry = (e: Partial<Entry>): Entry => ({ ...tap(1), body: undefined, ...e });

  it("moves who was checked in or out, and counts what was counted", () => {
    const shown = overlay(page, [
      entry({ kind: "check-in", student: "b" }),
      entry({ kind: "check-out", student: "a" }),
      tap(1),
      { ...tap(2), body: { id: "x", technique: "knee-cut", fault: "g", count: 1 } },
    ]);
    expect(shown.here.map((a) => a.id)).toEqual(["b"]);
    expect(shown.others.map((a) => a.id)).toEqual(["c", "a"]);
    expect(shown.tally).toEqual([
      { technique: "knee-cut", fault: "f", seen: 3 },
      { technique: "knee-cut", fault: "g", seen: 1 },
    ]);
  });

  it("leaves out what was refused and what belongs to another class", () => {
    const shown = overlay(page, [
      entry({ kind: "check-in", student: "b", refused: "No." }),
      entry({ kind: "check-in", student: "c", session: "other" }),
    ]);
    expect(shown.here.map((a) => a.id)).toEqual(["a"]);
  });
});
