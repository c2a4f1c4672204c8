import { act, fireEvent, render, renderHook, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { Link, MemoryRouter } from "react-router";
import { afterEach, describe, expect, it, vi } from "vitest";
import { Trouble } from "../api/client";
import { fileOf, page, tidy } from "../testing";
import { Belt } from "./Belt";
import { Choice } from "./Choice";
import { Explain } from "./Explain";
import { Input, Select, TextArea } from "./Field";
import { FirstStep } from "./FirstStep";
import { textFile } from "./file";
import { groundNow, setGround, startGround } from "./ground";
import { Legend } from "./Legend";
import { usePrinting } from "./printing";
import { Refusal } from "./Refusal";
import { Rows } from "./Rows";
import { arrows, Note, SplitPane } from "./SplitPane";
import { Ticks } from "./Ticks";
import { Waymark } from "./Waymark";
import { date, newId, percent, shortDate, weekday, whole } from "./words";

afterEach(tidy);

describe("words", () => {
  it.each([
    ["2026-11-24", "Tue 24 Nov"],
    ["2026-11-29", "Sun 29 Nov"],
    ["2028-02-29", "Tue 29 Feb"],
    ["2027-01-01", "Fri 1 Jan"],
  ])("write %s as %s, wherever the device stands", (day, words) => expect(date(day)).toBe(words));
  it("write a day without its weekday", () => expect(shortDate("2026-03-09")).toBe("9 Mar"));
  it("name a weekday from Monday on, and nothing outside of a week", () => {
    expect([1, 7].map(weekday)).toEqual(["Mon", "Sun"]);
    expect([0, 8].map(weekday)).toEqual(["", ""]);
  });
  it.each([
    [0, "0%"],
    [0.004, "0%"],
    [0.005, "1%"],
    [1, "100%"],
  ])("write the share %d as %s", (share, words) => expect(percent(share)).toBe(words));
  it.each([
    ["12", 12],
    ["1 200", 1200],
    ["-3", 3],
    ["", 0],
    ["abc", 0],
  ])("read %j as the whole number %d", (text, n) => expect(whole(text)).toBe(n));
  it("make identifiers nobody else has", () => {
    const ids = new Set(Array.from({ length: 500 }, newId));
    expect(ids.size).toBe(500);
    for (const id of ids) expect(id).toMatch(/^[0-9a-f]{24}$/);
  });
});

describe("a field", () => {
  it("is named by its label and described by its hint", () => {
    render(<Input label="Weight" hint="in kg" />);
    const field = screen.getByRole("textbox", { name: "Weight" });
    expect(document.getElementById(field.getAttribute("aria-describedby") ?? "")?.textContent).toBe("in kg");
    expect(field.getAttribute("aria-invalid")).toBe("false");
  });
  it("says what is wrong in place of the hint", () => {
    render(<TextArea label="Note" hint="short" error="too long" />);
    const field = screen.getByLabelText("Note");
    expect(field.getAttribute("aria-invalid")).toBe("true");
    expect(screen.getByText("too long").id).toBe(field.getAttribute("aria-describedby"));
    expect(screen.queryByText("short")).toBeNull();
  });
  it("shows a password while one looks at it, and no other field so", async () => {
    render(
      <>
        <Input label="Password" type="password" />
        <Input label="Name" />
      </>,
    );
    const field = screen.getByLabelText("Password");
    expect(field.getAttribute("type")).toBe("password");
    const show = screen.getByRole("button", { name: "Show password" });
    await userEvent.click(show);
    expect(field.getAttribute("type")).toBe("text");
    expect(show.getAttribute("aria-pressed")).toBe("true");
    await userEvent.click(show);
    expect(field.getAttribute("type")).toBe("password");
    expect(screen.getAllByRole("button")).toHaveLength(1);
  });
  it("gives its choice on", async () => {
    const put = vi.fn();
    render(
      <Select label="Rank" onChange={(e) => put(e.target.value)}>
        <option value="a">White</option>
        <option value="b">Blue</option>
      </Select>,
    );
    await userEvent.selectOptions(screen.getByLabelText("Rank"), "Blue");
    expect(put).toHaveBeenCalledWith("b");
  });
});

describe("a choice", () => {
  const options = [
    { value: "gi", label: "Gi" },
    { value: "no-gi", label: "No-gi" },
  ];
  it("says which one is on and gives the other on", async () => {
    const put = vi.fn();
    render(<Choice label="Jacket" value="gi" options={options} onChange={put} />);
    expect(screen.getByRole("radio", { name: "Gi" }).getAttribute("aria-checked")).toBe("true");
    await userEvent.click(screen.getByRole("radio", { name: "No-gi" }));
    expect(put).toHaveBeenCalledWith("no-gi");
  });
  it("does not let the one that is on be taken away", async () => {
    const put = vi.fn();
    render(<Choice label="Jacket" value="gi" options={options} onChange={put} />);
    await userEvent.click(screen.getByRole("radio", { name: "Gi" }));
    expect(put).not.toHaveBeenCalled();
  });
  it("is walked with the arrow keys", async () => {
    render(<Choice label="Jacket" value="gi" options={options} onChange={() => undefined} />);
    await userEvent.tab();
    expect(document.activeElement?.textContent).toBe("Gi");
    await userEvent.keyboard("{ArrowRight}");
    expect(document.activeElement?.textContent).toBe("No-gi");
  });
  it("takes nothing while it is not to be used", async () => {
    const put = vi.fn();
    render(<Choice label="Jacket" value="gi" options={options} onChange={put} disabled />);
    await userEvent.click(screen.getByRole("radio", { name: "No-gi" }));
    expect(put).not.toHaveBeenCalled();
  });
});

describe("an explained number", () => {
  it("is named by what is seen, described by what it is, and opens its source", async () => {
    render(
      <Explain label="Where it comes from" number="41%">
        Of 20 needs.
      </Explain>,
    );
    const number = screen.getByRole("button", { name: "41%" });
    expect(number.getAttribute("title")).toBe("Where it comes from");
    expect(screen.queryByText("Of 20 needs.")).toBeNull();
    await userEvent.click(number);
    expect(screen.getByText("Of 20 needs.")).toBeTruthy();
    await userEvent.keyboard("{Escape}");
    expect(screen.queryByText("Of 20 needs.")).toBeNull();
  });
});

function List({ begin, add = "Add a line" }: { begin: string[]; add?: string }) {
  const [items, set] = useState(begin);
  return (
    <>
      <Rows title="Lines" add={add} items={items} blank={() => "new"} onChange={set}>
        {(x, put, i) => <input aria-label={`Line ${i + 1}`} value={x} onChange={(e) => put(e.target.value)} />}
      </Rows>
      <output>{items.join("|")}</output>
    </>
  );
}

describe("rows", () => {
  const lines = () => screen.getByRole("status").textContent;
  it("move up and down, and stop at the ends", async () => {
    render(<List begin={["a", "b", "c"]} />);
    expect(screen.getByLabelText<HTMLButtonElement>("Up: Lines 1").disabled).toBe(true);
    expect(screen.getByLabelText<HTMLButtonElement>("Down: Lines 3").disabled).toBe(true);
    await userEvent.click(screen.getByLabelText("Down: Lines 1"));
    expect(lines()).toBe("b|a|c");
    await userEvent.click(screen.getByLabelText("Up: Lines 3"));
    expect(lines()).toBe("b|c|a");
  });
  it("are taken out and added, each by itself", async () => {
    render(<List begin={["a", "b", "c"]} />);
    await userEvent.click(screen.getByLabelText("Remove: Lines 2"));
    expect(lines()).toBe("a|c");
    await userEvent.click(screen.getByText("Add a line"));
    expect(lines()).toBe("a|c|new");
  });
  it("change one line and leave the others", async () => {
    render(<List begin={["a", "b"]} />);
    await userEvent.type(screen.getByLabelText("Line 2"), "!");
    expect(lines()).toBe("a|b!");
  });
  it("offer no more where there may be no more", () => {
    render(<List begin={["a"]} add="" />);
    expect(screen.queryByText("Add a line")).toBeNull();
  });
});

describe("ticks", () => {
  const all = [
    { id: "a", name: "Ana" },
    { id: "b", name: "Bo" },
  ];
  it("add to what is chosen and take from it", async () => {
    const put = vi.fn();
    const { rerender } = render(<Ticks label="Who" all={all} chosen={["a"]} onChange={put} />);
    await userEvent.click(screen.getByLabelText("Bo"));
    expect(put).toHaveBeenLastCalledWith(["a", "b"]);
    rerender(<Ticks label="Who" all={all} chosen={["a", "b"]} onChange={put} error="one too many" />);
    await userEvent.click(screen.getByLabelText("Ana"));
    expect(put).toHaveBeenLastCalledWith(["b"]);
    expect(screen.getByText("one too many")).toBeTruthy();
  });
});

describe("marks", () => {
  it.each([
    [{ rung: "passed" }, "passed"],
    [{ rung: "drilled", due: true }, "drilled, due for a refresh"],
    [{ rung: "met", held: true, label: "left" }, "left, met, held"],
  ])("say what they draw: %o", (marked, words) => {
    render(<Waymark {...marked} />);
    expect(screen.getByRole("img", { name: words })).toBeTruthy();
  });
  it.each([
    ["not met", 0],
    ["met", 1],
    ["drilled", 2],
    ["passed", 3],
    ["live", 4],
    ["teaches", 4],
    ["no such rung", 0],
  ])("draw %s with %d strong edges", (rung, edges) => {
    const { container } = render(<Waymark rung={rung} />);
    expect(container.querySelectorAll('path[stroke="currentColor"]')).toHaveLength(edges);
    expect(container.querySelectorAll("circle")).toHaveLength(rung === "teaches" ? 1 : 0);
  });
  it("are explained one step away", async () => {
    render(<Legend />);
    await userEvent.click(screen.getByText("Waymarks"));
    for (const rung of ["not met", "met", "drilled", "passed", "live", "teaches", "due", "held"])
      expect(screen.getByText(rung, { selector: "b" })).toBeTruthy();
  });
  it("name a belt, also one of a colour nobody foresaw", () => {
    render(<Belt belt="turquoise" rank="Turquoise" />);
    expect(screen.getByRole("img", { name: "Turquoise belt" })).toBeTruthy();
  });
});

describe("a refusal", () => {
  it("says the sentence where no field is named", () => {
    render(<Refusal error={new Trouble(409, "Somebody was quicker.", {})} />);
    expect(screen.getByRole("alert").textContent).toContain("Somebody was quicker.");
  });
  it("names each field as a person would", () => {
    render(<Refusal error={new Trouble(422, "wrong", { "key_points[1].faults[0].what": "say what goes wrong" })} />);
    expect(screen.getByText("key points 2, faults 1, what:")).toBeTruthy();
    expect(screen.getByText(/say what goes wrong/)).toBeTruthy();
  });
});

describe("a split page", () => {
  it("moves the focus among rows, and leaves a field's own keys to it", () => {
    render(
      // biome-ignore lint/a11y/noStaticElementInteractions: as the pages have it
      <div onKeyDown={arrows} data-testid="list">
        <button type="button" data-row>
          one
        </button>
        <button type="button" data-row>
          two
        </button>
        <select aria-label="other">
          <option>x</option>
        </select>
      </div>,
    );
    const [one, two] = screen.getAllByRole("button") as [HTMLElement, HTMLElement];
    one.focus();
    fireEvent.keyDown(one, { key: "ArrowDown" });
    expect(document.activeElement).toBe(two);
    fireEvent.keyDown(two, { key: "ArrowDown" });
    expect(document.activeElement).toBe(two); // there is no third
    fireEvent.keyDown(two, { key: "ArrowUp" });
    expect(document.activeElement).toBe(one);
    const select = screen.getByLabelText("other");
    select.focus();
    fireEvent.keyDown(select, { key: "ArrowUp" });
    expect(document.activeElement).toBe(select);
  });
  it("enters a list at its near end", () => {
    render(
      // biome-ignore lint/a11y/noStaticElementInteractions: as the pages have it
      <div onKeyDown={arrows}>
        <input aria-label="search" />
        {["one", "two", "three"].map((x) => (
          <button key={x} type="button" data-row>
            {x}
          </button>
        ))}
      </div>,
    );
    const search = screen.getByLabelText("search");
    search.focus();
    fireEvent.keyDown(search, { key: "ArrowUp" });
    expect(document.activeElement?.textContent).toBe("three");
    search.focus();
    fireEvent.keyDown(search, { key: "ArrowDown" });
    expect(document.activeElement?.textContent).toBe("one");
  });
  it("prints the side it is asked to", () => {
    const { container } = render(
      <MemoryRouter>
        <SplitPane left="L" right="R" prints="right" />
      </MemoryRouter>,
    );
    const [left, right] = container.querySelectorAll("section");
    expect(left?.className).toContain("no-print");
    expect(right?.className).not.toContain("no-print");
  });
  it.each([
    [true, 1],
    [false, 0],
  ])("brings what was picked into view where the two sides stand one below the other: %s", async (narrow, times) => {
    vi.stubGlobal("matchMedia", () => ({ matches: narrow }));
    const scroll = vi.fn();
    Element.prototype.scrollIntoView = scroll;
    const p = page(<SplitPane left={<Link to="/people/ana">Ana</Link>} right="Ana's page" />);
    expect(scroll).not.toHaveBeenCalled(); // what a page opens with is at its top
    await p.user.click(screen.getByText("Ana"));
    expect(scroll).toHaveBeenCalledTimes(times);
    await p.user.click(screen.getByText("Back up"));
    expect(scroll).toHaveBeenCalledTimes(times + 1);
  });
  it("says what belongs into an empty list, and the ways to begin", () => {
    render(
      <MemoryRouter>
        <FirstStep title="No people" ways={[["/people", "Add people"]]}>
          People stand here.
        </FirstStep>
        <Note title="Mind:">this</Note>
      </MemoryRouter>,
    );
    expect(screen.getByRole("heading", { name: "No people" })).toBeTruthy();
    expect(screen.getByRole("link", { name: "Add people" }).getAttribute("href")).toBe("/people");
    expect(screen.getByText("Mind:")).toBeTruthy();
  });
});

describe("a file", () => {
  it.each([
    ["plain text", new Uint8Array([110, 97, 109, 101, 10]), "bmFtZQo="],
    ["bytes that are no text", new Uint8Array([0, 255, 254, 10]), "AP/+Cg=="],
    ["nothing", new Uint8Array([]), ""],
  ])("goes with its bytes in base 64: %s", async (_, bytes, text) => {
    expect(await textFile(fileOf("people.csv", bytes))).toEqual({ name: "people.csv", text });
  });
});

describe("the ground", () => {
  const device = (dark: boolean) => {
    const hear: (() => void)[] = [];
    const media = { matches: dark, addEventListener: (_: string, f: () => void) => hear.push(f) };
    vi.stubGlobal("matchMedia", () => media);
    return {
      turn: (to: boolean) => {
        media.matches = to;
        for (const f of hear) f();
      },
    };
  };
  const shown = () => document.documentElement.dataset.ground;
  it("follows the device, also when it changes its mind", () => {
    const d = device(false);
    startGround();
    expect(shown()).toBe("light");
    d.turn(true);
    expect(shown()).toBe("dark");
  });
  it("stays as it was chosen here", () => {
    const d = device(false);
    startGround();
    setGround("dark");
    expect([shown(), groundNow()]).toEqual(["dark", "dark"]);
    d.turn(false);
    expect(shown()).toBe("dark");
    setGround("device");
    expect([shown(), groundNow()]).toEqual(["light", "device"]);
  });
  it("takes what it does not know for the device's", () => {
    device(false);
    localStorage.setItem("vereda-ground", "purple");
    expect(groundNow()).toBe("device");
  });
});

describe("printing", () => {
  it("is known from before the printer looks until it is done", () => {
    const { result } = renderHook(usePrinting);
    expect(result.current).toBe(false);
    act(() => void window.dispatchEvent(new Event("beforeprint")));
    expect(result.current).toBe(true);
    act(() => void window.dispatchEvent(new Event("afterprint")));
    expect(result.current).toBe(false);
  });
});
