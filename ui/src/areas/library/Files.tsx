import { useState } from "react";
import { Link } from "react-router";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { SplitPane } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { ImportRow } from "./ImportRow";
import { Shelves } from "./Shelves";
import { SideBySide } from "./SideBySide";

type TextFile = S["ExchangeTextFile"];

/** Files takes a folder of records in, row by row, and gives the library out. */
export default function Files() {
  const may = useMay();
  const [files, setFiles] = useState<TextFile[]>([]);
  const [decisions, setDecisions] = useState<S["Decision"][]>([]);
  const [page, setPage] = useState<S["ImportPreview"]>();
  const [open, setOpen] = useState("");
  const [reading, setReading] = useState("");
  const look = useAction(
    (body: S["LibraryImport"]) => unwrap(client.POST("/api/library/imports/preview", { body })),
    undefined,
    (out) => setPage(out),
  );
  const keep = useAction(
    (body: S["LibraryImport"]) => unwrap(client.POST("/api/library/imports", { body })),
    () => tr("Imported into the library."),
    () => {
      setFiles([]);
      setDecisions([]);
      setPage(undefined);
    },
  );
  async function choose(list: FileList | null) {
    if (!list?.length) return;
    const all: TextFile[] = [];
    for (const [i, f] of [...list].entries()) {
      setReading(tr("Reading {{i}} of {{list}}…", { i: i + 1, list: list.length }));
      all.push({ name: f.webkitRelativePath || f.name, text: await base64(f) });
    }
    setReading("");
    setFiles(all);
    setDecisions([]);
    setOpen("");
    look.mutate({ files: all, decisions: [] });
  }
  /** decide says what becomes of one row; without what to do it is undecided again. */
  function decide(d: Partial<S["Decision"]>) {
    const next = decisions.filter((x) => x.item !== d.item).concat(d.do ? [d as S["Decision"]] : []);
    setDecisions(next);
    setOpen("");
    look.mutate({ files, decisions: next });
  }
  const row = page?.rows.find((r) => r.item === open);
  return (
    <SplitPane
      wide="even"
      left={
        <>
          <h1>{tr("Library")}</h1>
          <Shelves on={tr("Import and export")} may={may} />
          <section>
            <h2>{tr("Out")}</h2>
            <ul className="my-1 flex flex-col gap-1">
              <li>
                <a className="link" href="/api/library/folder.zip">
                  {tr("The library as a folder of Markdown files")}
                </a>{" "}
                <span className="text-soft">{tr("a zip; nothing is lost on the way back")}</span>
              </li>
              {may("export-academy") && (
                <li>
                  <a className="link" href="/api/academy/bundle" download="academy.json">
                    {tr("The whole academy as a bundle")}
                  </a>{" "}
                  <span className="text-soft">{tr("JSON, with the library, its pictures and everything else but passwords")}</span>
                </li>
              )}
              <li>
                <Link className="link" to="/cards">
                  {tr("Technique cards to print")}
                </Link>{" "}
                <span className="text-soft">{tr("both sides on one sheet")}</span>
              </li>
            </ul>
          </section>
          {may("preview-import") && (
            <section className="mt-4">
              <h2>{tr("In")}</h2>
              <p className="text-soft">
                {tr(
                  "Markdown files, a list as CSV (name, kind, from, to and what else there is), a folder or a zip of them, or a bundle. Nothing is written before you have seen what will happen.",
                )}
              </p>
              <div className="my-2 flex gap-2">
                <Choose label={tr("Choose files")} onChange={choose} />
                <Choose label={tr("Choose a folder")} folder onChange={choose} />
                <p role="status" className="self-center text-soft">
                  {reading || (look.isPending ? tr("Looking through them…") : "")}
                </p>
              </div>
              {look.error && <p className="text-clay">{look.error.message}</p>}
              {keep.error && <p className="text-clay">{keep.error.message}</p>}
              {page && (
                <>
                  <div className="sticky -top-3.5 flex items-center gap-3 border-b-[1.5px] border-ink bg-paper py-1.5">
                    <b className={`flex-1 ${page.ready ? "text-moss" : "text-clay"}`}>{page.summary}</b>
                    <Button
                      look="main"
                      disabled={!page.ready || keep.isPending || look.isPending}
                      onClick={() => keep.mutate({ files, decisions })}
                    >
                      {tr("Import")}
                    </Button>
                  </div>
                  {page.problems.slice(0, 8).map((x) => (
                    <p key={x} className="text-clay">
                      {x}
                    </p>
                  ))}
                  <table className="grid-lines">
                    <thead>
                      <tr>
                        <th>{tr("Record")}</th>
                        <th>{tr("What will happen")}</th>
                        <td />
                      </tr>
                    </thead>
                    <tbody>
                      {page.rows.map((r) => (
                        <ImportRow
                          key={r.item}
                          row={r}
                          on={r.item === open}
                          onCompare={() => setOpen(r.item)}
                          onLeave={() => decide({ item: r.item, do: "leave" })}
                          onAnew={() => decide({ item: r.item })}
                        />
                      ))}
                    </tbody>
                  </table>
                </>
              )}
            </section>
          )}
        </>
      }
      right={
        row ? (
          <>
            <h1>{row.name}</h1>
            <p className="text-soft">{row.file}</p>
            <Button className="my-2" onClick={() => decide({ item: row.item, do: "take" })}>
              {tr("It is another one: add it")}
            </Button>
            {row.duplicates.map((d) => (
              <SideBySide
                key={d.technique}
                pair={d}
                here={d.name}
                there={row.name}
                action={tr("Merge into {{name}}", { name: d.name })}
                onMerge={(sections) => decide({ item: row.item, do: "merge", into: d.technique, take: sections })}
              />
            ))}
          </>
        ) : (
          <div className="max-w-prose">
            <h2>{tr("How a record is written")}</h2>
            <pre className="my-2 overflow-auto border border-hair bg-paper p-2 text-[12.5px] leading-[17px]">{example}</pre>
            <p className="text-soft">
              {tr(
                "Identifiers in backquotes may be left out; a fault says behind “at” which key point it belongs to. Lines may be wrapped. Other sections: Caution, With and without the jacket, Stands on, Bodies, Questions, Layers, Drills, Pictures, Drawings.",
              )}
            </p>
          </div>
        )
      }
    />
  );
}

