import { screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { offline, page, refuse, server, tidy } from "../testing";
import { useAction, useMay, useMe, useToast } from "./actions";
import { client, Trouble, unwrap } from "./client";

afterEach(tidy);

const positions = () => unwrap(client.GET("/api/positions"));

describe("an answer", () => {
  it("is what the server sent", async () => {
    server({ "GET /api/positions": [{ id: "mount" }] });
    expect(await positions()).toEqual([{ id: "mount" }]);
  });
  it("without content is nothing, not a failure", async () => {
    server({ "DELETE /api/session": undefined });
    expect(await unwrap(client.DELETE("/api/session"))).toBeUndefined();
  });
  it("that refuses brings its sentence, its status and its fields", async () => {
    server({ "GET /api/positions": refuse(422, "That is wrong.", { "name.first": "write one" }) });
    const e = await positions().catch((x: unknown) => x);
    expect(e).toBeInstanceOf(Trouble);
    expect(e).toMatchObject({ status: 422, message: "That is wrong.", fields: { "name.first": "write one" } });
  });
  it("that says nothing still has a sentence", async () => {
    server({ "GET /api/positions": Response.json({}, { status: 500 }) });
    await expect(positions()).rejects.toThrow("The server refused this.");
  });
  it("that never comes says so, with status 0", async () => {
    server({ "GET /api/positions": offline });
    const e = (await positions().catch((x: unknown) => x)) as Trouble;
    expect(e.status).toBe(0);
    expect(e.message).toContain("does not answer");
  });
});

function Actions() {
  const { toast } = useToast();
  const move = useAction(
    (to: string) => unwrap(client.POST("/api/changes/{id}/undo", { params: { path: { id: to } } })),
    (_, to) => `Moved to ${to}.`,
  );
  return (
    <>
      <button type="button" onClick={() => move.mutate("there")}>
        Move
      </button>
      <p>{toast?.bad ? "bad" : "good"}</p>
      {move.error && <p>{move.error.fields.to}</p>}
    </>
  );
}

describe("an action", () => {
  it("says what was done, can be undone, and has everything read anew", async () => {
    const to = server({ "POST /api/changes/there/undo": { change: "c1" }, "POST /api/changes/c1/undo": {} });
    const p = page(<Actions />);
    const anew = vi.spyOn(p.queries, "invalidateQueries");
    await p.user.click(screen.getByText("Move"));
    expect(await screen.findByText("Moved to there.")).toBeTruthy();
    await waitFor(() => expect(anew).toHaveBeenCalledTimes(1));
    await p.user.click(screen.getByText("Undo"));
    expect(await screen.findByText("Undone: Moved to there.")).toBeTruthy();
    expect(to.sent("POST", "/api/changes/c1/undo")).toBeTruthy();
    expect(screen.queryByText("Undo")).toBeNull(); // what was undone offers no undo of its own here
    await waitFor(() => expect(anew).toHaveBeenCalledTimes(2));
  });
  it("that is refused says why and offers no undo", async () => {
    server({ "POST /api/changes/there/undo": refuse(409, "Somebody was quicker.", { to: "it moved" }) });
    const p = page(<Actions />);
    await p.user.click(screen.getByText("Move"));
    expect(await screen.findByText("Somebody was quicker.")).toBeTruthy();
    expect(screen.getByText("bad")).toBeTruthy();
    expect(screen.getByText("it moved")).toBeTruthy();
    expect(screen.queryByText("Undo")).toBeNull();
  });
  it("whose undo is refused says so", async () => {
    server({ "POST /api/changes/there/undo": { change: "c1" }, "POST /api/changes/c1/undo": refuse(409, "It was changed again since.") });
    const p = page(<Actions />);
    await p.user.click(screen.getByText("Move"));
    await p.user.click(await screen.findByText("Undo"));
    expect(await screen.findByText("It was changed again since.")).toBeTruthy();
  });
  it("can be dismissed", async () => {
    server({ "POST /api/changes/there/undo": { change: "c1" } });
    const p = page(<Actions />);
    await p.user.click(screen.getByText("Move"));
    await p.user.click(await screen.findByLabelText("Dismiss"));
    expect(screen.queryByText("Moved to there.")).toBeNull();
  });
});

function Who() {
  const may = useMay();
  return (
    <p>
      {useMe().name} {may("plan") ? "plans" : "looks"}
    </p>
  );
}

describe("who is signed in", () => {
  it("may what the server says they may", () => {
    page(<Who />, { may: ["plan"], as: { name: "Ana" } });
    expect(screen.getByText("Ana plans")).toBeTruthy();
  });
  it("may nothing else", () => {
    page(<Who />, { may: ["other"] });
    expect(screen.getByText("Hana Vell looks")).toBeTruthy();
  });
});
