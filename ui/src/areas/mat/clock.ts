import { useEffect, useRef } from "react";
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

/** useSeconds calls back with the whole seconds that passed, also those in which the page was asleep. */
export function useSeconds(running: boolean, each: (seconds: number) => void) {
  const call = useRef(each);
  call.current = each;
  useEffect(() => {
    if (!running) return;
    let last = performance.now();
    const t = setInterval(() => {
      const whole = Math.floor((performance.now() - last) / 1000);
      if (whole > 0) {
        last += whole * 1000;
        call.current(whole);
      }
    }, 200);
    return () => clearInterval(t);
  }, [running]);
}
