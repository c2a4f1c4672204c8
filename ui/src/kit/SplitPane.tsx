import { type KeyboardEvent, type ReactNode, useEffect, useRef } from "react";
import { useLocation } from "react-router";
import { tr } from "./tr";

/**
 * SplitPane lays a page out as an open book: the list or the plan left, what was picked right. On a narrow screen they stand one below the other in
 * one page that scrolls; what is picked is brought into view there, with a way back up.
 */
export function SplitPane({
  left,
  right,
  wide = "left",
  prints,
}: {
  left: ReactNode;
  right: ReactNode;
  wide?: "left" | "right" | "even";
  prints?: "left" | "right";
}) {
  const columns = {
    left: "lg:grid-cols-[minmax(0,2fr)_minmax(0,1fr)]",
    right: "lg:grid-cols-[minmax(0,5fr)_minmax(0,8fr)]",
    even: "lg:grid-cols-2",
  }[wide];
  const { pathname } = useLocation();
  const came = useRef(pathname);
  const top = useRef<HTMLElement>(null);
  const below = useRef<HTMLElement>(null);
  useEffect(() => {
    if (came.current === pathname) return;
    came.current = pathname;
    if (narrow()) below.current?.scrollIntoView();
  }, [pathname]);
  return (
    <main
      id="main"
      className={`min-h-0 flex-1 max-lg:overflow-y-auto max-lg:overflow-x-hidden lg:grid lg:grid-cols-1 ${columns} print:block print:overflow-visible`}
    >
      <section
        ref={top}
        className={`relative min-w-0 border-rule px-[18px] py-3.5 lg:overflow-y-auto lg:border-r print:overflow-visible ${prints === "right" ? "no-print" : ""}`}
      >
        {left}
      </section>
      <section
        ref={below}
        className={`relative min-w-0 border-t border-rule bg-leaf px-5 pt-3.5 pb-16 lg:overflow-y-auto lg:border-t-0 print:overflow-visible ${prints === "left" ? "no-print" : ""}`}
      >
        <button type="button" className="link no-print mb-1 min-h-6 text-[13px] lg:hidden" onClick={() => top.current?.scrollIntoView()}>
          {tr("Back up")}
        </button>
        {right}
      </section>
    </main>
  );
}

/** narrow says whether the two sides stand one below the other. */
const narrow = () => typeof window.matchMedia === "function" && window.matchMedia("(max-width: 1023px)").matches;

/** arrows moves the focus among the rows of a list with the arrow keys. */
export function arrows(e: KeyboardEvent<HTMLElement>) {
  const step = e.key === "ArrowDown" ? 1 : e.key === "ArrowUp" ? -1 : 0;
  if (!step || (e.target as HTMLElement).matches("select,textarea,[role=radio]")) return;
  const rows = [...e.currentTarget.querySelectorAll<HTMLElement>("[data-row]")];
  const at = rows.indexOf(document.activeElement as HTMLElement);
  const next = rows[at < 0 ? (step > 0 ? 0 : rows.length - 1) : at + step];
  if (next) {
    next.focus();
    e.preventDefault();
  }
}

/** Empty says what belongs here, and offers the first step. */
export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="py-6">
      <h2>{title}</h2>
      <div className="mt-1 flex flex-col items-start gap-2 text-soft">{children}</div>
    </div>
  );
}

/** Note is a sentence with a coloured edge: moss for what holds, clay for what needs a person. */
export function Note({ title, tone = "moss", children }: { title?: string; tone?: "moss" | "clay" | "lake"; children: ReactNode }) {
  const edge = { moss: "border-moss", clay: "border-clay", lake: "border-lake" }[tone];
  return (
    <div className={`my-2 border-l-[3px] pl-2.5 ${edge}`}>
      {title && <b>{title} </b>}
      {children}
    </div>
  );
}
