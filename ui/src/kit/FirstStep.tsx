import type { ReactNode } from "react";
import { Link } from "react-router";
import { Empty } from "./SplitPane";

/** FirstStep is what an empty list says: what belongs there, and the ways to fill it, from a file too. */
export function FirstStep({ title, children, ways }: { title: string; children: ReactNode; ways: [to: string, words: string][] }) {
  return (
    <Empty title={title}>
      <p>{children}</p>
      {ways.length > 0 && (
        <ul className="flex flex-wrap gap-x-4 gap-y-1">
          {ways.map(([to, words]) => (
            <li key={to}>
              <Link className="link" to={to}>
                {words}
              </Link>
            </li>
          ))}
        </ul>
      )}
    </Empty>
  );
}
