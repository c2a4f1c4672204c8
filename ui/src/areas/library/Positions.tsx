import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { useOpened } from "../../kit/draft";
import { Input, Options, Select, TextArea } from "../../kit/Field";
import { Refusal } from "../../kit/Refusal";
import { arrows, Empty, SplitPane } from "../../kit/SplitPane";
import { tr, word } from "../../kit/tr";
import { History } from "./History";
import { LibraryEmpty } from "./LibraryEmpty";
import { Shelves } from "./Shelves";
import { usePositions, useTechniques, useWords } from "./words";

/** Positions: by family on the left; one with its two people and its ways on the right. */
export default function Positions() {
  const { id } = useParams();
  const may = useMay();
  const go = useNavigate();
  const all = usePositions();
  const families = [...new Set(all.map((p) => p.family))];
  const open = all.find((p) => p.id === id);
  return (
    <SplitPane
      wide="right"
      left={
        // biome-ignore lint/a11y/noStaticElementInteractions: the arrow keys only move the focus between links
        <div onKeyDown={arrows}>
          <div className="flex items-center gap-3">
            <h1>{tr("Library")}</h1>
            <span className="cap flex-1">{tr("{{all}} positions", { all: all.length })}</span>
            {may("save-position") && <Button onClick={() => go("/library/positions/new")}>{tr("Write a position")}</Button>}
          </div>
          <Shelves on={tr("Positions")} may={may} />
          {all.length === 0 && (
            <LibraryEmpty what="positions">
              {tr("A position is a place two people can be in; techniques lead from one to another.")}
            </LibraryEmpty>
          )}
          {families.map((f) => (
            <section key={f} className="mb-2">
              <h2 className="text-[15px] leading-5 grid grid-cols-[minmax(0,1fr)_52px_52px_40px] border-b-[1.5px] border-ink pb-0.5">
                {word(f)}
                <span className="cap text-right">{tr("attack")}</span>
                <span className="cap text-right">{tr("defend")}</span>
                <span className="cap text-right">{tr("into")}</span>
              </h2>
              {all
                .filter((p) => p.family === f)
                .map((p) => (
                  <Link
                    key={p.id}
                    data-row
                    data-on={p.id === id}
                    to={`/library/positions/${p.id}`}
                    className="grid grid-cols-[minmax(0,1fr)_52px_52px_40px] border-b border-hair px-1 py-[3px] no-underline hover:bg-wash"
                  >
                    {p.name}
                    <span className="num text-right">{p.attack}</span>
                    <span className={`num text-right ${p.defend === 0 ? "font-bold text-clay" : ""}`}>{p.defend || tr("none")}</span>
                    <span className="num text-right">{p.into}</span>
                  </Link>
                ))}
            </section>
          ))}
        </div>
      }
      right={
        id === "new" ? (
          <Form onDone={(made) => go(`/library/positions/${made}`)} onLeave={() => go("/library/positions")} />
        ) : open ? (
          <PositionLeaf key={open.id} position={open} />
        ) : (
          <Empty title={tr("Pick a position")}>
            <p>
              {tr(
                "What each of the two people wants there, and every technique that starts or ends in it. A red “none” is a place nobody leads out of.",
              )}
            </p>
          </Empty>
        )
      }
    />
  );
}

function PositionLeaf({ position: p }: { position: S["PositionLine"] }) {
  const [open, show] = useState<"edit" | "history" | "">("");
  const may = useMay();
  const go = useNavigate();
  const techniques = useTechniques();
  const remove = useAction(
    (_: undefined) => unwrap(client.DELETE("/api/records/{kind}/{id}", { params: { path: { kind: "position", id: p.id } } })),
    () => tr("Deleted {{name}}.", { name: p.name }),
    () => go("/library/positions"),
  );
  if (open === "edit") return <Form position={p} onDone={() => show("")} onLeave={() => show("")} />;
  return (
    <article>
      <p className="cap">{word(p.family)}</p>
      <div className="flex items-baseline gap-3">
        <h1 className="flex-1">{p.name}</h1>
        {may("save-position") && (
          <button type="button" className="link text-[13px]" onClick={() => show("edit")}>
            {tr("Change")}
          </button>
        )}
        {may("record-history") && (
          <button type="button" className="link text-[13px]" onClick={() => show(open ? "" : "history")}>
            {tr("History")}
          </button>
        )}
        {may("delete-record") && (
          <button type="button" className="link text-[13px]" onClick={() => remove.mutate(undefined)}>
            {tr("Delete")}
          </button>
        )}
      </div>
      {(p.aliases ?? []).length > 0 && (
        <p className="text-soft">
          {tr("Also:")} {(p.aliases ?? []).join(", ")}
        </p>
      )}
      {remove.error && <p className="text-clay">{remove.error.message}</p>}
      {open === "history" && <History kind="position" id={p.id} onClose={() => show("")} />}
      <div className="mt-3 grid gap-6 md:grid-cols-2">
        {(["attack", "defend"] as const).map((part) => (
          <section key={part}>
            <h2 className="border-b-[1.5px] border-ink pb-0.5">{part === "attack" ? tr("The attacker") : tr("The defender")}</h2>
            <p className="py-1.5 text-[15px]">{part === "attack" ? p.attacker : p.defender}</p>
            <h3>{tr("From here")}</h3>
            <Ways
              all={techniques.filter((t) => t.from_at === `${p.id}/${part}`)}
              none={part === "defend" ? tr("No way out is taught.") : tr("Nothing starts here.")}
              way="to"
            />
            <h3 className="mt-2">{tr("Into here")}</h3>
            <Ways all={techniques.filter((t) => t.to_at === `${p.id}/${part}`)} none={tr("Nothing leads here.")} way="from" />
          </section>
        ))}
      </div>
    </article>
  );
}

