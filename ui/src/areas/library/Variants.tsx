import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useLocation } from "react-router";
import { useMay } from "../../api/actions";
import { client, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Empty, SplitPane } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { History } from "./History";
import { LibraryEmpty } from "./LibraryEmpty";
import { Shelves } from "./Shelves";
import { Form } from "./VariantForm";
import { Grid } from "./VariantGrid";

/** Variants: where instructors disagree, side by side with what each gains and costs, and the house choice. */
export default function Variants() {
  const may = useMay();
  const { hash } = useLocation();
  const [edit, setEdit] = useState("");
  const [history, setHistory] = useState("");
  const sets = useQuery({ queryKey: ["variants"], queryFn: () => unwrap(client.GET("/api/variant-sets")) });
  const ready = !!sets.data;
  useEffect(() => {
    if (ready && hash) document.getElementById(hash.slice(1))?.scrollIntoView();
  }, [hash, ready]);
  const editing = sets.data?.find((s) => s.id === edit);
  return (
    <SplitPane
      left={
        <>
          <div className="flex items-center gap-3">
            <h1>{tr("Library")}</h1>
            <span className="cap flex-1">{tr("{{n}} sets of variants", { n: sets.data?.length ?? 0 })}</span>
            {may("save-variant-set") && <Button onClick={() => setEdit("new")}>{tr("New set of variants")}</Button>}
          </div>
          <Shelves on={tr("Variants")} may={may} />
          {sets.data?.length === 0 && (
            <LibraryEmpty what={tr("sets of variants")}>
              {tr("A set puts techniques side by side that do one job in different ways.")}
            </LibraryEmpty>
          )}
          {sets.data?.map((s) => (
            <section key={s.id} id={s.id} className="mb-4">
              <div className="flex items-baseline gap-3 border-b-[1.5px] border-ink pb-0.5">
                <h2>{s.name}</h2>
                <span className="flex-1 text-soft">{s.question}</span>
                {may("save-variant-set") && (
                  <button
                    type="button"
                    className="link text-[12.5px]"
                    onClick={() => setEdit(s.id)}
                    aria-label={tr("Change {{name}}", { name: s.name })}
                  >
                    {tr("Change")}
                  </button>
                )}
                {may("record-history") && (
                  <button
                    type="button"
                    className="link text-[12.5px]"
                    aria-label={tr("History of {{name}}", { name: s.name })}
                    onClick={() => setHistory(history === s.id ? "" : s.id)}
                  >
                    {tr("History")}
                  </button>
                )}
              </div>
              {history === s.id && <History kind="variant set" id={s.id} onClose={() => setHistory("")} />}
              <table className="grid-lines">
                <thead>
                  <tr>
                    <th className="w-56">{tr("Variant")}</th>
                    <th>{tr("Gains")}</th>
                    <th>{tr("Costs")}</th>
                  </tr>
                </thead>
                <tbody>
                  {s.variants.map((v) => (
                    <tr key={v.technique} className="align-top" data-on={s.house === v.technique}>
                      <td>
                        <Link className="link" to={`/library/${v.technique}`}>
                          {s.names[v.technique]}
                        </Link>
                        {s.house === v.technique && <b className="block text-[12.5px] text-moss">{tr("house choice")}</b>}
                      </td>
                      <td>{v.gains}</td>
                      <td>{v.costs}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
              {s.grid.rows.length > 0 && <Grid set={s} />}
              {s.reason && (
                <p className="mt-1">
                  <b>{tr("Why the house:")}</b> {s.reason}
                </p>
              )}
            </section>
          ))}
        </>
      }
      right={
        edit && (edit === "new" || editing) ? (
          <Form key={edit} set={editing} onDone={() => setEdit("")} />
        ) : (
          <Empty title={tr("Where instructors disagree")}>
            <p>
              {tr(
                "A set holds techniques that do one job in different ways, with what each gains and costs. The house choice is what this academy teaches first; the reason stays with it.",
              )}
            </p>
          </Empty>
        )
      }
    />
  );
}
