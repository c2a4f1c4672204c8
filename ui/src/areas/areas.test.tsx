import "fake-indexeddb/auto";
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { S } from "../api/client";
import { empty, put } from "../outbox/outbox";
import { type Asked, offline, page, refuse, server, tidy } from "../testing";
import LinkPage from "./account/LinkPage";
import { Shell } from "./Shell";
import { SignIn } from "./SignIn";
import Today from "./Today";
import { WeekStrip } from "./WeekStrip";

afterEach(tidy);

const areas: S["Area"][] = [
  { name: "Library", to: "/library" },
  { name: "Curricula", to: "/curricula" },
] as S["Area"][];

const found: S["AppFound"][] = [
  { kind: "technique", like: 1, name: "Hip sweep", to: "/library/hip-sweep" },
  { kind: "person", like: 0.8, name: "Hippa Marr", note: "White", to: "/people/hippa" },
];

describe("the frame of the desk", () => {
  const open = (may: string[] = ["today", "find"]) => {
    const to = server({ "GET /api/find": found });
    return { to, ...page(<Shell>page</Shell>, { may, as: { areas } }) };
  };
  it.each([
    ["2", "/curricula"],
    ["1", "/library"],
    ["0", "/today"],
    ["9", "/"],
  ])("goes with %s to %s", async (key, to) => {
    const p = open();
    await p.user.keyboard(key);
    expect(p.where()).toBe(to);
  });
  it("leaves keys to whatever is written into, and to the browser", async () => {
    const to = server({});
    const p = page(
      <Shell>
        <input aria-label="a field" data-search />
      </Shell>,
      { as: { areas } },
    );
    await p.user.type(screen.getByLabelText("a field"), "2");
    fireEvent.keyDown(document.body, { key: "2", ctrlKey: true });
    expect(p.where()).toBe("/");
    (document.activeElement as HTMLElement).blur();
    await p.user.keyboard("/");
    expect(document.activeElement).toBe(screen.getByLabelText("a field"));
    expect(to.asked).toEqual([]);
  });
  it("turns single keys off for who wants that", async () => {
    const p = open();
    await p.user.keyboard("?");
    await p.user.click(await screen.findByLabelText("Single keys are on"));
    await p.user.click(screen.getByRole("button", { name: "Close" }));
    await p.user.keyboard("2");
    expect(p.where()).toBe("/");
    await p.user.click(screen.getByText("Keys"));
    expect((await screen.findByLabelText<HTMLInputElement>("Single keys are on")).checked).toBe(false);
  });
  it("finds anything, walked with the arrows and opened with Enter", async () => {
    const p = open();
    await p.user.keyboard("f");
    await p.user.type(await screen.findByRole("combobox", { name: "Find anything" }), "hip");
    await waitFor(() => expect(screen.getAllByRole("option")).toHaveLength(2));
    expect(p.to.sent("GET", "/api/find").query.get("q")).toBe("hip");
    await p.user.keyboard("{ArrowDown}{ArrowDown}"); // the end is the end
    expect(screen.getByRole("combobox").getAttribute("aria-activedescendant")).toBe(screen.getAllByRole("option")[1]?.id);
    await p.user.keyboard("{Enter}");
    expect(p.where()).toBe("/people/hippa");
    expect(screen.queryByRole("combobox")).toBeNull();
  });
  it("opens what the whole word finds, also when Enter comes before the answer", async () => {
    const answered: (() => void)[] = [];
    server({
      "GET /api/find": ({ query }: Asked) =>
        new Promise((done) => {
          const like = found.filter((f) => f.name.toLowerCase().startsWith(query.get("q") ?? ""));
          answered.push(() => done(like));
        }),
    });
    const p = page(<Shell>page</Shell>, { may: ["find"], as: { areas } });
    await p.user.click(screen.getByText("Find anything"));
    await p.user.type(await screen.findByRole("combobox"), "hipp");
    await p.user.keyboard("{Enter}");
    expect(p.where()).toBe("/");
    await waitFor(() => {
      for (const a of answered) a();
      expect(p.where()).toBe("/people/hippa");
    });
  });
  it("does nothing else with what is typed before it is there", async () => {
    const p = open();
    fireEvent.keyDown(document.body, { key: "f" });
    fireEvent.keyDown(document.body, { key: "2" });
    expect(p.where()).toBe("/");
    expect(await screen.findByRole("combobox", { name: "Find anything" })).toBeTruthy();
  });
  it("says when nothing is called so", async () => {
    server({ "GET /api/find": [] });
    const p = page(<Shell>page</Shell>, { may: ["find"], as: { areas } });
    await p.user.click(screen.getByText("Find anything"));
    await p.user.type(await screen.findByRole("combobox"), "zzz");
    expect(await screen.findByText("Nothing is called so, nor nearly so.")).toBeTruthy();
  });
  it("offers only what one may", () => {
    open([]);
    expect(screen.queryByText("Today")).toBeNull();
    expect(screen.queryByText("Find anything")).toBeNull();
  });
});

