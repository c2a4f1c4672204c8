import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, type S, unwrap } from "../../api/client";
import { Select } from "../../kit/Field";
import { tr, word } from "../../kit/tr";
import { Matrix } from "./Matrix";

/** TwoRanks lays another curriculum beside this one: matrix by matrix, technique by technique. */
export function TwoRanks({ page, list }: { page: S["CurriculumPage"]; list: S["CurriculumLine"][] }) {
  const [other, setOther] = useState(list.find((c) => c.id !== page.line.id)?.id ?? "");
  const that = useQuery({
    queryKey: ["curriculum", other],
    enabled: !!other,
    queryFn: () => unwrap(client.GET("/api/curricula/{id}", { params: { path: { id: other } } })),
  });
  const all = [
    ...page.requirements,
    ...(that.data?.requirements ?? []).filter((r) => !page.requirements.some((x) => x.technique === r.technique)),
  ];
  const rung = (p: S["CurriculumPage"] | undefined, id: string) => {
    const r = p?.requirements.find((x) => x.technique === id);
    return r ? `${word(r.rung)}${r.both_sides ? tr(", both") : ""}` : "";
  };
  return (
    <>
      <div className="max-w-72">
        <Select label={tr("Beside")} value={other} onChange={(e) => setOther(e.target.value)}>
          {list
            .filter((c) => c.id !== page.line.id)
            .map((c) => (
              <option key={c.id} value={c.id}>
                {tr("{{ladder}}: {{rank}}, version {{version}}, {{state}}", {
                  ladder: c.ladder,
                  rank: c.rank,
                  version: c.version,
                  state: c.state,
                })}
              </option>
            ))}
        </Select>
      </div>
      <table className="grid-lines mt-2">
        <thead>
          <tr>
            <th>{tr("Technique")}</th>
            <th>
              {page.line.rank}, {page.line.version}
            </th>
            <th>{that.data && `${that.data.line.rank}, ${that.data.line.version}`}</th>
          </tr>
        </thead>
        <tbody>
          {all.map((r) => {
            const [a, b] = [rung(page, r.technique), rung(that.data, r.technique)];
            return (
              <tr key={r.technique} className={a === b ? "text-soft" : ""}>
                <td>{r.name}</td>
                <td>{a || "—"}</td>
                <td>{b || "—"}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <div className="mt-4 flex gap-6 relative overflow-x-auto">
        <Matrix page={page} small />
        {that.data && <Matrix page={that.data} small />}
      </div>
    </>
  );
}
