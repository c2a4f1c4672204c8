import { NavLink } from "react-router";
import { useMay } from "../../api/actions";
import { tr } from "../../kit/tr";

const shelves = [
  { to: "/academy", name: tr("Settings"), needs: "get-academy" },
  { to: "/academy/accounts", name: tr("Accounts"), needs: "list-accounts" },
  { to: "/begin", name: tr("Begin"), needs: "get-begin" },
];

/** AcademyShelves are the parts of the academy's area. */
export function AcademyShelves({ on }: { on: string }) {
  const may = useMay();
  return (
    <nav aria-label={tr("Academy")} className="no-print mb-2 flex flex-wrap gap-x-4 border-b border-hair">
      {shelves
        .filter((s) => may(s.needs))
        .map((s) => (
          <NavLink
            key={s.to}
            to={s.to}
            end
            aria-current={s.name === on ? "page" : undefined}
            className={`head pb-1 text-[15px] no-underline ${s.name === on ? "border-b-2 border-ink font-bold" : "font-medium text-soft hover:text-ink"}`}
          >
            {s.name}
          </NavLink>
        ))}
    </nav>
  );
}
