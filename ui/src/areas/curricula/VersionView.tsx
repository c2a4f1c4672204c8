import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useAction, useMay } from "../../api/actions";
import { client, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
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
    (_, students) => `Moved ${students.length === 1 ? "one student" : `${students.length} students`} to this version. It is in the ledger.`,
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
    <section aria-label="Who it concerns">
      <p className="font-semibold">{p.summary}</p>
      {p.replaces && <p className="text-soft">Against {p.replaces}, which is published; publishing this one retires it.</p>}
      {list("Added", p.added)}
      {list("Removed", p.removed)}
      {list("Changed", p.changed)}
      {p.students.length === 0 && <p className="text-soft">Nobody works toward this rank now.</p>}
      {p.students.length > 0 && (
        <table className="grid-lines mt-2">
          <thead>
            <tr>
              <td className="w-6" />
              <th>Student</th>
              <th>Works on</th>
              <th>Would gain</th>
              <th>Would lose</th>
              <th className="!text-right">Met</th>
            </tr>
          </thead>
          <tbody>
            {p.students.map((s) => (
              <tr key={s.student} className="align-top">
                <td>
                  {!s.moved && state !== "draft" && may("move-students") && (
                    <input
                      type="checkbox"
                      aria-label={`Move ${s.name}`}
                      checked={chosen.includes(s.student)}
                      onChange={(e) => setChosen(e.target.checked ? [...chosen, s.student] : chosen.filter((x) => x !== s.student))}
                    />
                  )}
                </td>
                <td>{s.name}</td>
                <td className="text-soft">{s.moved ? "this version" : s.now}</td>
                <td title={[...s.gains, ...s.changes].join("\n")}>
                  {s.gains.length ? `${s.gains.length}: ${s.gains.slice(0, 3).join(", ")}${s.gains.length > 3 ? "…" : ""}` : "nothing"}
                </td>
                <td title={s.loses.join("\n")}>
                  {s.loses.length ? `${s.loses.length}: ${s.loses.slice(0, 3).join(", ")}${s.loses.length > 3 ? "…" : ""}` : "nothing"}
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
            Move the {chosen.length || ""} chosen
          </Button>
          <Button disabled={move.isPending} onClick={() => move.mutate(others.map((s) => s.student))}>
            Move all {others.length}
          </Button>
        </div>
      )}
      {state === "draft" && others.length > 0 && <p className="text-soft">Publish it first; then students can be moved.</p>}
    </section>
  );
}
