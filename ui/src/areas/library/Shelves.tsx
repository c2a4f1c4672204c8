import { NavLink } from "react-router";
import { tr } from "../../kit/tr";

const shelves = [
  { to: "/library", name: tr("Techniques"), end: true },
  { to: "/library/positions", name: tr("Positions") },
  { to: "/library/fork-tables", name: tr("Fork tables") },
  { to: "/library/variants", name: tr("Variants") },
  { to: "/library/map", name: tr("Map") },
  { to: "/library/files", name: tr("Import and export"), needs: "export-folder" },
];

/** Shelves are the parts of the library, side by side on its first line. */
export function Shelves({ on, may }: { on: string; may: (operation: string) => boolean }) {
  return (
    <nav aria-label={tr("Library")} className="no-print mb-2 flex flex-wrap gap-x-4 gap-y-1 border-b border-hair">
      {shelves
        .filter((s) => !s.needs || may(s.needs))
        .map((s) => (
          <NavLink
            key={s.to}
            to={s.to}
            end={s.end}
            aria-current={s.name === on ? "page" : undefined}
            className={`head inline-block min-h-6 min-w-6 pb-1 text-[15px] no-underline ${s.name === on ? "border-b-2 border-ink font-bold" : "font-medium text-soft hover:text-ink"}`}
          >
            {s.name}
          </NavLink>
        ))}
    </nav>
  );
}
