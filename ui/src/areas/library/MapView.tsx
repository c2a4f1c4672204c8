import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useMay } from "../../api/actions";
import { client, unwrap } from "../../api/client";
import { Choice } from "../../kit/Choice";
import { SplitPane } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { ChainFinder } from "./ChainFinder";
import { LibraryEmpty } from "./LibraryEmpty";
import { Filters } from "./MapFilters";
import { MapPicture } from "./MapPicture";
import { Chosen } from "./MapPosition";
import { Report } from "./MapReport";
import { Shelves } from "./Shelves";

export type Filter = {
  curriculum?: string;
  student?: string;
  context?: "gi" | "no-gi";
  part?: "attack" | "defend";
  kind?: string[];
  of?: string;
  age?: number;
};

/** MapView: the picture of positions with its filters on the left; what it summary, or what is under the finger, on the right. */
export default function MapView() {
  const may = useMay();
  const [filter, setFilter] = useState<Filter>({});
  const [chosen, choose] = useState("");
  const [scale, setScale] = useState<"fit" | "full">("fit");
  const [chain, setChain] = useState<string[]>([]);
  const page = useQuery({
    queryKey: ["map", filter],
    queryFn: () => unwrap(client.GET("/api/map", { params: { query: filter } })),
    placeholderData: keepPreviousData,
  });
  const p = page.data;
  const put = (part: Filter) => setFilter((had) => ({ ...had, ...part }));
  return (
    <SplitPane
      left={
        <>
          <div className="flex flex-wrap items-center gap-3">
            <h1>{tr("Library")}</h1>
            <span className="cap flex-1">
              {p && tr("{{reduce}} techniques on the map", { reduce: p.arrows.reduce((n, a) => n + a.techniques.length, 0) })}
            </span>
            <input
              data-search
              type="search"
              list="map-positions"
              aria-label={tr("Find a position on the map")}
              placeholder={tr("Find a position")}
              className="h-[31px] w-48 rounded-sm border border-rule bg-white px-2"
              onChange={(e) => {
                const hit = Object.entries(p?.places ?? {}).find(([, name]) => name.toLowerCase() === e.target.value.toLowerCase());
                if (!hit) return;
                choose(hit[0]);
                setChain([]);
                document.querySelector(`[data-box="${hit[0]}"]`)?.scrollIntoView({ block: "center", inline: "center" });
              }}
            />
            <datalist id="map-positions">
              {Object.values(p?.places ?? {}).map((name) => (
                <option key={name} value={name} />
              ))}
            </datalist>
            <Choice
              label={tr("Size")}
              value={scale}
              onChange={setScale}
              options={[
                { value: "fit", label: tr("Fit") },
                { value: "full", label: "100 %" },
              ]}
            />
          </div>
          <Shelves on={tr("Map")} may={may} />
          {p && Object.keys(p.places).length === 0 && (
            <LibraryEmpty what="positions">{tr("The map shows which positions lead where, and where nobody has a way out.")}</LibraryEmpty>
          )}
          {page.error && <p className="text-clay">{page.error.message}</p>}
          {p && <Filters page={p} filter={filter} put={put} onClear={() => setFilter({})} />}
          {p && (
            <div className="mt-2 overflow-auto">
              <MapPicture
                page={p}
                chosen={chosen}
                chain={chain}
                scale={scale}
                onChoose={(id) => {
                  choose(id);
                  setChain([]);
                }}
              />
              <p className="mt-1 text-[12.5px] text-soft">
                {p.ways.length > 0 &&
                  `${tr("Bars in a position: above attack, below defence; filled as far as {{waysof}} passed a way from there, red where nobody has.", { waysof: p.ways_of === 1 ? tr("they have") : tr("of {{waysof}} people have", { waysof: p.ways_of }) })} `}
                {tr(
                  "A circle counts finishes. A red frame: the defender has no way out on this map. Thick lines: several techniques. Choose a position for its own lines.",
                )}
              </p>
            </div>
          )}
          {may("export-map-dot") && (
            <p className="mt-1 flex gap-4 text-[12.5px]">
              <a className="link" href="/api/map/map.graphml">
                {tr("As GraphML")}
              </a>
              <a className="link" href="/api/map/map.dot">
                {tr("As DOT")}
              </a>
            </p>
          )}
        </>
      }
      right={
        <>
          <ChainFinder filter={filter} onChain={setChain} start={chosen} />
          {p && chosen && <Chosen page={p} id={chosen} onBack={() => choose("")} />}
          {p && !chosen && <Report page={p} onChoose={choose} />}
        </>
      }
    />
  );
}
