import { lazy, type ReactNode, Suspense, useEffect, useState } from "react";
import { Link, NavLink, useNavigate } from "react-router";
import { useMay, useMe, useToast } from "../api/actions";
import { tr, word } from "../kit/tr";
import { signOut } from "../outbox/signOut";
import { Find } from "./Find";
import { keysAreOn } from "./keysAreOn";
import { WeekStrip } from "./WeekStrip";

// Opened by few: it comes when it is opened. Find does not: what is typed while it comes would be lost.
const Keys = lazy(() => import("./Keys").then((m) => ({ default: m.Keys })));

/** Shell is the frame of the desk pages: the week strip, the areas, and what was last toast. */
export function Shell({ children }: { children: ReactNode }) {
  const me = useMe();
  const open = me.areas;
  const may = useMay();
  const [keys, showKeys] = useState(false);
  const [finding, find] = useState(false);
  const { undo } = useToast();
  const go = useNavigate();
  useEffect(() => {
    function onKey(e: KeyboardEvent) {
      const at = e.target as HTMLElement;
      if (finding) return; // what is typed belongs to it
      if (!keysAreOn() || e.ctrlKey || e.metaKey || e.altKey || at.matches("input,textarea,select,[contenteditable]")) return;
      const area = open[Number(e.key) - 1];
      if (area) go(area.to);
      else if (e.key === "0") go("/today");
      else if (e.key === "f") find(true);
      else if (e.key === "u") undo();
      else if (e.key === "?") showKeys(true);
      else if (e.key === "/") document.querySelector<HTMLInputElement>("[data-search]")?.focus();
      else return;
      e.preventDefault();
    }
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [open, undo, go, finding]);
  return (
    <div className="flex h-screen flex-col print:block print:h-auto">
      <a href="#main" className="sr-only focus:not-sr-only focus:absolute focus:bg-leaf focus:p-2">
        {tr("To the page")}
      </a>
      <header className="no-print grid shrink-0 grid-cols-[132px_minmax(0,1fr)_150px] border-b-[1.5px] border-ink max-lg:grid-cols-[1fr_auto]">
        <Link to="/" className="head px-[18px] pt-2 text-[25px] leading-7 font-bold no-underline">
          {tr("Vereda")}
          <span className="block font-sans text-xs leading-[15px] font-normal text-soft">
            {me.academy.replace(" Grappling Hall", " Hall")}
          </span>
        </Link>
        <section
          aria-label={tr("The week")}
          // biome-ignore lint/a11y/noNoninteractiveTabindex: on a narrow screen it scrolls sideways, by keys as well
          tabIndex={0}
          className="max-lg:order-last max-lg:col-span-2 max-lg:overflow-x-auto max-lg:border-t max-lg:border-hair"
        >
          <WeekStrip />
        </section>
        <div className="border-l border-hair px-3 py-2 leading-[18px]">
          {me.name}
          <span className="block truncate text-soft">{me.roles.map(word).join(", ")}</span>
          <span className="flex gap-3">
            <Link className="link text-[12.5px]" to="/account">
              {tr("Account")}
            </Link>
            <SignOut />
          </span>
        </div>
      </header>
      <nav
        aria-label={tr("Areas")}
        className="no-print flex h-[38px] shrink-0 items-end gap-6 relative overflow-x-auto border-b border-hair px-[18px]"
      >
        {may("today") && (
          <NavLink to="/today" className={({ isActive }) => areaLook(isActive)}>
            {tr("Today")}
          </NavLink>
        )}
        {open.map((a, i) => (
          <NavLink key={a.to} to={a.to} className={({ isActive }) => areaLook(isActive)}>
            {word(a.name)}
            <span aria-hidden="true" className="ml-1 font-sans text-[11px] text-soft">
              {i + 1}
            </span>
          </NavLink>
        ))}
        <span className="flex-1" />
        {may("find") && (
          <button type="button" className="link mb-2 text-[12.5px]" onClick={() => find(true)}>
            {tr("Find anything")}
          </button>
        )}
        <button type="button" className="link mb-2 text-[12.5px]" onClick={() => showKeys(true)}>
          {tr("Keys")}
        </button>
      </nav>
      {children}
      <Toast />
      {finding && <Find open onOpenChange={find} />}
      <Suspense fallback={null}>{keys && <Keys open onOpenChange={showKeys} />}</Suspense>
    </div>
  );
}

const areaLook = (isActive: boolean) =>
  `head pb-1.5 text-base no-underline ${isActive ? "border-b-[3px] border-lake !pb-1 font-bold text-ink" : "font-medium text-soft hover:text-ink"}`;

function SignOut() {
  return (
    <button type="button" className="link text-[12.5px]" onClick={signOut}>
      {tr("Sign out")}
    </button>
  );
}

/** Toast is the line at the foot of the page: what was done, and its undo. */
export function Toast() {
  const { toast, say, undo } = useToast();
  useEffect(() => {
    if (!toast || toast.bad) return;
    const t = setTimeout(() => say(null), 15_000);
    return () => clearTimeout(t);
  }, [toast, say]);
  return (
    <div role="status" className="no-print pointer-events-none fixed inset-x-0 bottom-3 z-30 flex justify-center px-3">
      {toast && (
        <div
          className={`pointer-events-auto flex max-w-3xl items-center gap-4 border bg-ink px-4 py-2 text-white shadow-lg ${toast.bad ? "border-l-4 border-clay" : "border-ink"}`}
        >
          <span>{toast.words}</span>
          {toast.change && (
            <button type="button" className="font-semibold underline underline-offset-2" onClick={undo}>
              {tr("Undo")}
            </button>
          )}
          <button type="button" aria-label={tr("Dismiss")} className="px-1" onClick={() => say(null)}>
            ✕
          </button>
        </div>
      )}
    </div>
  );
}