function Ways({ all, none, way }: { all: S["TechniqueLine"][]; none: string; way: "to" | "from" }) {
  if (all.length === 0) return <p className="text-clay">{none}</p>;
  return (
    <ul>
      {all.map((t) => (
        <li key={t.id}>
          <Link className="link" to={`/library/${t.id}`}>
            {t.name}
          </Link>{" "}
          <span className="text-soft">
            {word(t.kind)}, {way === "to" ? `→ ${t.to}` : tr("from {{from}}", { from: t.from })}
          </span>
        </li>
      ))}
    </ul>
  );
}

function Form(props: { position?: S["PositionLine"]; onDone: (id: string) => void; onLeave: () => void }) {
  const had = props.position;
  const opened = useOpened(had?.version ?? 0);
  const words = useWords();
  const [name, setName] = useState(had?.name ?? "");
  const [family, setFamily] = useState(had?.family ?? "guards");
  const [facing, setFacing] = useState(had?.facing ?? "");
  const [aliases, setAliases] = useState((had?.aliases ?? []).join("; "));
  const [attacker, setAttacker] = useState(had?.attacker ?? "");
  const [defender, setDefender] = useState(had?.defender ?? "");
  const save = useAction(
    (_: undefined) =>
      unwrap(
        client.PUT("/api/positions", {
          params: { query: { version: opened } },
          body: {
            id: had?.id ?? "",
            name,
            family,
            facing: (facing || undefined) as S["PositionLine"]["facing"],
            attacker,
            defender,
            aliases: aliases
              .split(";")
              .map((a) => a.trim())
              .filter(Boolean),
          },
        }),
      ),
    () => (had ? tr("Changed {{name}}.", { name }) : tr("Added {{name}}.", { name })),
    (out) => props.onDone(out.id),
  );
  const wrong = save.error?.fields ?? {};
  return (
    <form
      aria-label={had ? tr("Change {{name}}", { name: had.name }) : tr("New position")}
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate(undefined);
      }}
      className="flex max-w-2xl flex-col gap-2"
    >
      <h1>{had ? had.name : tr("New position")}</h1>
      {save.error && <Refusal error={save.error} />}
      <Input label={tr("Name")} autoFocus value={name} error={wrong.name ?? wrong.id} onChange={(e) => setName(e.target.value)} />
      <Select label={tr("Family")} value={family} error={wrong.family} onChange={(e) => setFamily(e.target.value)}>
        <Options of={words?.families ?? []} />
      </Select>
      <Select
        label={tr("How the two face each other")}
        hint={tr("Tells which limbs lie beside each other; sides in the words are held against it")}
        value={facing}
        error={wrong.facing}
        onChange={(e) => setFacing(e.target.value)}
      >
        <option value="">{tr("not said")}</option>
        <Options of={words?.facings ?? []} />
      </Select>
      <Input label={tr("Other names")} hint={tr("Between semicolons")} value={aliases} onChange={(e) => setAliases(e.target.value)} />
      <TextArea
        label={tr("What the attacker holds")}
        rows={2}
        value={attacker}
        error={wrong.attacker}
        onChange={(e) => setAttacker(e.target.value)}
      />
      <TextArea
        label={tr("What the defender keeps or wins back")}
        rows={2}
        value={defender}
        error={wrong.defender}
        onChange={(e) => setDefender(e.target.value)}
      />
      <div className="flex gap-2">
        <Button type="submit" look="main" disabled={save.isPending}>
          {tr("Save position")}
        </Button>
        <Button onClick={props.onLeave}>{tr("Cancel")}</Button>
      </div>
    </form>
  );
}
