import { useState } from "react";
import { Link } from "react-router";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { textFile } from "../../kit/file";
import { tr } from "../../kit/tr";

/** SheetsView prints a rank as a booklet or a test sheet, and takes lists in and out. */
export function SheetsView({ page }: { page: S["CurriculumPage"] }) {
  const may = useMay();
  const id = page.line.id;
  const [file, setFile] = useState<S["ExchangeTextFile"]>();
  const [shown, show] = useState<S["CSVPreview"]>();
  const look = useAction(
    (body: S["ExchangeTextFile"]) => unwrap(client.POST("/api/curricula/{id}/list/preview", { params: { path: { id } }, body })),
    undefined,
    (out) => show(out),
  );
  const keep = useAction(
    (body: S["ExchangeTextFile"]) => unwrap(client.POST("/api/curricula/{id}/list", { params: { path: { id } }, body })),
    () => tr("Imported the list."),
    () => show(undefined),
  );
  async function choose(f: File | undefined) {
    if (!f) return;
    const body = await textFile(f);
    setFile(body);
    look.mutate(body);
  }
  return (
    <section aria-label={tr("Sheets and lists")}>
      <h2>{tr("Sheets")}</h2>
      <ul className="my-1 flex flex-col gap-1">
        <li>
          <Link className="link" to={`/sheets/${id}`}>
            {tr("Booklet")}
          </Link>
          ,{" "}
          <a className="link" href={`/api/curricula/${id}/booklet.pdf`}>
            {tr("as PDF")}
          </a>{" "}
          <span className="text-soft">{tr("every requirement, both sides, with gates and cautions")}</span>
        </li>
        {may("export-test-sheet") && (
          <li>
            <Link className="link" to={`/sheets/${id}?test=1`}>
              {tr("Test sheet")}
            </Link>
            ,{" "}
            <a className="link" href={`/api/curricula/${id}/test-sheet.pdf`}>
              {tr("as PDF")}
            </a>{" "}
            <span className="text-soft">{tr("what is asked for passed and above, to be marked")}</span>
          </li>
        )}
        {may("export-list") && (
          <li>
            <a className="link" href={`/api/curricula/${id}/list.csv`}>
              {tr("The list as CSV")}
            </a>
          </li>
        )}
      </ul>
      {may("preview-list") && !page.frozen && (
        <>
          <h2 className="mt-3">{tr("Import a list")}</h2>
          <p className="text-soft">
            {tr(
              "CSV with the columns technique (or name), rung, sides, weight, or, n. The list becomes the curriculum; nothing is written before you have seen what will happen.",
            )}
          </p>
          <label className="link cursor-pointer focus-within:outline-2">
            {tr("Choose a list")}
            <input type="file" accept=".csv,.tsv,.txt" className="sr-only" onChange={(e) => choose(e.target.files?.[0])} />
          </label>
          {keep.error && <p className="text-clay">{keep.error.message}</p>}
          {shown && (
            <>
              <p className={`mt-1 font-semibold ${shown.ready ? "text-moss" : "text-clay"}`}>{shown.summary}</p>
              <table className="grid-lines">
                <tbody>
                  {shown.rows.map((r) => (
                    <tr key={`${r.line}-${r.name}`} className={r.wrong ? "text-clay" : r.summary === "As it is" ? "text-soft" : ""}>
                      <td className="num w-10">{r.line || ""}</td>
                      <td>{r.name}</td>
                      <td>{r.summary}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
              <Button look="main" className="mt-1.5" disabled={!shown.ready || keep.isPending} onClick={() => file && keep.mutate(file)}>
                {tr("Import the list")}
              </Button>
            </>
          )}
        </>
      )}
    </section>
  );
}
