import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { useClassChanges } from "../../api/changes";
import { client, type S, Trouble, unwrap } from "../../api/client";
import { secondsBefore } from "./clock";

type Turn = S["TurnClock"];

/** Held is the clock as this device turned it while the server could not be asked; it outlives a reload. */
type Held = { passed: number; running: boolean; at: number };

const heldKey = (session: string) => `vereda-clock ${session}`;
const held = (session: string): Held | null => {
  try {
    return JSON.parse(localStorage.getItem(heldKey(session)) ?? "null");
  } catch {
    return null;
  }
};

/**
 * useClock is the clock of a class as the server has it, second by second: the wall and every phone show the same. Without network this device
 * goes on by itself and tells the server when it is back.
 */
export function useClock(session: string) {
  useClassChanges(session);
  const query = useQuery({
    queryKey: ["clock", session],
    queryFn: async () => {
      const asked = Date.now();
      const page = await unwrap(client.GET("/api/classes/{id}/clock", { params: { path: { id: session } } }));
      const answered = Date.now();
      // How far this device's clock is behind the server's: the answer was made about halfway.
      return { page, behind: new Date(page.now).getTime() - (asked + answered) / 2 };
    },
    refetchInterval: 60_000,
  });
  const [own, setOwn] = useState<Held | null>(() => held(session));
  const [, tick] = useState(0);
  const keepOwn = useCallback(
    (h: Held | null) => {
      if (h) localStorage.setItem(heldKey(session), JSON.stringify(h));
      else localStorage.removeItem(heldKey(session));
      setOwn(h);
    },
    [session],
  );
  const page = query.data?.page;
  const behind = query.data?.behind ?? 0;
  const stretches = page?.stretches ?? [];
  const total = secondsBefore(stretches, stretches.length);
  const state: Held = own ?? {
    passed: page?.passed ?? 0,
    running: page?.running ?? false,
    at: page ? new Date(page.at).getTime() - behind : Date.now(),
  };
  const passed = Math.min(total, Math.max(0, state.passed + (state.running ? Math.floor((Date.now() - state.at) / 1000) : 0)));
  useEffect(() => {
    if (!state.running) return;
    const t = setInterval(() => tick((n) => n + 1), 200);
    return () => clearInterval(t);
  }, [state.running]);
  const refetch = useRef(query.refetch);
  refetch.current = query.refetch;
  const post = useCallback(
    (body: Turn) => unwrap(client.POST("/api/classes/{id}/clock", { params: { path: { id: session } }, body })),
    [session],
  );
  // What was turned without network is told as soon as it is back.
  useEffect(() => {
    if (!own) return;
    const t = setInterval(async () => {
      const now = Math.max(0, own.passed + (own.running ? Math.floor((Date.now() - own.at) / 1000) : 0));
      try {
        await post({ do: "set", passed: now, running: own.running });
        await refetch.current();
        keepOwn(null);
      } catch (e) {
        if (e instanceof Trouble && e.status > 0 && e.status < 500) keepOwn(null); // it may not turn this clock
      }
    }, 3_000);
    return () => clearInterval(t);
  }, [own, post, keepOwn]);
  const turn = async (body: Turn) => {
    try {
      if (own) throw new Trouble(0, "", {});
      await post(body);
      await refetch.current();
    } catch (e) {
      if (!(e instanceof Trouble) || (e.status > 0 && e.status < 500)) throw e;
      const to = { start: passed, stop: passed, reset: 0, jump: secondsBefore(stretches, body.to ?? 0), refit: passed, set: passed }[
        body.do
      ];
      const running = body.do === "start" || (body.do !== "stop" && body.do !== "reset" && state.running);
      keepOwn({ passed: to, running, at: Date.now() });
    }
  };
  return { page, error: query.error, stretches, total, passed, running: state.running, alone: own !== null, turn };
}

/** useAwake keeps the screen on while a clock is looked at, where the browser can. */
export function useAwake() {
  useEffect(() => {
    let lock: { release: () => Promise<void> } | undefined;
    let left = false;
    const ask = async () => {
      const wake = (navigator as Navigator & { wakeLock?: { request: (kind: "screen") => Promise<typeof lock> } }).wakeLock;
      if (!wake || document.visibilityState !== "visible") return;
      try {
        lock = await wake.request("screen");
        if (left) await lock?.release();
      } catch {
        // the battery is low: the device decides
      }
    };
    void ask();
    document.addEventListener("visibilitychange", ask);
    return () => {
      left = true;
      document.removeEventListener("visibilitychange", ask);
      void lock?.release();
    };
  }, []);
}
