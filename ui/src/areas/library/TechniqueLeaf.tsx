import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { useAction, useMay } from "../../api/actions";
import { client, unwrap } from "../../api/client";
import { Choice } from "../../kit/Choice";
import { Note } from "../../kit/SplitPane";
import { tr, word } from "../../kit/tr";
import { History } from "./History";
import { DrawingsAt, Forks, KeyPoints } from "./KeyPoints";
import { Practice, Rest } from "./Practice";
import { OfTechnique } from "./Review";
import { SideBySide } from "./SideBySide";
import { TechniqueEditor } from "./TechniqueEditor";

type Side = "left" | "right";

/** TechniqueLeaf shows one technique on one side, and changes it. */
export function TechniqueLeaf({ id }: { id: string }) {
  const [search, setSearch] = useSearchParams();
  const side = (search.get("side") as Side | null) ?? undefined;
  const setSide = (to: Side) => setSearch({ side: to }, { replace: true });
  const [open, show] = useState<"edit" | "history" | "duplicates" | "">("");
  const may = useMay();
  const go = useNavigate();
  const page = useQuery({
    queryKey: ["technique", id, side],
    queryFn: () => unwrap(client.GET("/api/techniques/{id}", { params: { path: { id }, query: side ? { side } : {} } })),
    placeholderData: keepPreviousData,
  });
  const remove = useAction(
    (_: undefined) => unwrap(client.DELETE("/api/records/{kind}/{id}", { params: { path: { kind: "technique", id } } })),
    () => tr("Deleted {{name}}.", { name: page.data?.shown.name ?? id }),
    () => go("/library"),
  );
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  if (!page.data) return null;
  if (open === "edit")
    return <TechniqueEditor technique={page.data.written} version={page.data.version} onDone={() => show("")} onLeave={() => show("")} />;
  const { shown: t, line, names } = page.data;
  // Turned to its other side, what follows is on the other side too.
  const on = page.data.side && page.data.side !== page.data.written.taught ? `?side=${page.data.side}` : "";
  return (
    <article>
      <p className="cap">
        {word(line.kind)}
        {line.from && ` · ${line.from} → ${line.to}`}{" "}
        {tr("· {{contextIs}} · {{secondsperrep}} s a repetition", {
          contextIs: t.context === "both" ? tr("gi and no-gi") : t.context,
          secondsperrep: t.seconds_per_rep,
        })}
        {page.data.side && <span className="hidden print:inline"> {tr("· {{side}} side", { side: word(page.data.side) })}</span>}
      </p>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <h1>{t.name}</h1>
        {page.data.side && (
          <Choice
            label={tr("Side")}
            value={page.data.side as Side}
            onChange={setSide}
            options={[
              { value: "right", label: tr("Right side") },
              { value: "left", label: tr("Left side") },
            ]}
          />
        )}
        <span className="flex-1" />
        <span className="no-print flex gap-3 text-[13px]">
          {may("save-technique") && <Quiet onClick={() => show("edit")}>{tr("Change all of it")}</Quiet>}
          {may("record-history") && <Quiet onClick={() => show(open === "history" ? "" : "history")}>{tr("History")}</Quiet>}
          {may("merge-techniques") && <Quiet onClick={() => show(open === "duplicates" ? "" : "duplicates")}>{tr("Alike")}</Quiet>}
          <Link className="link" to={`/cards/${line.id}`}>
            {tr("Card")}
          </Link>
          {may("delete-record") && <Quiet onClick={() => remove.mutate(undefined)}>{tr("Delete")}</Quiet>}
        </span>
      </div>
      {t.aliases && (
        <p className="text-soft">
          {tr("Also:")} {t.aliases.join(", ")}
        </p>
      )}
      {remove.error && <p className="text-clay">{remove.error.message}</p>}
      {open === "history" && <History kind="technique" id={line.id} onClose={() => show("")} />}
      {open === "duplicates" && <Alike id={line.id} name={t.name} />}
      <p className="mt-1.5 max-w-prose text-[15px]">{t.summary}</p>
      <Cautions own={t.caution} usual={page.data.cautions} defers={page.data.defers} />
      {page.data.warnings.map((w) => (
        <Note key={w.field + w.what} tone="lake" title={w.field}>
          {w.what}
        </Note>
      ))}
      {may("save-technique") && <OfTechnique id={line.id} />}
      <DrawingsAt page={page.data} />
      <KeyPoints page={page.data} />
      <Forks technique={t} names={names} on={on} />
      <Practice technique={t} />
      <Rest page={page.data} on={on} />
    </article>
  );
}

function Quiet({ onClick, children }: { onClick: () => void; children: string }) {
  return (
    <button type="button" className="link" onClick={onClick}>
      {children}
    </button>
  );
}

/** Alike shows likely duplicates side by side, and merges one into this record. */
function Alike({ id, name }: { id: string; name: string }) {
  const found = useQuery({
    queryKey: ["duplicates", id],
    queryFn: () => unwrap(client.GET("/api/techniques/{id}/duplicates", { params: { path: { id } } })),
  });
  const merge = useAction(
    ({ drop, sections }: { drop: string; sections: string[] }) =>
      unwrap(client.POST("/api/techniques/{id}/merges", { params: { path: { id } }, body: { drop, take: sections } })),
    () => tr("Merged into {{name}}.", { name }),
  );
  if (!found.data) return null;
  return (
    <section aria-label={tr("Alike")} className="my-3 border-y-[1.5px] border-ink bg-paper px-3 py-2">
      <h2>{tr("Likely the same")}</h2>
      {found.data.length === 0 && <p className="text-soft">{tr("No other record is much like this one, by name or by content.")}</p>}
      {merge.error && <p className="text-clay">{merge.error.message}</p>}
      {found.data.map((d) => (
        <SideBySide
          key={d.technique}
          pair={d}
          here={d.name}
          there={name}
          action={tr("Merge {{name}} into {{name2}}", { name: d.name, name2: name })}
          // The other record goes, so what stands "here" in it is what can be taken over.
          flipped
          onMerge={(sections) => merge.mutate({ drop: d.technique, sections })}
        />
      ))}
    </section>
  );
}

/** Cautions are shown wherever what they are about is taught, drilled or checked. */
export function Cautions({ own, usual, defers }: { own?: string; usual: string[]; defers?: string }) {
  if (!own && usual.length === 0) return null;
  return (
    <Note tone="clay" title={tr("Caution.")}>
      {own && <span>{own} </span>}
      <ul className="mt-0.5 list-disc pl-4">
        {usual.map((c) => (
          <li key={c}>{c}</li>
        ))}
      </ul>
      {defers && <p className="text-[12.5px] text-soft">{defers}</p>}
    </Note>
  );
}