const example = tr(
  "---\nname: Far-side lift\nkind: sweep\nfrom: half-guard/attack\nto: single-leg/attack\ntaught: right\ncontext: both\nseconds_per_rep: 8\nteach_minutes: 7\n---\n\nWin the far underhook and lift them over the trapped knee.\n\n## Key points\n\n1. {Left} elbow inside first `elbow` gate\n   The hand follows the elbow.\n   - limb: your {left} arm\n\n## Faults\n\n- Reaches with the hand. at `elbow`\n   - gives: The arm is wrapped.\n   - mend: Elbow first.\n\n## Forks\n\n- They lean back. at `elbow`\n   - answer: underhook-get-up",
);

function Choose({ label, folder, onChange }: { label: string; folder?: boolean; onChange: (files: FileList | null) => void }) {
  return (
    <label className="inline-flex h-[31px] cursor-pointer items-center rounded-sm border-[1.5px] border-lake px-3 font-semibold text-lake focus-within:outline-2 focus-within:outline-lake hover:bg-wash">
      {label}
      <input
        type="file"
        multiple
        className="sr-only"
        accept={folder ? undefined : ".md,.csv,.json,.zip"}
        {...(folder ? { webkitdirectory: "" } : {})}
        onChange={(e) => {
          onChange(e.target.files);
          e.target.value = "";
        }}
      />
    </label>
  );
}

function base64(file: File): Promise<string> {
  return new Promise((done, fail) => {
    const reader = new FileReader();
    reader.onload = () => done(String(reader.result).replace(/^data:[^,]*,/, ""));
    reader.onerror = () => fail(reader.error);
    reader.readAsDataURL(file);
  });
}
