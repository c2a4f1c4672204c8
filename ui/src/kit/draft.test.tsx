import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { createMemoryRouter, Link, RouterProvider } from "react-router";
import { afterEach, describe, expect, it, vi } from "vitest";
import { useOpened, useUnsaved } from "./draft";

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

function Form({ version }: { version: number }) {
  return <p>made on {useOpened(version)}</p>;
}

function Page({ dirty }: { dirty: boolean }) {
  useUnsaved(dirty);
  return <Link to="/elsewhere">Go</Link>;
}

describe("useOpened", () => {
  it("keeps the version the form was opened at when the record is read anew", () => {
    const { rerender } = render(<Form version={4} />);
    rerender(<Form version={5} />);
    expect(screen.getByText("made on 4")).toBeTruthy();
  });
  it("takes the new one when the form is opened again", () => {
    const { rerender } = render(<Form key="a" version={4} />);
    rerender(<Form key="b" version={5} />);
    expect(screen.getByText("made on 5")).toBeTruthy();
  });
});

describe("useUnsaved", () => {
  const open = (dirty: boolean) => {
    const router = createMemoryRouter(
      [
        { path: "/", element: <Page dirty={dirty} /> },
        { path: "/elsewhere", element: <p>Elsewhere</p> },
      ],
      { initialEntries: ["/"] },
    );
    render(<RouterProvider router={router} />);
  };
  it("lets go who has nothing unsaved", async () => {
    const ask = vi.spyOn(window, "confirm");
    open(false);
    await userEvent.click(screen.getByText("Go"));
    expect(await screen.findByText("Elsewhere")).toBeTruthy();
    expect(ask).not.toHaveBeenCalled();
  });
  it("keeps who wants to stay with what is unsaved", async () => {
    const ask = vi.spyOn(window, "confirm").mockReturnValue(false);
    open(true);
    await userEvent.click(screen.getByText("Go"));
    expect(ask).toHaveBeenCalledOnce();
    expect(screen.getByText("Go")).toBeTruthy();
    expect(screen.queryByText("Elsewhere")).toBeNull();
  });
  it("lets go who leaves it all the same", async () => {
    vi.spyOn(window, "confirm").mockReturnValue(true);
    open(true);
    await userEvent.click(screen.getByText("Go"));
    expect(await screen.findByText("Elsewhere")).toBeTruthy();
  });
  it("asks before the page is closed, only while something is unsaved", () => {
    open(true);
    const closing = new Event("beforeunload", { cancelable: true });
    window.dispatchEvent(closing);
    expect(closing.defaultPrevented).toBe(true);
    cleanup();
    open(false);
    const free = new Event("beforeunload", { cancelable: true });
    window.dispatchEvent(free);
    expect(free.defaultPrevented).toBe(false);
  });
});
