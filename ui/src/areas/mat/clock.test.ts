import { describe, expect, it } from "vitest";
import { clockWords, place, secondsBefore } from "./clock";

const evening = [{ seconds: 300 }, { seconds: 60 }, { seconds: 15 }, { seconds: 60 }];

describe("the place of the clock", () => {
  it.each([
    [0, 0, 300],
    [299, 0, 1],
    [300, 1, 60], // the moment of a change belongs to what begins
    [360, 2, 15],
    [374, 2, 1],
    [434, 3, 1],
    [435, 3, 0],
    [9999, 3, 0], // after the end
  ])("after %d s is stretch %d with %d s left", (passed, at, left) => {
    expect(place(evening, passed)).toEqual({ at, left });
  });
  it("is nowhere in a class without a sheet", () => {
    expect(place([], 10)).toEqual({ at: 0, left: 0 });
  });
  it("a jump to a stretch is at its very beginning, and to none before the first", () => {
    for (const n of [0, 1, 2, 3]) expect(place(evening, secondsBefore(evening, n))).toEqual({ at: n, left: evening[n]?.seconds });
    expect(secondsBefore(evening, -1)).toBe(0);
    expect(secondsBefore(evening, 99)).toBe(435);
  });
  it("seconds add up: what passed, and what is left of this and of all that follow", () => {
    const total = secondsBefore(evening, evening.length);
    for (let passed = 0; passed < total; passed++) {
      const { at, left } = place(evening, passed);
      const later = evening.slice(at + 1).reduce((n, t) => n + t.seconds, 0);
      expect(passed + left + later).toBe(total);
    }
  });
});

it.each([
  [0, "0:00"],
  [5, "0:05"],
  [65, "1:05"],
  [600, "10:00"],
  [3661, "61:01"],
])("%d seconds are written %s", (seconds, words) => {
  expect(clockWords(seconds)).toBe(words);
});
