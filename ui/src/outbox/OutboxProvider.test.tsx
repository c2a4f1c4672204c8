import "fake-indexeddb/auto";
import { screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { Waiting } from "../areas/run/Waiting";
import { offline, page, refuse, server, tidy } from "../testing";
import { OutboxProvider, useOutbox } from "./OutboxProvider";
import { empty, put, waiting } from "./outbox";

beforeEach(empty);
afterEach(tidy);

function Mat() {
  const { send, entries } = useOutbox();
  return (
    <>
      <Waiting />
      <button
        type="button"
        onClick={() =>
          send({ kind: "check-in", session: "tue-1", student: "bo", words: "Bo is here", method: "PUT", path: "/api/in", body: { a: 1 } })
        }
      >
        Check in
      </button>
      <p>{entries.length} wait</p>
    </>
  );
}

const mat = (as = "hana") =>
  page(
    <OutboxProvider>
      <Mat />
    </OutboxProvider>,
    { as: { person: as } },
  );

describe("what is done at the mat's edge", () => {
  it("goes to the server at once and leaves the device", async () => {
    const to = server({ "PUT /api/in": {} });
    const p = mat();
    await p.user.click(screen.getByText("Check in"));
    await waitFor(() => expect(to.sent("PUT", "/api/in").body).toEqual({ a: 1 }));
    expect(await screen.findByText("0 wait")).toBeTruthy();
    expect(await waiting()).toEqual([]);
  });
  it("waits without network, says so, and goes when it is back", async () => {
    let there = false;
    const to = server({ "PUT /api/in": () => (there ? {} : offline()) });
    const p = mat();
    await p.user.click(screen.getByText("Check in"));
    expect(await screen.findByText("1 waits to be sent")).toBeTruthy();
    there = true;
    window.dispatchEvent(new Event("online"));
    expect(await screen.findByText("0 wait")).toBeTruthy();
    expect(to.asked.filter((a) => a.path === "/api/in").length).toBeGreaterThan(1);
    expect(await waiting()).toEqual([]);
  });
  it("that the server refuses stays with the reason, to be sent again or dropped", async () => {
    let taken = false;
    server({ "PUT /api/in": () => (taken ? {} : refuse(422, "Bo is archived.")) });
    const p = mat();
    await p.user.click(screen.getByText("Check in"));
    await p.user.click(await screen.findByText("1 refused"));
    expect(screen.getByText("Bo is archived.")).toBeTruthy();
    taken = true;
    await p.user.click(screen.getByText("Send again"));
    expect(await screen.findByText("0 wait")).toBeTruthy();
    taken = false;
    await p.user.click(screen.getByText("Check in"));
    await screen.findByText("1 refused");
    if (!screen.queryByText("Drop it")) await p.user.click(screen.getByText("1 refused"));
    await p.user.click(screen.getByText("Drop it"));
    expect(await screen.findByText("0 wait")).toBeTruthy();
    expect(await waiting()).toEqual([]);
  });
  it("by another person is neither shown nor sent", async () => {
    await put({ kind: "check-in", by: "sol", session: "tue-1", words: "Cy is here", method: "PUT", path: "/api/other" });
    const to = server({ "PUT /api/in": {} });
    const p = mat("hana");
    expect(await screen.findByText("0 wait")).toBeTruthy();
    await p.user.click(screen.getByText("Check in"));
    await waitFor(() => expect(to.sent("PUT", "/api/in")).toBeTruthy());
    await waitFor(async () => expect((await waiting()).map((e) => e.words)).toEqual(["Cy is here"]));
  });
});
