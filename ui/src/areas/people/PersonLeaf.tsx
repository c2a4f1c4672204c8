import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { Button } from "../../kit/Button";
import { Input, Select, TextArea } from "../../kit/Field";
import { Note } from "../../kit/SplitPane";
import { tr, word } from "../../kit/tr";
import { day } from "../../kit/words";
import { AccountForm } from "../academy/AccountForm";
import { Decide } from "./Decide";
import { HoldForm, Holds } from "./Holds";
import { PersonForm } from "./PersonForm";

/** PersonLeaf is one person: who they are, where they stand, when they come, what keeps them out of something. */
export function PersonLeaf({ id, people }: { id: string; people: S["PersonRow"][] }) {
  const may = useMay();
  const [open, show] = useState<"" | "form" | "hold" | "decide" | "account" | "note">("");
  const page = useQuery({
    queryKey: ["person", id],
    queryFn: () => unwrap(client.GET("/api/people/{id}", { params: { path: { id } } })),
  });
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  const p = page.data;
  if (!p) return null;
  const done = () => show("");
  if (open === "form" && p.fields)
    return <PersonForm id={id} fields={p.fields} version={p.version} decided={p.decided} people={people} onDone={done} />;
  if (open === "hold") return <HoldForm id={id} name={p.line.name} onDone={done} />;
  if (open === "decide") return <Decide student={id} name={p.line.name} onDone={done} />;
  if (open === "account") return <AccountForm person={p.line} onDone={done} />;
  return (
    <article>
      <div className="flex flex-wrap items-baseline gap-x-3">
        <h1 className="flex-1">
          <Belt belt={p.line.belt} rank={p.line.rank} />
          {p.line.name}
        </h1>
        {may("save-person") && <Button onClick={() => show("form")}>{tr("Change")}</Button>}
      </div>
      <p className="text-soft">
        {[
          p.line.called && tr("called {{called}}", { called: p.line.called }),
          p.line.rank && tr("{{rank}} since {{since}}", { rank: p.line.rank, since: day(p.line.since) }),
          tr("joined {{joined}}", { joined: day(p.line.joined) }),
          p.line.minor && "minor",
          p.line.archived && "archived",
        ]
          .filter(Boolean)
          .join(" · ")}
      </p>
      {p.line.held && (
        <Note tone="clay" title={tr("Held:")}>
          {p.line.held}.
        </Note>
      )}
      {p.guardian && (
        <p>
          {tr("Guardian: {{name}}", { name: p.guardian.name })}
          {p.guardian.phone && `, ${p.guardian.phone}`}
          {p.guardian.email && `, ${p.guardian.email}`}
        </p>
      )}
      {p.line.student && <Attendance weeks={p.weeks} classes={p.classes} />}
      {p.readiness && p.next && (
        <p className="mt-2">
          {tr("For {{next}}:", { next: p.next })} <b className="num">{p.readiness.met}</b> {tr("of")}{" "}
          <b className="num">{p.readiness.of}</b> {tr("requirements met.")}{" "}
          <Link className="link" to={`/ledger/${id}`}>
            {tr("In the ledger")}
          </Link>
        </p>
      )}
      <Ranks page={p} onDecide={may("promote") && p.line.student ? () => show("decide") : undefined} />
      <Holds id={id} page={p} onHold={may("hold-person") ? () => show("hold") : undefined} />
      {p.never_with.length > 0 && (
        <p className="mt-3">
          <b>{tr("Never paired with")}</b> {p.never_with.map((x) => x.name).join(", ")}
        </p>
      )}
      <Notes id={id} notes={p.notes} />
      {may("list-accounts") && <PersonAccount id={id} onInvite={() => show("account")} />}
      {may("erase-person") && <Privacy id={id} name={p.line.name} />}
    </article>
  );
}

