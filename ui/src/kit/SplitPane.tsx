import type { KeyboardEvent, ReactNode } from "react";

/** SplitPane lays a page out as an open book: the list or the plan left, what is under the finger right. */
export function SplitPane({
  left,
  right,
  wide = "left",
  prints,
  stack,
}: {
  left: ReactNode;
  right: ReactNode;
  wide?: "left" | "right" | "even";
  prints?: "left" | "right";
  /** On a narrow screen one below the other, in one page that scrolls: where neither is a list that the other belongs to. */
  stack?: boolean;
}) {
  const columns = {
    left: "lg:grid-cols-[minmax(0,2fr)_minmax(0,1fr)]",
    right: "lg:grid-cols-[minmax(0,5fr)_minmax(0,8fr)]",
    even: "lg:grid-cols-2",
  }[wide];
  return (
    <main
      id="main"
      className={`grid min-h-0 flex-1 grid-cols-1 ${columns} ${stack ? "max-lg:block max-lg:overflow-y-auto" : ""} print:block`}
    >
      <section
        className={`relative min-w-0 overflow-y-auto border-rule px-[18px] py-3.5 lg:border-r print:overflow-visible ${stack ? "max-lg:overflow-visible" : ""} ${prints === "right" ? "no-print" : ""}`}
      >
        {left}
      </section>
      <section
        className={`relative min-w-0 overflow-y-auto border-t border-rule bg-leaf px-5 pt-3.5 pb-16 lg:border-t-0 print:overflow-visible ${stack ? "max-lg:overflow-visible" : ""} ${prints === "left" ? "no-print" : ""}`}
      >
        {right}
      </section>
    </main>
  );
}

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
