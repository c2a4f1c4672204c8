import { screen, within } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import type { S } from "../../api/client";
import { page, refuse, server, tidy } from "../../testing";
import { Stations } from "./Stations";
import { session } from "./session.fixture";

afterEach(tidy);

const station = (id: string, more: Partial<S["AcademyNamedStation"]> = {}): S["AcademyNamedStation"] => ({
  id,
  name: id,
  minutes: 6,
  must: true,
  coach: "any",
  ...more,
});

const stations = (more: Partial<S["StationsPage"]> = {}): S["StationsPage"] => ({
  by: "mixed",
  groups: 2,
  minutes: 30,
  change_minutes: 1,
  coaches: ["sol", "hana"],
  here: [
    { id: "sol", name: "Sol Reed" },
    { id: "hana", name: "Hana Vell" },
  ],
  given: false,
  stale: false,
  rows: [],
  stations: [station("Grips"), station("Falls", { after: ["Grips"] })],
  ...more,
});

const path = "/api/classes/tue@2026-11-24/stations";
const open = (more: Partial<S["StationsPage"]> = {}) => page(<Stations page={session({ stations: stations(more) })} />);
const sentBy = (to: ReturnType<typeof server>) => to.sent("PUT", path).body as S["AcademyStations"];

describe("the stations of a class", () => {
  it("are planned as they are written", async () => {
    const to = server({ [`PUT ${path}`]: { change: "c" } });
    const p = open();
    await p.user.clear(screen.getByLabelText("Groups"));
    await p.user.type(screen.getByLabelText("Groups"), "3");
    await p.user.click(screen.getByRole("radio", { name: "Size" }));
    await p.user.click(screen.getByLabelText("Sol Reed"));
    await p.user.selectOptions(screen.getByLabelText("Coach: Grips"), "Hana Vell");
    await p.user.type(screen.getByLabelText("Room: Falls"), "4");
    await p.user.click(screen.getByText("Plan the stations"));
    expect(sentBy(to)).toMatchObject({
      groups: 3,
      by: "size",
      coaches: ["hana"],
      stations: [
        { id: "Grips", coach: "hana" },
        { id: "Falls", room: 4, after: ["Grips"] },
      ],
    });
    expect(sentBy(to).stations[0]).not.toHaveProperty("room"); // an empty room is no limit, not a room for nobody
  });
  it("offer a coach only while they are here", async () => {
    const p = open();
    const coach = () => within(screen.getByLabelText("Coach: Grips")).queryByText("Sol Reed");
    expect(coach()).toBeTruthy();
    await p.user.click(screen.getByLabelText("Sol Reed"));
    expect(coach()).toBeNull();
  });
  it("forget a station that is removed wherever another one named it", async () => {
    const to = server({ [`PUT ${path}`]: {} });
    const p = open({
      stations: [
        station("Grips"),
        station("Falls", { after: ["Grips"] }),
        station("Catch up", { for: ["ana"], instead: ["Grips", "Falls"] }),
      ],
    });
    await p.user.click(screen.getByLabelText("Remove Grips"));
    await p.user.click(screen.getByText("Plan the stations"));
    expect(sentBy(to).stations.map((s) => [s.id, s.after ?? [], s.instead ?? []])).toEqual([
      ["Falls", [], []],
      ["Catch up", [], ["Falls"]],
    ]);
  });
  it("are added with a name of their own, one check station at most", async () => {
    const p = open();
    await p.user.click(screen.getByText("Add a station"));
    expect(screen.getByLabelText<HTMLInputElement>("Name of station 3").value).toBe("Station 3");
    await p.user.click(screen.getByText("Add a check station"));
    expect(screen.getByLabelText<HTMLInputElement>("Name of station 4").value).toBe("Checks");
    expect(screen.queryByText("Add a check station")).toBeNull();
  });
  it("for some say for whom, and which of the others they leave for it", async () => {
    const to = server({ [`PUT ${path}`]: {} });
    const p = open({ stations: [station("Grips"), station("Falls"), station("Catch up", { for: ["ana", "cy"] })] });
    const row = screen.getByText(/For Ana Marr, Cy Marr/);
    await p.user.click(within(row).getByLabelText("Falls"));
    await p.user.click(screen.getByText("Plan the stations"));
    expect(sentBy(to).stations[2]?.instead).toEqual(["Falls"]);
  });
  it("cannot be planned when there are none", () => {
    open({ stations: [] });
    expect(screen.getByText<HTMLButtonElement>("Plan the stations").disabled).toBe(true);
  });
  it("say why they cannot be planned", async () => {
    server({ [`PUT ${path}`]: refuse(422, "30 minutes are too few for 5 stations.") });
    const p = open();
    await p.user.click(screen.getByText("Plan the stations"));
    expect((await screen.findAllByText("30 minutes are too few for 5 stations.")).length).toBeGreaterThan(0);
  });
  it("show each group's way, who waits, and what fell out", () => {
    open({
      given: true,
      rows: [
        {
          people: [{ id: "ana", name: "Ana" }],
          visits: [
            { station: "Grips", name: "Grips", start: 0, end: 6, coach: "Sol" },
            { station: "Falls", name: "Falls", start: 8, end: 14 },
          ],
        },
      ],
      plan: { groups: [["ana"]], idle_minutes: 1, idle_bound: 1, left_out: ["Falls"], visits: [] },
    });
    expect(screen.getByText(/14 minutes/).textContent).toMatch(/wait 1 minutes in all; less than 1 cannot be\..*Left out: Falls\./);
  });
  it("are to be planned again when somebody came or left", () => {
    open({ stale: true, given: true, rows: [{ people: [], visits: [] }] });
    expect(screen.getByText("Somebody came or left.")).toBeTruthy();
  });
  it("are nothing where the class has none to offer", () => {
    page(<Stations page={session()} />);
    expect(document.querySelector("main, table, button")).toBeNull(); // and no page of what went wrong
    expect(screen.queryByText(/Unexpected|error/i)).toBeNull();
  });
});
