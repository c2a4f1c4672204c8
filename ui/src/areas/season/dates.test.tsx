import { screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import type { S } from "../../api/client";
import { page, refuse, server, tidy } from "../../testing";
import { Dates } from "./Dates";

afterEach(tidy);

const season = (more: Partial<S["SeasonPage"]> = {}) =>
  ({
    line: { id: "s1", name: "Autumn", start: "2026-09-07", end: "2026-10-18", weeks: 6, planned: true, coverage: 0.5 },
    units: [
      { id: "lock", name: "Arm lock" },
      { id: "sweep", name: "Sweep" },
    ],
    rows: [{ class: "tue", name: "Fundamentals", track: "Fundamentals", day: 2, start: "18:00", cells: [] }],
    ways: [{ track: "fund", name: "Fundamentals", mode: "same", school: "block" }],
    breaks: [],
    dates: [],
    ...more,
  }) as unknown as S["SeasonPage"];

const grading: S["DateLine"] = {
  date: { id: "d1", kind: "grading", name: "Grading", on: "2026-10-01", seen: ["lock"] },
  week: 4,
  past: false,
  by: 3,
  from: 0,
  to: 0,
  lacking: 1,
  says: "1 of 1 not taught by week 3.",
  seen: [{ unit: "lock", name: "Arm lock", week: 5, late: true }],
};

const head = { may: ["set-dates"] };

describe("the dates of a season", () => {
  it("say what they are for where there are none, and a new one is saved with what there was", async () => {
    const to = server({ "PUT /api/seasons/s1/dates": { change: "c" } });
    const p = page(<Dates page={season()} />, head);
    expect(screen.getByText(/A grading day, a competition/)).toBeTruthy();
    await p.user.click(screen.getByText("New date"));
    await p.user.selectOptions(screen.getByLabelText("Kind"), "competition");
    await p.user.type(screen.getByLabelText("Name"), "Harbour Open");
    await p.user.type(screen.getByLabelText("Day"), "2026-10-10");
    for (const unit of ["sweep", "lock"]) {
      await p.user.selectOptions(screen.getByLabelText("Taught before it"), unit);
      await p.user.click(screen.getByLabelText("Add: Taught before it"));
    }
    await p.user.click(screen.getByLabelText("Remove Sweep"));
    await p.user.click(screen.getByLabelText(/Nothing in them that loads a neck/));
    await p.user.selectOptions(screen.getByLabelText("Takes the place of"), "tue");
    await p.user.click(screen.getByLabelText("Add: Takes the place of"));
    await p.user.click(screen.getByText("Save"));
    await waitFor(() => expect(to.sent("PUT", "/api/seasons/s1/dates").body).toBeTruthy());
    expect(to.sent("PUT", "/api/seasons/s1/dates").body).toEqual({
      dates: [{ id: "", kind: "competition", name: "Harbour Open", on: "2026-10-10", seen: ["lock"], calm: true, classes: ["tue"] }],
      was: [],
    });
  });
  it("stand with how the plan does, are edited and deleted", async () => {
    const to = server({ "PUT /api/seasons/s1/dates": {} });
    const p = page(<Dates page={season({ dates: [grading] })} />, head);
    expect(screen.getByText("1 of 1 not taught by week 3.")).toBeTruthy();
    expect(screen.getByText("week 5, too late")).toBeTruthy();
    await p.user.click(screen.getByText("Edit"));
    const form = within(screen.getByLabelText("Edit Grading"));
    await p.user.clear(form.getByLabelText("Name"));
    await p.user.type(form.getByLabelText("Name"), "Belt test");
    await p.user.click(form.getByText("Save"));
    expect(to.sent("PUT", "/api/seasons/s1/dates").body).toMatchObject({
      dates: [{ id: "d1", name: "Belt test" }],
      was: [{ id: "d1", name: "Grading" }],
    });
    await p.user.click(await screen.findByText("Delete"));
    await waitFor(() => expect(to.sent("PUT", "/api/seasons/s1/dates").body).toMatchObject({ dates: [] }));
  });
  it("say at their field what is wrong, and lose nothing", async () => {
    server({ "PUT /api/seasons/s1/dates": refuse(422, "Check what you entered.", { "dates[0].on": "it is in the first week" }) });
    const p = page(<Dates page={season({ dates: [grading] })} />, head);
    await p.user.click(screen.getByText("Edit"));
    await p.user.click(screen.getByText("Save"));
    expect(await screen.findByText("it is in the first week")).toBeTruthy();
    expect(screen.getByLabelText("Name")).toHaveProperty("value", "Grading");
  });
  it("offer the repair of a plan that breaks them", async () => {
    const proposal = {
      before: 0.5,
      broken: 0.5,
      after: 0.52,
      anew: 0.53,
      fewest: false,
      changes: [],
      dropped: [],
      summary: "Mended",
      what: { week: 1 },
    };
    const to = server({ "POST /api/seasons/s1/repairs/proposals": proposal, "POST /api/seasons/s1/repairs": { change: "c" } });
    const p = page(
      <Dates
        page={season({
          dates: [grading],
          breaks: [{ week: 3, class: "", name: "", rule: "wanted", what: "Arm lock is wanted by week 3.", own: false }],
        })}
      />,
      head,
    );
    await p.user.click(screen.getByText("Show the repair"));
    await p.user.click(await screen.findByText("Repair plan"));
    await waitFor(() => expect(to.sent("POST", "/api/seasons/s1/repairs").body).toEqual({ kind: "changed", week: 1 }));
  });
});
