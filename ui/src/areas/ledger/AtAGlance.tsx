import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { useMay } from "../../api/actions";
import { client, unwrap } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { Empty } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { rangeOf } from "./Outlook";

/** AtAGlance is the ledger before anybody is picked: who is ready soonest, what most wait for, and whose standing fades. */
export function AtAGlance() {
  const may = useMay();
  const outlook = useQuery({
    queryKey: ["outlook"],
    enabled: may("ledger-outlook"),
    queryFn: () => unwrap(client.GET("/api/ledger/outlook")),
  });
  const fading = useQuery({ queryKey: ["fading"], enabled: may("ledger-fading"), queryFn: () => unwrap(client.GET("/api/ledger/fading")) });
  const soon = (outlook.data?.rows ?? []).filter((r) => r.p50).slice(0, 6);
  const waiting = (outlook.data?.waiting ?? []).slice(0, 5);
  const faded = (fading.data?.rows ?? []).filter((r) => r.due > 0).slice(0, 5);
  if (!outlook.data || (soon.length === 0 && waiting.length === 0 && faded.length === 0))
    return (
      <Empty title={tr("Pick a student")}>{tr("Their standing, what is missing for the next rank and their checks open here.")}</Empty>
    );
  return (
    <>
      {soon.length > 0 && (
        <section aria-label={tr("Ready soonest")}>
          <h2>{tr("Ready soonest")}</h2>
          <table className="grid-lines mt-1">
            <tbody>
              {soon.map((r) => (
                <tr key={r.id}>
                  <td>
                    <Belt belt={r.belt} rank={r.rank} />{" "}
                    <Link className="link" to={`/ledger/${r.id}?view=ready`}>
                      {r.name}
                    </Link>
                  </td>
                  <td>{r.next}</td>
                  <td className="text-soft">{rangeOf(r)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
      {waiting.length > 0 && (
        <section aria-label={tr("What they wait for")} className="mt-4">
          <h2>{tr("What they wait for")}</h2>
          <table className="grid-lines mt-1">
            <tbody>
              {waiting.map((w) => (
                <tr key={w.technique}>
                  <td>
                    <Link className="link" to={`/library/${w.technique}`}>
                      {w.name}
                    </Link>
                  </td>
                  <td className="num w-16 text-right">{w.students}</td>
                  <td className="text-[12.5px] text-soft">{w.people.slice(0, 4).join(", ")}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
      {faded.length > 0 && (
        <section aria-label={tr("Whose standing fades")} className="mt-4">
          <h2>{tr("Whose standing fades")}</h2>
          <table className="grid-lines mt-1">
            <tbody>
              {faded.map((r) => (
                <tr key={r.id}>
                  <td>
                    <Link className="link" to={`/ledger/${r.id}?view=fading`}>
                      {r.name}
                    </Link>
                  </td>
                  <td className="num w-16 text-right">{tr("{{due}} due", { due: r.due })}</td>
                  <td className="text-[12.5px] text-soft">
                    {r.lowest
                      .slice(0, 2)
                      .map((l) => l.name)
                      .join(", ")}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
      <p className="mt-3 text-soft">
        {tr("Pick a student: their standing, what is missing for the next rank and their checks open here.")}
      </p>
    </>
  );
}
