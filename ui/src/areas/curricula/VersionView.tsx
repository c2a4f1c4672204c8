import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useAction, useMay } from "../../api/actions";
import { client, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { tr } from "../../kit/tr";
import { percent } from "../../kit/words";

/** VersionView says whom a version concerns, who would gain or lose what, and moves students to it, one or many. */
export function VersionView({ id, state }: { id: string; state: string }) {
  const may = useMay();
  const [chosen, setChosen] = useState<string[]>([]);
  const page = useQuery({
    queryKey: ["version", id],
    queryFn: () => unwrap(client.GET("/api/curricula/{id}/version", { params: { path: { id } } })),
  });
  const move = useAction(
    (students: string[]) => unwrap(client.POST("/api/curricula/{id}/students", { params: { path: { id } }, body: { students } })),
    (_, students) =>
      tr("Moved {{n}} to this version. It is in the ledger.", {
        n: students.length === 1 ? tr("one student") : tr("{{students}} students", { students: students.length }),
      }),
    () => setChosen([]),
  );
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  if (!page.data) return null;
  const p = page.data;
  const others = p.students.filter((s) => !s.moved);
  const list = (title: string, names: string[]) =>
    names.length > 0 && (
      <p>
        <b>{title}:</b> {names.join("; ")}
      </p>
    );
  return (
    <section aria-label={tr("Who it concerns")}>
      <p className="font-semibold">{p.summary}</p>
      {p.against && <p className="text-soft">{p.against}</p>}
      {list(tr("Added"), p.added)}
      {list(tr("Removed"), p.removed)}
      {list(tr("Changed"), p.changed)}
      {p.students.length === 0 && <p className="text-soft">{tr("Nobody works toward this rank now.")}</p>}
      {p.students.length > 0 && (
        <table className="grid-lines mt-2">
          <thead>
            <tr>
              <td className="w-6" />
              <th>{tr("Student")}</th>
              <th>{tr("Works on")}</th>
              <th>{tr("Would gain")}</th>
              <th>{tr("Would lose")}</th>
              <th className="!text-right">{tr("Met")}</th>
            </tr>
          </thead>
          <tbody>
            {p.students.map((s) => (
              <tr key={s.student} className="align-top">
                <td>
                  {!s.moved && state !== "draft" && may("move-students") && (
                    <input
                      type="checkbox"
                      aria-label={tr("Move {{name}}", { name: s.name })}
                      checked={chosen.includes(s.student)}
                      onChange={(e) => setChosen(e.target.checked ? [...chosen, s.student] : chosen.filter((x) => x !== s.student))}
                    />
                  )}
                </td>
                <td>{s.name}</td>
                <td className="text-soft">{s.moved ? tr("this version") : s.now}</td>
                <td title={[...s.gains, ...s.changes].join("\n")}>
                  {s.gains.length ? `${s.gains.length}: ${s.gains.slice(0, 3).join(", ")}${s.gains.length > 3 ? "…" : ""}` : tr("nothing")}
                </td>
                <td title={s.loses.join("\n")}>
                  {s.loses.length ? `${s.loses.length}: ${s.loses.slice(0, 3).join(", ")}${s.loses.length > 3 ? "…" : ""}` : tr("nothing")}
                </td>
                <td className="num text-right whitespace-nowrap">
                  {percent(s.before)} → {percent(s.after)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {move.error && <p className="text-clay">{move.error.message}</p>}
      {others.length > 0 && state !== "draft" && may("move-students") && (
        <div className="mt-2 flex gap-2">
          <Button look="main" disabled={chosen.length === 0 || move.isPending} onClick={() => move.mutate(chosen)}>
            {tr("Move the {{n}} chosen", { n: chosen.length || "" })}
          </Button>
          <Button disabled={move.isPending} onClick={() => move.mutate(others.map((s) => s.student))}>
            {tr("Move all {{others}}", { others: others.length })}
          </Button>
        </div>
      )}
      {state === "draft" && others.length > 0 && <p className="text-soft">{tr("Publish it first; then students can be moved.")}</p>}
    </section>
  );
}
