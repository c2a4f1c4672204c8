import { screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { S } from "../../api/client";
import { page, refuse, server, tidy } from "../../testing";
import { Chances } from "./Chances";
import { Planning } from "./Planning";
import { Publishing } from "./Publishing";

afterEach(tidy);

const breach = (own: boolean): S["BreachLine"] => ({
  class: "tue",
  name: "Fundamentals",
  own,
  rule: "minutes",
  week: 3,
  what: "45 of 30 minutes",
});
const publishing = (more: Partial<S["PublishPage"]> = {}): S["PublishPage"] =>
  ({
    version: 7,
    number: 0,
    breaks: [],
    changes: [{ class: "tue", name: "F", on: "2026-11-24", week: 1 }],
    notices: [{ coach: "sol", name: "Sol", lines: 1, text: "Your classes", email: "" }],
    feeds: [
      { name: "All classes", scope: "all", target: "" },
      { name: "Sol", scope: "coach", target: "sol", path: "/calendar/x.ics" },
    ],
    ...more,
  }) as S["PublishPage"];
const letters = [
  { at: "1", to: "sol@lantern.example", subject: "Your classes", state: "failed", failure: "it does not answer", text: "Dear Sol" },
  { at: "2", to: "hana@lantern.example", subject: "Your classes", state: "sent", text: "Dear Hana" },
];

describe("publishing", () => {
  it("says who will be told, and afterwards who could not be", async () => {
    const to = server({
      "GET /api/seasons/s1/publishing": publishing(),
      "POST /api/seasons/s1/publishing": { told: ["hana"], missed: ["Sol"], change: "c" },
    });
    const p = page(<Publishing season="s1" />);
    expect(await screen.findByText("no address: add one under Timetable and coaches")).toBeTruthy();
    await p.user.click(screen.getByText("Publish the season"));
    expect(await screen.findByText("Published. 1 coaches were told; not Sol.")).toBeTruthy();
    expect(to.sent("POST", "/api/seasons/s1/publishing").query.get("version")).toBe("7");
  });
  it("is barred by what breaks a hard rule, not by a track's own", async () => {
    server({ "GET /api/seasons/s1/publishing": publishing({ breaks: [breach(true)] }) });
    page(<Publishing season="s1" />);
    expect((await screen.findByText<HTMLButtonElement>("Publish the season")).disabled).toBe(false);
    expect(screen.getByText(/One class does not keep the rules/)).toBeTruthy();
    tidy();
    server({ "GET /api/seasons/s1/publishing": publishing({ number: 2, breaks: [breach(false)] }) });
    page(<Publishing season="s1" />);
    expect((await screen.findByText<HTMLButtonElement>("Publish the changes")).disabled).toBe(true);
    expect(screen.getByText("Week 3, Fundamentals: 45 of 30 minutes")).toBeTruthy();
  });
  it("has nothing to give out when nothing changed", async () => {
    server({ "GET /api/seasons/s1/publishing": publishing({ number: 2, changes: [] }) });
    page(<Publishing season="s1" />);
    expect(await screen.findByText("Nothing has changed since.")).toBeTruthy();
    expect(screen.queryByText("Publish the changes")).toBeNull();
  });
  it("makes and revokes private calendars", async () => {
    const to = server({ "GET /api/seasons/s1/publishing": publishing(), "POST /api/feeds": {}, "DELETE /api/feeds": {} });
    const p = page(<Publishing season="s1" />, { may: ["make-feed"] });
    await p.user.click(await screen.findByLabelText("Make one for All classes"));
    expect(Object.fromEntries(to.sent("POST", "/api/feeds").query)).toMatchObject({ scope: "all" });
    await p.user.click(screen.getByLabelText("Revoke the address for Sol"));
    expect(Object.fromEntries(to.sent("DELETE", "/api/feeds").query)).toEqual({ scope: "coach", target: "sol" });
  });
  it("shows what became of each letter", async () => {
    server({ "GET /api/seasons/s1/publishing": publishing(), "GET /api/letters": letters });
    const p = page(<Publishing season="s1" />, { may: ["list-letters"] });
    expect(await screen.findByText(/The mail server did not take it: it does not answer/)).toBeTruthy();
    await p.user.click(screen.getByText("hana@lantern.example"));
    expect(screen.getByText("Dear Hana")).toBeTruthy();
  });
});

describe("planning", () => {
  const season = (planned: boolean) => ({ line: { id: "s1", name: "Autumn", planned } }) as S["SeasonPage"];
  const may = ["plan-season", "get-planning"];
  it("is followed while it runs, and can be undone when it is done", async () => {
    const states = [{ state: "idle" }, { state: "running", share: 0.4, coverage: 0.37 }, { state: "done", change: "c", coverage: 0.41 }];
    let at = 0;
    const to = server({
      "GET /api/seasons/s1/planning": () => states[Math.min(at, 2)],
      "POST /api/seasons/s1/planning": () => {
        at = 1;
      },
    });
    const done = vi.fn();
    const p = page(<Planning page={season(false)} onDone={done} />, { may });
    await p.user.selectOptions(await screen.findByRole("combobox"), "twenty seconds");
    await p.user.click(screen.getByRole("button", { name: "Plan" }));
    expect(to.sent("POST", "/api/seasons/s1/planning").body).toEqual({ seconds: 20 });
    expect(await screen.findByText("best so far 37%", {}, { timeout: 3000 })).toBeTruthy();
    at = 2;
    expect(await screen.findByText("Planned Autumn.", {}, { timeout: 3000 })).toBeTruthy();
    expect(screen.getByText("Undo")).toBeTruthy();
    expect(done).toHaveBeenCalled();
  });
  it("says why it failed", async () => {
    let at = 0;
    server({
      "GET /api/seasons/s1/planning": () =>
        at === 0 ? { state: "idle" } : { state: "failed", summary: "Two units contradict each other." },
      "POST /api/seasons/s1/planning": () => {
        at = 1;
      },
    });
    const p = page(<Planning page={season(true)} onDone={() => undefined} />, { may });
    await p.user.click(await screen.findByRole("button", { name: "Plan again" }));
    expect((await screen.findAllByText("Two units contradict each other.", {}, { timeout: 3000 })).length).toBeGreaterThan(0);
  });
  it("is stopped with the best so far", async () => {
    const to = server({
      "GET /api/seasons/s1/planning": { state: "running", share: 0.5, coverage: 0.3 },
      "DELETE /api/seasons/s1/planning": {},
    });
    const p = page(<Planning page={season(true)} onDone={() => undefined} />, { may });
    await p.user.click(await screen.findByText("Stop with the best so far"));
    expect(to.sent("DELETE", "/api/seasons/s1/planning")).toBeTruthy();
  });
  it("is not offered to who may not plan", () => {
    page(<Planning page={season(true)} onDone={() => undefined} />);
    expect(screen.queryByText("Plan again")).toBeNull();
  });
});

describe("chances of coming", () => {
  const chances: S["ChancesPage"] = {
    formula: "(came + 1) / (held + 3)",
    classes: [{ id: "tue", name: "Tuesday" }],
    students: [
      { id: "ana", name: "Ana", cells: [{ class: "tue", name: "Tuesday", chance: 0.5, came: 4, held: 8 }] },
      { id: "bo", name: "Bo", cells: [{ class: "tue", name: "Tuesday", chance: 0.5, came: 4, held: 8, set: 0.25 }] },
    ],
  } as S["ChancesPage"];
  const open = () => {
    const to = server({ "GET /api/seasons/s1/chances": chances, "PUT /api/seasons/s1/chances": { change: "c" } });
    return { to, ...page(<Chances season="s1" />, { may: ["set-chance"] }) };
  };
  it("are set by hand with Enter, never over all of them", async () => {
    const p = open();
    await p.user.type(await screen.findByLabelText("Ana, Tuesday: set by hand, per cent"), "250{Enter}");
    expect(p.to.sent("PUT", "/api/seasons/s1/chances").body).toEqual({ student: "ana", class: "tue", chance: 1 });
  });
  it("go back to the estimate when the field is wiped, and stay when it is left as it was", async () => {
    const p = open();
    const bo = await screen.findByLabelText("Bo, Tuesday: set by hand, per cent");
    await p.user.click(bo);
    await p.user.tab();
    expect(p.to.asked.some((a) => a.method === "PUT")).toBe(false);
    await p.user.clear(bo);
    await p.user.tab();
    await waitFor(() => expect(p.to.sent("PUT", "/api/seasons/s1/chances").body).toEqual({ student: "bo", class: "tue" }));
  });
  it("say when they cannot be read", async () => {
    server({ "GET /api/seasons/s1/chances": refuse(404, "There is no such season.") });
    page(<Chances season="s1" />);
    expect(await screen.findByText("There is no such season.")).toBeTruthy();
  });
});
