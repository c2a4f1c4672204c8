import { QueryClient, QueryClientProvider, useQuery } from "@tanstack/react-query";
import { act, cleanup, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { useClassChanges } from "./changes";

class Stream {
  static all: Stream[] = [];
  onopen?: () => void;
  onerror?: () => void;
  onmessage?: () => void;
  close = vi.fn();
  constructor(readonly url: string) {
    Stream.all.push(this);
  }
}

let asked = 0;

function Page({ id }: { id: string }) {
  useClassChanges(id);
  const q = useQuery({ queryKey: ["session", id], queryFn: async () => ++asked });
  return <p>asked {q.data}</p>;
}

beforeEach(() => {
  asked = 0;
  Stream.all = [];
  vi.stubGlobal("EventSource", Stream);
});
afterEach(cleanup);

const open = (id: string) =>
  render(
    <QueryClientProvider client={new QueryClient()}>
      <Page id={id} />
    </QueryClientProvider>,
  );

it("reads the page anew when the server says that something changed", async () => {
  open("fund.2026-11-24");
  await screen.findByText("asked 1");
  expect(Stream.all[0]?.url).toBe("/api/classes/fund.2026-11-24/changes");
  await act(async () => Stream.all[0]?.onmessage?.());
  await screen.findByText("asked 2");
});

it("reads the page anew when a lost connection comes back, and not when the first one opens", async () => {
  open("fund.2026-11-24");
  await screen.findByText("asked 1");
  await act(async () => Stream.all[0]?.onopen?.());
  expect(asked).toBe(1);
  await act(async () => Stream.all[0]?.onerror?.());
  await act(async () => Stream.all[0]?.onopen?.());
  await screen.findByText("asked 2");
});

it("stops listening when the page closes", async () => {
  const { unmount } = open("fund.2026-11-24");
  await screen.findByText("asked 1");
  unmount();
  expect(Stream.all[0]?.close).toHaveBeenCalledOnce();
});
