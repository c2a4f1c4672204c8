import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Input } from "../../kit/Field";
import { tr } from "../../kit/tr";
import { percent } from "../../kit/words";

/** Chances shows who is likely to come to what: estimated from the records, set by hand where somebody knows better. */
export function Chances({ season }: { season: string }) {
  const [find, setFind] = useState("");
  const page = useQuery({
    queryKey: ["chances", season],
    queryFn: () => unwrap(client.GET("/api/seasons/{id}/chances", { params: { path: { id: season } } })),
  });
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  if (!page.data) return null;
  const p = page.data;
  return (
    <>
      <div className="flex flex-wrap items-end gap-3">
        <div className="w-52">
          <Input label={tr("Find a student")} value={find} onChange={(e) => setFind(e.target.value)} />
        </div>
        <p className="max-w-prose pb-1 text-[12.5px] text-soft">{p.formula}</p>
      </div>
      <table className="grid-lines mt-2" data-chances>
        <thead>
          <tr>
            <th>{tr("Student")}</th>
            {p.classes.map((c) => (
              <th key={c.id}>{c.name}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {p.students
            .filter((s) => s.name.toLowerCase().includes(find.toLowerCase()))
            .map((s) => (
              <tr key={s.id}>
                <td className="whitespace-nowrap">{s.name}</td>
                {s.cells.map((c) => (
                  <td key={c.class} className="num">
                    <One key={`${c.class} ${c.set}`} season={season} student={s} cell={c} />
                  </td>
                ))}
              </tr>
            ))}
        </tbody>
      </table>
    </>
  );
}

function One({ season, student, cell }: { season: string; student: S["ChancesLine"]; cell: S["AdjustedChance"] }) {
  const may = useMay();
  const [text, setText] = useState(cell.set === undefined ? "" : String(Math.round(cell.set * 100)));
  const set = useAction(
    (chance: number | undefined) =>
      unwrap(
        client.PUT("/api/seasons/{id}/chances", {
          params: { path: { id: season } },
          body: { student: student.id, class: cell.class, chance },
        }),
      ),
    (_, chance) => (chance === undefined ? tr("Went back to the estimate.") : tr("Set the chance of {{name}}.", { name: student.name })),
  );
  function keep() {
    const now = cell.set === undefined ? "" : String(Math.round(cell.set * 100));
    if (text !== now) set.mutate(text === "" ? undefined : Math.min(100, Number(text)) / 100);
  }
  return (
    <span className="flex items-center gap-2">
      <span
        className={`w-10 text-right ${cell.set === undefined ? "" : "text-soft line-through"}`}
        title={tr("came {{came}} of {{held}}", { came: cell.came, held: cell.held })}
      >
        {percent(cell.chance)}
      </span>
      <span className="w-9 text-[11.5px] text-soft">
        {cell.came}/{cell.held}
      </span>
      {may("set-chance") && (
        <input
          aria-label={tr("{{name}}, {{name2}}: set by hand, per cent", { name: student.name, name2: cell.name })}
          className="h-6 w-11 rounded-sm border border-rule bg-white px-1 text-right"
          inputMode="numeric"
          placeholder={tr("set")}
          value={text}
          onChange={(e) => setText(e.target.value.replace(/\D/g, "").slice(0, 3))}
          onBlur={keep}
          onKeyDown={(e) => e.key === "Enter" && keep()}
        />
      )}
    </span>
  );
}
