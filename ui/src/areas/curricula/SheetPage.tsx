import { useQuery } from "@tanstack/react-query";
import { Link, useParams, useSearchParams } from "react-router";
import { client, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { tr } from "../../kit/tr";

/** SheetPage is a rank on paper: a booklet, or a test sheet with boxes to mark. */
export default function SheetPage() {
  const { id = "" } = useParams();
  const [search] = useSearchParams();
  const test = search.get("test") === "1";
  const page = useQuery({
    queryKey: ["sheet", id, test],
    queryFn: () => unwrap(client.GET("/api/curricula/{id}/sheet", { params: { path: { id }, query: { test } } })),
  });
  if (page.error) return <p className="p-5 text-clay">{page.error.message}</p>;
  if (!page.data) return null;
  const s = page.data;
  return (
    <main id="main" className="mx-auto max-w-[900px] px-5 py-3 print:max-w-none print:p-0">
      <div className="no-print mb-2 flex justify-end gap-3 border-b border-rule pb-2">
        <Button look="main" onClick={() => window.print()}>
          {tr("Print")}
        </Button>
        <Link className="link self-center" to={`/curricula/${id}?view=sheets`}>
          {tr("Back to the curriculum")}
        </Link>
      </div>
      <p className="cap">{s.academy}</p>
      <h1>{s.title}</h1>
      <p className="text-soft">{s.under}</p>
      {test && <p className="my-2">{tr("Student ______________________ Coach ______________________ Date ______________")}</p>}
      <p className="border-l-2 border-clay pl-2 text-[13px]">{s.defers}</p>
      {s.items.map((item, i) => (
        <section key={item.name} className="mt-3 break-inside-avoid border-t border-ink pt-1">
          <h2>
            {i + 1}. {item.name}{" "}
            <span className="cap">
              {item.asked}
              {item.or && tr("; or {{or}}", { or: item.or })}
            </span>
          </h2>
          {!test && <p>{item.summary}</p>}
          <div className={`grid gap-x-6 ${item.sides.length > 1 ? "grid-cols-2" : ""}`}>
            {item.sides.map((side) => (
              <div key={side.side}>
                {side.side && <h3>{tr("{{side}} side", { side: side.side })}</h3>}
                <ol>
                  {side.points.map((p, n) => (
                    <li key={p.cue} className="text-[13.5px]">
                      {test && <span className="text-soft">{tr("☐ seen ☐ prompted ☐ no")} </span>}
                      <span className="num">{n + 1}.</span> {p.cue} {p.gate && <b>{tr("[gate]")}</b>}
                    </li>
                  ))}
                </ol>
              </div>
            ))}
          </div>
          {item.cautions.length > 0 && (
            <p className="text-[13px] text-soft">
              {tr("Caution:")} {item.cautions.join(" ")}
            </p>
          )}
        </section>
      ))}
    </main>
  );
}