const tick = (session: string, at: number, more: Partial<S["ClassSummary"]> = {}): S["ClassSummary"] => ({
  session,
  at,
  length: 60,
  mine: false,
  name: session,
  start: "18:00",
  state: "ready",
  summary: "",
  track: "fund",
  ...more,
});

describe("the strip of the week", () => {
  const week: S["Day"][] = [
    { on: "2026-11-23", today: false, classes: [tick("late", 21 * 60), tick("early", 6 * 60), tick("early too", 6 * 60 + 5)] },
    { on: "2026-11-24", today: true, classes: [tick("tonight", 1110, { state: "no coach", summary: "Bridge" })] },
  ];
  it("names each class with its day, its state and what it teaches, in the order of the day", async () => {
    server({ "GET /api/week": week });
    page(<WeekStrip />, { may: ["week", "get-class"] });
    expect(await screen.findByLabelText("Tue 24 Nov, 18:00 tonight: no coach. Bridge")).toBeTruthy();
    expect(screen.getAllByRole("link").map((a) => a.getAttribute("href"))).toEqual([
      "/mat/early",
      "/mat/early too",
      "/mat/late",
      "/mat/tonight",
    ]);
    expect(screen.getByText(/today/)).toBeTruthy();
  });
  it("is only looked at by who may open no class", async () => {
    server({ "GET /api/week": week });
    page(<WeekStrip />, { may: ["week"] });
    expect(await screen.findByRole("img", { name: /tonight/ })).toBeTruthy();
    expect(screen.queryByRole("link")).toBeNull();
  });
  it("asks nothing for who may not see the week", () => {
    const to = server({});
    page(<WeekStrip />);
    expect(to.asked).toEqual([]);
  });
});

