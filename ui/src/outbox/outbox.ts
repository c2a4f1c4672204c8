import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import { isAway } from "../api/client";
import { tr } from "../kit/tr";

/** Entry is one thing a coach did at the mat's edge, on its way to the server. */
export type Entry = {
  key?: number; // its place in the order
  kind: "check-in" | "check-out" | "tally" | "report" | "check" | "sheet" | "pairs" | "guest" | "incident" | "hold";
  by?: string; // the account it was done with; it alone sends it
  session: string; // the class it belongs to
  student?: string;
  words: string; // what it is, for a person
  method: "PUT" | "POST" | "DELETE";
  path: string;
  body?: unknown;
  refused?: string; // why the server did not take it
};

interface Device extends DBSchema {
  outbox: { key: number; value: Entry };
}

let opened: Promise<IDBPDatabase<Device>> | undefined;

function device(): Promise<IDBPDatabase<Device>> {
  opened ??= openDB<Device>("vereda", 1, {
    upgrade: (db) => {
      db.createObjectStore("outbox", { keyPath: "key", autoIncrement: true });
    },
  });
  return opened;
}

/** put keeps an entry behind all others. */
export async function put(entry: Entry): Promise<void> {
  await (await device()).add("outbox", entry);
}

/** waiting lists what is on the device, in its order. */
export async function waiting(): Promise<Entry[]> {
  return (await device()).getAll("outbox");
}

/** drop takes one entry off the device. */
export async function drop(key: number): Promise<void> {
  await (await device()).delete("outbox", key);
}

/** retry sends a refused entry again with the next ones. */
export async function retry(entry: Entry): Promise<void> {
  const { refused: _, ...again } = entry;
  await (await device()).put("outbox", again);
}

/** empty takes everything off the device: for signing out. */
export async function empty(): Promise<void> {
  await (await device()).clear("outbox");
}

/** Sent is how a delivery went: how many were taken, and whether the network or the server was not there. */
export type Sent = { taken: number; refused: number; stopped: boolean };

/**
 * deliver sends what somebody's device holds of theirs, in order, one after the other. What the server takes leaves the device; what it refuses stays with the
 * reason, and those behind it go on. Without network, or while the server is down, busy or wants somebody to sign in, it stops and nothing is
 * lost: each entry carries an identifier of its own, so that one that arrived without an answer is the same when it comes again.
 */
export async function deliver(send: typeof fetch = fetch, by?: string): Promise<Sent> {
  const out: Sent = { taken: 0, refused: 0, stopped: false };
  for (const entry of await waiting()) {
    if (entry.refused || entry.key === undefined || entry.by !== by) continue;
    let answer: Response;
    try {
      answer = await send(entry.path, {
        method: entry.method,
        headers: entry.body === undefined ? {} : { "Content-Type": "application/json" },
        body: entry.body === undefined ? undefined : JSON.stringify(entry.body),
        signal: AbortSignal.timeout(10_000),
      });
    } catch {
      return { ...out, stopped: true };
    }
    if (answer.ok) {
      await drop(entry.key);
      out.taken++;
    } else if (answer.status === 401 || isAway(answer.status)) {
      return { ...out, stopped: true };
    } else {
      const told = (await answer.json().catch(() => ({}))) as { detail?: string; errors?: { message?: string }[] };
      const why = [told.detail, ...(told.errors ?? []).map((e) => e.message)].filter(Boolean).join(" ");
      await (await device()).put("outbox", {
        ...entry,
        refused: why || tr("The server refused this ({{status}}).", { status: answer.status }),
      });
      out.refused++;
    }
  }
  return out;
}
