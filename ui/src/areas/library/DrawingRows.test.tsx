import { describe, expect, it } from "vitest";
import { withPoint } from "./DrawingRows";

const lines = "you on the back: head 0,4; hips 0.5,-3\nyour {left} hand: their {right} shoulder\narrow from 1,1 to -2,-0.5: out, and in";

describe("a point of a drawing that is moved", () => {
  it.each([
    [{ line: 0, pair: 0 }, 2, -1.5, "you on the back: head 2,-1.5; hips 0.5,-3"],
    [{ line: 0, pair: 1 }, -0, 3, "you on the back: head 0,4; hips 0,3"],
    [{ line: 2, pair: 1 }, 4, 4, "arrow from 1,1 to 4,4: out, and in"],
  ])("is written where it stood: %o", (at, x, y, line) => {
    const moved = withPoint(lines, at, x, y).split("\n");
    expect(moved[at.line]).toBe(line);
    expect(moved.filter((_, i) => i !== at.line)).toEqual(lines.split("\n").filter((_, i) => i !== at.line));
  });

  it("changes nothing where there is no such point", () => {
    expect(withPoint(lines, { line: 1, pair: 0 }, 1, 1)).toBe(lines);
    expect(withPoint(lines, { line: 7, pair: 0 }, 1, 1)).toBe(lines);
  });
});