describe("today", () => {
  const today = (more: Partial<S["AppTodayPage"]> = {}): S["AppTodayPage"] => ({
    on: "2026-11-24",
    lines: [],
    later: [],
    days: [],
    ...more,
  });
  const line = (what: string, more: Partial<S["AppTodayLine"]> = {}): S["AppTodayLine"] => ({
    area: "Mat",
    what,
    why: "Nobody leads it.",
    action: "Find a coach",
    to: "/mat/x",
    ...more,
  });
  it("is one line when nothing waits, by one's first name", async () => {
    server({ "GET /api/today": today() });
    page(<Today />);
    expect(await screen.findByText(/Nothing waits for you, Hana\./)).toBeTruthy();
    expect(screen.getByText("No classes in the next seven days.")).toBeTruthy();
  });
  it("is what needs a person, in the server's order, each with its reason and its one action", async () => {
    server({
      "GET /api/today": today({
        lines: [
          line("Tuesday has no coach", { due: "2026-11-24" }),
          line("Ana is ready", { area: "Ledger", action: "Look at it", to: "/ledger/ana" }),
        ],
      }),
    });
    page(<Today />);
    const lines = within(await screen.findByRole("list", { name: "What needs you" })).getAllByRole("listitem");
    expect(lines.map((l) => l.querySelector("b")?.textContent)).toEqual(["Tuesday has no coach", "Ana is ready"]);
    expect(screen.getByRole("link", { name: "Look at it: Ana is ready" }).getAttribute("href")).toBe("/ledger/ana");
  });
  it("shows the week from here: who leads, how many will come, what is not planned or closed", async () => {
    const classes = [
      { ...tick("a", 600, { lead: "Sol", summary: "Bridge" }), expected: 12.4 },
      { ...tick("b", 700, { state: "not planned" }), expected: 0.2 },
      { ...tick("c", 800, { state: "closed" }), expected: 9 },
    ];
    server({
      "GET /api/today": today({
        days: [
          { on: "2026-11-24", classes },
          { on: "2026-11-25", classes: [] },
        ],
        season: { id: "s1", name: "Autumn", week: 5, weeks: 12, planned: true, published: 0, coverage: 0.415, start: "", end: "" },
        later: [{ id: "s2", name: "Winter" }],
      }),
    });
    page(<Today />);
    expect(await screen.findByText("≈ 12")).toBeTruthy();
    expect(screen.getAllByTitle(/People expected/).map((x) => x.textContent)).toEqual(["≈ 12", "", ""]);
    expect(screen.getByText("closed")).toBeTruthy();
    expect(screen.getByText("not planned")).toBeTruthy();
    expect(screen.getByText(/42% of what is asked is expected .*, once it is published\./)).toBeTruthy();
    expect(screen.getByRole("link", { name: "Winter" }).getAttribute("href")).toBe("/season/s2");
  });
});

describe("signing in", () => {
  const type = async (p: ReturnType<typeof page>, name: string, password: string) => {
    if (name) await p.user.type(screen.getByLabelText("Name"), name);
    if (password) await p.user.type(screen.getByLabelText("Password"), password);
    await p.user.click(screen.getByRole("button", { name: "Sign in" }));
  };
  it("asks for both before it asks the server", async () => {
    const to = server({});
    const p = page(<SignIn />);
    await type(p, "hana", "");
    expect(screen.getByText("Write your name and your password.")).toBeTruthy();
    expect(to.asked).toEqual([]);
  });
  it("keeps what was written when it is refused", async () => {
    server({ "POST /api/session": refuse(401, "That is not right.") });
    const p = page(<SignIn />);
    await type(p, "hana", "wrong");
    expect(await screen.findByText("That is not right.")).toBeTruthy();
    expect(screen.getByLabelText<HTMLInputElement>("Password").value).toBe("wrong");
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Sign in" }).disabled).toBe(false);
  });
  it("asks for the code of the second factor where there is one, and says there what is wrong with it", async () => {
    const to = server({
      "POST /api/session": (a: { body: { code?: string } }) => (a.body.code ? refuse(401, "That code is not right.") : {}),
    });
    const p = page(<SignIn />);
    await type(p, "hana", "right");
    await p.user.type(await screen.findByLabelText("Code"), "000000");
    await p.user.click(screen.getByRole("button", { name: "Sign in" }));
    expect(await screen.findByText("That code is not right.")).toBeTruthy();
    expect(to.sent("POST", "/api/session").body).toEqual({ name: "hana", password: "right", code: "000000" });
  });
  it("lets in", async () => {
    server({ "POST /api/session": { me: { name: "Hana" } } });
    const p = page(<SignIn />);
    await type(p, "hana", "right");
    await waitFor(() => expect(p.queries.getQueryData(["me"])).toEqual({ name: "Hana" }));
  });
  it("sends a letter to who forgot, and tells nobody whether there is such an account", async () => {
    const to = server({ "POST /api/forgotten": undefined });
    const p = page(<SignIn />);
    await p.user.click(screen.getByText("Forgotten password"));
    expect(screen.getByText(/Write your name first/)).toBeTruthy();
    await p.user.type(screen.getByLabelText("Name"), "hana");
    await p.user.click(screen.getByText("Forgotten password"));
    expect(await screen.findByText(/If there is an account “hana”/)).toBeTruthy();
    expect(to.sent("POST", "/api/forgotten").body).toEqual({ name: "hana" });
  });
  it("says when the server is not there", async () => {
    server({ "POST /api/session": offline });
    const p = page(<SignIn />);
    await type(p, "hana", "right");
    expect(await screen.findByText(/The server does not answer/)).toBeTruthy();
  });
});

