import { useEffect, useState } from "react";
import { useBlocker } from "react-router";
import { tr } from "./tr";

/** useOpened is what a form was opened with: what is read anew meanwhile does not change it, so a save over somebody else's is refused. */
export function useOpened<T>(value: T): T {
  const [opened] = useState(value);
  return opened;
}

const question = tr("What you wrote here is not saved. Leave all the same?");

/** useUnsaved asks before somebody leaves words that are not saved, by a link, back, or closing the page. */
export function useUnsaved(dirty: boolean) {
  const blocker = useBlocker(({ currentLocation, nextLocation }) => dirty && currentLocation.pathname !== nextLocation.pathname);
  useEffect(() => {
    if (blocker.state !== "blocked") return;
    if (window.confirm(question)) blocker.proceed();
    else blocker.reset();
  }, [blocker]);
  useEffect(() => {
    if (!dirty) return;
    const ask = (e: BeforeUnloadEvent) => e.preventDefault();
    window.addEventListener("beforeunload", ask);
    return () => window.removeEventListener("beforeunload", ask);
  }, [dirty]);
}
