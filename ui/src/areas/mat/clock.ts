import type { S } from "../../api/client";

type Timed = Pick<S["MatStretch"], "seconds">;

/** secondsBefore is how many seconds pass before the nth stretch begins; 0 for the first and what is before it. */
export function secondsBefore(stretches: Timed[], n: number): number {
  return stretches.slice(0, Math.max(0, n)).reduce((sum, t) => sum + t.seconds, 0);
}

/** place is the stretch the clock is in after some seconds, and what is left of it; after the end, the last with nothing left. */
export function place(stretches: Timed[], passed: number): { at: number; left: number } {
  let sum = 0;
  for (const [i, t] of stretches.entries()) {
    sum += t.seconds;
    if (passed < sum) return { at: i, left: sum - passed };
  }
  return { at: Math.max(0, stretches.length - 1), left: 0 };
}

/** clockWords writes 65 seconds as 1:05. */
export function clockWords(seconds: number): string {
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`;
}
