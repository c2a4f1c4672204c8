import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { arrows, Empty, SplitPane } from "../../kit/SplitPane";
import { tr, word } from "../../kit/tr";
import { useEnter } from "../../kit/useEnter";
import { LibraryEmpty } from "./LibraryEmpty";
import { Review } from "./Review";
import { Shelves } from "./Shelves";
import { TechniqueEditor } from "./TechniqueEditor";
import { TechniqueLeaf } from "./TechniqueLeaf";

/** Library: search on the left, one technique on the right. */
export function Library() {
  const { id } = useParams();
  const go = useNavigate();
  const [words, setWords] = useState("");
  const q = useDeferredValue(words);
  const may = useMay();
  const [kind, setKind] = useState("");
  const list = useQuery({
    queryKey: ["techniques", q],
    queryFn: () => unwrap(client.GET("/api/techniques", { params: { query: { q } } })),
    placeholderData: keepPreviousData,
  });
  const all = list.data ?? [];
  const kinds = [...new Set(all.map((t) => t.kind))].sort();
  const found = kind ? all.filter((t) => t.kind === kind) : all;
  const { enter, takeBack } = useEnter(
    q === words && !list.isPlaceholderData && !list.isFetching,
    () => found[0] && go(`/library/${found[0].id}`),
  );
  return (
    <SplitPane
      prints="right"
      wide="right"
      left={
        // biome-ignore lint/a11y/noStaticElementInteractions: the arrow keys only move the focus between links
        <div onKeyDown={arrows}>
          <div className="flex items-center gap-3">
            <h1>{tr("Library")}</h1>
            <span className="cap flex-1">
              {found.length} {q || kind ? tr("found") : tr("techniques and movements")}
            </span>
            {may("add-technique") && <Button onClick={() => go("/library/new")}>{tr("Write a technique")}</Button>}
          </div>
          <Shelves on={tr("Techniques")} may={may} />
          <input
            data-search
            type="search"
            aria-label={tr("Search the library by name or alias")}
            placeholder={tr("A name, or what you call it")}
            value={words}
            onChange={(e) => {
              setWords(e.target.value);
              takeBack();
            }}
            onKeyDown={(e) => e.key === "Enter" && enter()}
            className="h-[31px] w-full rounded-sm border border-rule bg-white px-2"
          />
          <div className="my-1.5 flex flex-wrap gap-x-3 gap-y-0.5 text-[13px]">
            <Kind name={tr("all kinds")} on={!kind} onClick={() => setKind("")} />
            {kinds.map((k) => (
              <Kind key={k} name={word(k)} on={k === kind} onClick={() => setKind(k === kind ? "" : k)} />
            ))}
          </div>
          {list.error && <p className="text-clay">{list.error.message}</p>}
          {list.data?.length === 0 && !q && !kind && (
            <LibraryEmpty what="techniques">
              {tr("Each technique has its key points, faults, forks and cautions; curricula and classes are made of them.")}
            </LibraryEmpty>
          )}
          {list.data && found.length === 0 && (q || kind) && (
            <Empty title={tr("Nothing is called that")}>
              <p>{tr("Names and aliases were searched, a letter or two may be wrong. Try one word of it.")}</p>
            </Empty>
          )}
          <Groups found={found} searched={!!q} open={id} />
        </div>
      }
      right={
        id === "new" ? (
          <TechniqueEditor onDone={(made) => go(`/library/${made}`)} onLeave={() => go("/library")} />
        ) : id ? (
          <TechniqueLeaf key={id} id={id} />
        ) : (
          <LibraryFront mayReview={may("review-library")} />
        )
      }
    />
  );
}

/** LibraryFront is what the right leaf shows before a technique is chosen. */
function LibraryFront({ mayReview }: { mayReview: boolean }) {
  if (mayReview) return <Review />;
  return (
    <Empty title={tr("Pick a technique")}>
      <p>{tr("It opens here with its key points, gates, faults, forks and cautions, and can be turned to the other side.")}</p>
    </Empty>
  );
}

function Kind({ name, on, onClick }: { name: string; on: boolean; onClick: () => void }) {
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={onClick}
      className={on ? "min-h-[26px] min-w-6 font-semibold underline underline-offset-4" : "min-h-[26px] min-w-6 text-soft hover:text-ink"}
    >
      {name}
    </button>
  );
}

function Groups({ found, searched, open }: { found: S["TechniqueLine"][]; searched: boolean; open?: string }) {
  if (searched) return <List found={found} open={open} />;
  const families = [...new Set(found.map((t) => t.family))].sort((a, b) => order(a) - order(b));
  return families.map((f) => (
    <section key={f} className="mb-3">
      <h2 className="border-b-[1.5px] border-ink pb-0.5 text-[15px] leading-5">{word(f) || tr("movements")}</h2>
      <List found={found.filter((t) => t.family === f)} open={open} />
    </section>
  ));
}

const families = ["standing", "guards", "passing postures", "pins", "back", "turtle", "leg entanglements"];

function order(family: string): number {
  const i = families.indexOf(family);
  return i < 0 ? 99 : i;
}

function List({ found, open }: { found: S["TechniqueLine"][]; open?: string }) {
  return (
    <ul>
      {found.map((t) => (
        <li key={t.id} className="[contain-intrinsic-size:auto_25px] [content-visibility:auto]">
          <Link
            data-row
            data-on={t.id === open}
            to={`/library/${t.id}`}
            className="grid min-h-[25px] grid-cols-[minmax(0,1fr)_96px_132px_10px] items-center gap-2 border-b border-hair px-1 py-px no-underline hover:bg-wash"
          >
            <span className="min-w-0">
              {t.name}
              {t.matched && <span className="text-soft"> · {t.matched}</span>}
            </span>
            <span className="text-soft">{word(t.kind)}</span>
            <span className="truncate text-soft" title={t.to && `${t.from} → ${t.to}`}>
              {t.to && `→ ${t.to}`}
            </span>
            <span title={t.risky ? tr("Has a caution") : undefined} className="text-clay">
              {t.risky ? "!" : ""}
              {t.risky && <span className="sr-only">{tr("has a caution")}</span>}
            </span>
          </Link>
        </li>
      ))}
    </ul>
  );
}