describe("an address that opens once", () => {
  const open = (opened: unknown, more: Record<string, unknown> = {}, hash = "#secret") => {
    history.replaceState(null, "", `/link${hash}`);
    const to = server({ "POST /api/links/open": opened, ...more });
    return { to, ...page(<LinkPage />, { at: "/link", path: "/link" }) };
  };
  it("that is not whole says so without asking", () => {
    const p = open({}, {}, "");
    expect(screen.getByText("This address is not whole: copy all of it.")).toBeTruthy();
    expect(p.to.asked).toEqual([]);
  });
  it("that opens nothing any more says why", async () => {
    open(refuse(410, "It was used already."));
    expect(await screen.findByText("It was used already.")).toBeTruthy();
    expect(screen.getByText("To the sign-in")).toBeTruthy();
  });
  it("takes up an invitation with a password", async () => {
    const p = open(
      { kind: "invite", academy: "Lantern Street", name: "Sol", sign_in: "sol", least: 12 },
      { "POST /api/links/use": { me: { home: "/mat" } } },
    );
    await p.user.type(await screen.findByLabelText("Password"), "four plain words here");
    await p.user.click(screen.getByText("Set password"));
    await waitFor(() => expect(p.where()).toBe("/mat"));
    expect(p.to.sent("POST", "/api/links/use").body).toEqual({ token: "secret", password: "four plain words here" });
  });
  it("keeps the password that was refused, and asks for the code where there is a second factor", async () => {
    let answer: unknown = refuse(422, "That is among the passwords everybody tries.");
    const p = open({ kind: "reset", academy: "Lantern Street", sign_in: "sol", least: 12 }, { "POST /api/links/use": () => answer });
    await p.user.type(await screen.findByLabelText("Password"), "password1234");
    await p.user.click(screen.getByText("Set password"));
    expect(await screen.findByText("That is among the passwords everybody tries.")).toBeTruthy();
    answer = {};
    await p.user.click(screen.getByText("Set password"));
    expect(await screen.findByLabelText("Code")).toBeTruthy();
  });
  it("begins an academy, and says at the field what is wrong", async () => {
    let answer: unknown = refuse(422, "Wrong.", { sign_in: "without spaces" });
    const p = open({ kind: "setup", least: 12 }, { "POST /api/links/setup": () => answer });
    await p.user.type(await screen.findByLabelText("Academy"), "Lantern Street");
    await p.user.type(screen.getByLabelText("Head instructor"), "Hana Vell");
    await p.user.type(screen.getByLabelText("Sign in as"), "hana v");
    await p.user.click(screen.getByText("Begin"));
    expect(await screen.findByText("without spaces")).toBeTruthy();
    answer = { me: { home: "/today" } };
    await p.user.click(screen.getByText("Begin"));
    await waitFor(() => expect(p.where()).toBe("/begin"));
    expect(p.to.sent("POST", "/api/links/setup").body).toMatchObject({
      token: "secret",
      academy: "Lantern Street",
      name: "Hana Vell",
      week_start: 1,
    });
  });
});

describe("signing out", () => {
  it("asks first when something from the mat was not sent", async () => {
    await put({ kind: "check-in", session: "x", words: "Ana is here", method: "PUT", path: "/api/x" });
    const to = server({ "DELETE /api/session": undefined });
    const ask = vi.spyOn(window, "confirm").mockReturnValue(false);
    const p = page(<Shell>page</Shell>);
    await p.user.click(screen.getByText("Sign out"));
    await waitFor(() => expect(ask).toHaveBeenCalledWith(expect.stringContaining("1 things from the mat were not sent yet")));
    expect(to.asked).toEqual([]);
    await empty();
  });
});