/** Attendance is the classes of a year by week. */
function Attendance({ weeks, classes }: { weeks: S["WeekCount"][]; classes: number }) {
  const most = Math.max(3, ...weeks.map((w) => w.classes));
  const total = weeks.reduce((n, w) => n + w.classes, 0);
  return (
    <section className="mt-3">
      <h2>{tr("Attendance")}</h2>
      <p className="text-soft">
        <span className="num">{classes}</span> {tr("classes in all,")} <span className="num">{total}</span> {tr("in the last year")}
      </p>
      <svg
        viewBox="0 0 520 62"
        className="mt-1 w-full"
        role="img"
        aria-label={tr("Classes by week: {{total}} in the last year", { total })}
      >
        <path d="M0 50.5h520" stroke="var(--color-ink)" strokeWidth={1} />
        {weeks.map((w, i) => (
          <g key={w.from}>
            <title>{tr("Week of {{from}}: {{classes}}", { from: day(w.from), classes: w.classes })}</title>
            <rect x={i * 10 + 1} y={50 - (w.classes / most) * 44} width={8} height={(w.classes / most) * 44} fill="var(--color-lake)" />
            {i % 13 === 0 && (
              <text x={i * 10} y={61} fontSize={9.5} fill="var(--color-soft)">
                {day(w.from)}
              </text>
            )}
          </g>
        ))}
        <text x={519} y={10} textAnchor="end" fontSize={9.5} fill="var(--color-soft)">
          {tr("{{most}} a week", { most })}
        </text>
      </svg>
      <details>
        <summary className="cursor-pointer text-[13px] text-lake">{tr("As a table")}</summary>
        <table className="grid-lines">
          <thead>
            <tr>
              <th>{tr("Week from")}</th>
              <th className="text-right">{tr("Classes")}</th>
            </tr>
          </thead>
          <tbody>
            {[...weeks]
              .reverse()
              .filter((w) => w.classes > 0)
              .map((w) => (
                <tr key={w.from}>
                  <td>{day(w.from)}</td>
                  <td className="num text-right">{w.classes}</td>
                </tr>
              ))}
          </tbody>
        </table>
      </details>
    </section>
  );
}

function Ranks({ page, onDecide }: { page: S["PersonPage"]; onDecide?: () => void }) {
  if (!onDecide && page.ranks.length === 0) return null;
  return (
    <section className="mt-4">
      <div className="flex items-baseline gap-3">
        <h2 className="flex-1">{tr("Ranks")}</h2>
        {onDecide && <Button onClick={onDecide}>{tr("Decide about a rank")}</Button>}
      </div>
      {page.ranks.length === 0 && <p className="text-soft">{tr("Nothing was decided here yet.")}</p>}
      {page.ranks.map((r) => (
        <p key={r.id} className="border-b border-hair py-[3px]">
          <Belt belt={r.belt} rank={r.summary} />
          <b>{r.summary}</b> <span className="text-soft">{tr("{{on}}, by {{by}}", { on: day(r.on), by: r.by })}</span>
          {r.reason && <span className="block pl-4 text-soft">{r.reason}</span>}
        </p>
      ))}
    </section>
  );
}

const readers = { head: tr("the head instructor alone"), coaches: "coaches", self: tr("coaches, and whom it is of") };

