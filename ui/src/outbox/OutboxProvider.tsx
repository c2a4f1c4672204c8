import { useQueryClient } from "@tanstack/react-query";
import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useRef, useState } from "react";
import { useMe } from "../api/actions";
import { deliver, drop, type Entry, put, retry, waiting } from "./outbox";

type Outbox = {
  entries: Entry[]; // what waits and what was refused
  send: (entry: Entry) => Promise<void>;
  drop: (entry: Entry) => Promise<void>;
  again: (entry: Entry) => Promise<void>;
};

const Context = createContext<Outbox>({ entries: [], send: async () => {}, drop: async () => {}, again: async () => {} });

/** OutboxProvider holds what waits to be sent and sends it: at once, when the network comes back, and every few seconds while something waits. */
export function OutboxProvider({ children }: { children: ReactNode }) {
  const [entries, setEntries] = useState<Entry[]>([]);
  const queries = useQueryClient();
  const busy = useRef(false);
  const by = useMe().account;
  const look = useCallback(async () => setEntries((await waiting()).filter((e) => e.by === by)), [by]);
  const flush = useCallback(async () => {
    if (busy.current) return;
    busy.current = true;
    try {
      let taken = 0;
      for (;;) {
        const before = (await waiting()).filter((e) => !e.refused && e.by === by).length;
        if (before === 0) break;
        const sent = await deliver(fetch, by);
        taken += sent.taken;
        if (sent.stopped) break;
      }
      // What the pages read must have it before it leaves the list of what waits: nothing flickers.
      if (taken > 0) await queries.invalidateQueries();
      await look();
    } finally {
      busy.current = false;
    }
  }, [by, look, queries]);
  // What the device keeps was read as somebody: when another one signs in, it goes.
  useEffect(() => {
    if (localStorage.getItem("vereda-who") === by) return;
    localStorage.setItem("vereda-who", by);
    if ("caches" in window) void caches.delete("mat");
  }, [by]);
  useEffect(() => {
    look().then(flush);
    const t = setInterval(flush, 5_000);
    window.addEventListener("online", flush);
    return () => {
      clearInterval(t);
      window.removeEventListener("online", flush);
    };
  }, [look, flush]);
  const value = useMemo<Outbox>(
    () => ({
      entries,
      send: async (entry) => {
        await put({ ...entry, by });
        await look();
        void flush();
      },
      drop: async (entry) => {
        if (entry.key !== undefined) await drop(entry.key);
        await look();
      },
      again: async (entry) => {
        await retry(entry);
        await look();
        void flush();
      },
    }),
    [by, entries, look, flush],
  );
  return <Context.Provider value={value}>{children}</Context.Provider>;
}

export const useOutbox = () => useContext(Context);
