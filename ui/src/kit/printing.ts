import { useEffect, useState } from "react";
import { flushSync } from "react-dom";

/** usePrinting says whether the page is being printed now, in time for the printer to see what changes by it. */
export function usePrinting(): boolean {
  const [printing, set] = useState(false);
  useEffect(() => {
    const begin = () => flushSync(() => set(true));
    const end = () => set(false);
    window.addEventListener("beforeprint", begin);
    window.addEventListener("afterprint", end);
    return () => {
      window.removeEventListener("beforeprint", begin);
      window.removeEventListener("afterprint", end);
    };
  }, []);
  return printing;
}
