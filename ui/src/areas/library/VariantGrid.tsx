import { Link } from "react-router";
import type { S } from "../../api/client";
import { tr } from "../../kit/tr";

/** Grid lays a set out by its choices; an empty cell says so and is where to write the next one. */
export function Grid({ set: s }: { set: S["SetPage"] }) {
  const [first, second] = s.choices ?? [];
  return (
    <table className="grid-lines mt-2" aria-label={tr("{{name}}, laid out", { name: s.name })}>
      <thead>
        <tr>
          <th>
            {first?.name}
            {second && ` \\ ${second.name}`}
          </th>
          {s.grid.columns.map((c) => (
            <th key={c}>{c || tr("variants")}</th>
          ))}
        </tr>
      </thead>
      <tbody>
        {s.grid.rows.map((row, i) => (
          <tr key={row}>
            <th scope="row">{row}</th>
            {s.grid.columns.map((c, j) => (
              <td key={c}>
                {s.grid.cells[i]?.[j]?.map((t) => (
                  <Link key={t} className="link block" to={`/library/${t}`}>
                    {s.names[t]}
                    {s.house === t && <b className="text-moss"> {tr("· house choice")}</b>}
                  </Link>
                ))}
                {s.grid.cells[i]?.[j]?.length === 0 && <span className="text-clay">{tr("nobody has written one")}</span>}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