function Notes({ id, notes }: { id: string; notes: S["NoteLine"][] }) {
  const may = useMay();
  const [text, setText] = useState("");
  const [who, setWho] = useState<"head" | "coaches" | "self">("coaches");
  const add = useAction(
    () => unwrap(client.POST("/api/people/{id}/notes", { params: { path: { id } }, body: { text, readers: who } })),
    () => tr("Wrote the note."),
    () => setText(""),
  );
  const remove = useAction(
    (note: string) => unwrap(client.DELETE("/api/people/{id}/notes/{note}", { params: { path: { id, note } } })),
    () => tr("Deleted the note."),
  );
  if (!may("add-note")) return null;
  return (
    <section className="mt-4">
      <h2>{tr("Notes")}</h2>
      {notes.map((n) => (
        <p key={n.id} className="border-b border-hair py-[3px]">
          {n.text}{" "}
          <span className="text-[12.5px] text-soft">
            {tr("{{by}}, {{on}}; read by {{readers}}", { by: n.by, on: day(n.on), readers: readers[n.readers as keyof typeof readers] })}
          </span>{" "}
          {n.mine && (
            <button
              type="button"
              className="link text-[12.5px]"
              aria-label={tr("Delete the note of {{on}}", { on: day(n.on) })}
              onClick={() => remove.mutate(n.id)}
            >
              {tr("Delete")}
            </button>
          )}
        </p>
      ))}
      <div className="mt-1 flex items-end gap-2">
        <div className="flex-1">
          <TextArea label={tr("New note")} rows={1} value={text} error={add.error?.message} onChange={(e) => setText(e.target.value)} />
        </div>
        <div className="w-48">
          <Select label={tr("Read by")} value={who} onChange={(e) => setWho(e.target.value as typeof who)}>
            {Object.entries(readers)
              .filter(([r]) => r !== "head" || may("save-person"))
              .map(([r, words]) => (
                <option key={r} value={r}>
                  {words}
                </option>
              ))}
          </Select>
        </div>
        <Button disabled={!text.trim() || add.isPending} onClick={() => add.mutate(undefined)}>
          {tr("Save note")}
        </Button>
      </div>
    </section>
  );
}

function PersonAccount({ id, onInvite }: { id: string; onInvite: () => void }) {
  const list = useQuery({ queryKey: ["accounts"], queryFn: () => unwrap(client.GET("/api/accounts")) });
  const own = (list.data ?? []).filter((a) => a.person === id || a.wards.some((w) => w.id === id));
  return (
    <section className="mt-4">
      <div className="flex items-baseline gap-3">
        <h2 className="flex-1">{tr("Account")}</h2>
        {!own.some((a) => a.person === id) && <Button onClick={onInvite}>{tr("Invite")}</Button>}
      </div>
      {own.length === 0 && <p className="text-soft">{tr("They cannot sign in.")}</p>}
      {own.map((a) => (
        <p key={a.id}>
          {a.sign_in}, {a.roles.map(word).join(", ")}
          {a.state !== "open" && `, ${word(a.state)}`}{" "}
          <Link className="link" to="/academy/accounts">
            {tr("Accounts")}
          </Link>
        </p>
      ))}
    </section>
  );
}

/** Privacy gives out everything kept of somebody, and takes them out for good. */
function Privacy({ id, name }: { id: string; name: string }) {
  const [open, show] = useState(false);
  const [written, write] = useState("");
  const go = useNavigate();
  const erase = useAction(
    () => unwrap(client.POST("/api/people/{id}/erasure", { params: { path: { id } }, body: { name: written } })),
    () => tr("Erased. What happened stays as counts that point to nobody."),
    () => go("/people"),
  );
  return (
    <section className="mt-5 border-t border-hair pt-2 text-[13px]">
      <p className="flex gap-4">
        <a className="link" href={`/api/people/${id}/data.json`} download>
          {tr("Everything kept of them")}
        </a>
        {!open && (
          <button type="button" className="link" onClick={() => show(true)}>
            {tr("Erase for good")}
          </button>
        )}
      </p>
      {open && (
        <div className="mt-2 border-l-[3px] border-clay pl-2.5">
          <p>
            {tr(
              "Their record, notes, accounts and letters go; classes and checks stay as counts that point to nobody. This cannot be undone. To keep the record, archive them instead.",
            )}
          </p>
          <div className="mt-1 flex flex-wrap items-end gap-2">
            <Input
              label={tr("Write “{{name}}”", { name })}
              value={written}
              error={erase.error?.message}
              onChange={(e) => write(e.target.value)}
            />
            <Button look="warn" disabled={written !== name || erase.isPending} onClick={() => erase.mutate(undefined)}>
              {tr("Erase {{name}}", { name })}
            </Button>
            <Button onClick={() => show(false)}>{tr("Cancel")}</Button>
          </div>
        </div>
      )}
    </section>
  );
}
