import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { client, type S, unwrap } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { tr } from "../../kit/tr";
import { shortDate } from "../../kit/words";

/** Bridges are the lists of what those who leave a youth ladder catch up, rank by rank, and who is near it. */
export function Bridges({ ladder }: { ladder: string }) {
  const pages = useQuery({
    queryKey: ["bridges", ladder],
    queryFn: () => unwrap(client.GET("/api/ladders/{id}/bridges", { params: { path: { id: ladder } } })),
  });
  const [open, show] = useState("");
  if (pages.error) return <p className="text-clay">{pages.error.message}</p>;
  if (!pages.data?.length) return null;
  // Whoever moves on first is whom one came for.
  const first = [...pages.data].sort((a, b) => (a.students[0]?.on ?? "9").localeCompare(b.students[0]?.on ?? "9"))[0];
  const on = pages.data.find((p) => p.rank === open) ?? first;
  return (
    <section id="bridges" aria-label={tr("Bridge lists")} className="mt-4">
      <h2>{tr("Bridge lists")}</h2>
      <p className="max-w-prose text-soft">
        {tr(
          "What everybody at the rank they come to was asked, and their own ladder never asked of them, or only less of it. Begin a year before they move on.",
        )}
      </p>
      <div className="no-print my-1.5 flex flex-wrap gap-2">
        {pages.data.map((p) => (
          <button
            key={p.rank}
            type="button"
            aria-pressed={p === on}
            onClick={() => show(p.rank)}
            className={`head rounded-sm border px-2 py-0.5 ${p === on ? "border-ink bg-ink text-leaf" : "border-rule"}`}
          >
            {tr("From {{name}}", { name: p.name })} <span className="num">{p.items.length}</span>
            {p.students.length > 0 &&
              ` · ${p.students.length === 1 ? tr("1 person") : tr("{{students}} people", { students: p.students.length })}`}
          </button>
        ))}
      </div>
      {on && <List page={on} />}
    </section>
  );
}

function List({ page: p }: { page: S["BridgePage"] }) {
  return (
    <>
      <h3 className="flex items-center gap-1.5">
        <Belt belt={p.belt} rank={p.name} /> {tr("{{name}} → {{to}}, from {{age}} years", { name: p.name, to: p.to, age: p.age })}
      </h3>
      {p.students.map((s) => (
        <p key={s.id}>
          <Link className="link" to={`/ledger/${s.id}`}>
            {s.name}
          </Link>{" "}
          {shortDate(s.on)}:{" "}
          {s.missing.length === 0
            ? tr("holds all of it.")
            : tr("{{n}} of {{items}} held.", { n: p.items.length - s.missing.length, items: p.items.length })}
        </p>
      ))}
      {p.items.length === 0 ? (
        <p className="text-moss">{tr("Nothing: their ladder asked all of it.")}</p>
      ) : (
        <table className="grid-lines mt-1">
          <thead>
            <tr>
              <th>{tr("Technique")}</th>
              <th>{tr("Required")}</th>
              <th>{tr("So far")}</th>
              <th>{tr("By")}</th>
              <th>{tr("From age")}</th>
              {p.students.map((s) => (
                <th key={s.id}>{s.name}</th>
              ))}
            </tr>
          </thead>
          <tbody>
            {p.items.map((x) => (
              <tr key={x.technique}>
                <td>
                  <Link className="link" to={`/library/${x.technique}`}>
                    {x.name}
                  </Link>{" "}
                  {x.risks.length > 0 && <span className="text-[12.5px] text-clay">{x.risks.join(", ")}</span>}
                </td>
                <td>{x.asked}</td>
                <td className="text-soft">{x.had}</td>
                <td>{x.by}</td>
                <td className="num">{x.from || ""}</td>
                {p.students.map((s) => (
                  <td key={s.id}>{s.missing.includes(x.technique) ? <span className="text-clay">{tr("open")}</span> : tr("holds it")}</td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}
