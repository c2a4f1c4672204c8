import { useEffect, useState } from "react";

/**
 * useEnter does what Enter asks for once what was written has been answered: who writes fast presses it before, and what stands there then was
 * found for other words. Writing on takes it back.
 */
export function useEnter(answered: boolean, act: () => void) {
  const [asked, setAsked] = useState(false);
  useEffect(() => {
    if (!asked || !answered) return;
    setAsked(false);
    act();
  });
  return { enter: () => setAsked(true), takeBack: () => setAsked(false) };
}
