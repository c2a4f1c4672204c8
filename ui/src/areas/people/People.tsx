import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { arrows, Empty, Note, SplitPane } from "../../kit/SplitPane";

/** People lists everybody; health notes show only to those who need them. */
export default function People() {
  const [name, setName] = useState("");
  const list = useQuery({ queryKey: ["people"], queryFn: () => unwrap(client.GET("/api/people")) });
  const found = (list.data ?? []).filter((p) => p.name.toLowerCase().includes(name.trim().toLowerCase()));
  const coaches = found.filter((p) => p.coach);
  const students = found.filter((p) => p.student);
  const held = students.filter((p) => p.held);
  return (
    <SplitPane
      left={
        // biome-ignore lint/a11y/noStaticElementInteractions: the arrow keys only move the focus between links
        <div onKeyDown={arrows}>
          <div className="flex items-baseline gap-3">
            <h1>People</h1>
            <span className="cap">
              {students.length} students, {coaches.length} coaches
            </span>
          </div>
          <input
            data-search
            type="search"
            aria-label="Search people by name"
            placeholder="A name"
            value={name}
            onChange={(e) => setName(e.target.value)}
            className="my-2 h-[31px] w-72 rounded-sm border border-rule bg-white px-2"
          />
          {list.error && <p className="text-clay">{list.error.message}</p>}
          <div className="columns-1 gap-8 md:columns-2">
            {students.map((p) => (
              <Person key={p.id} person={p} />
            ))}
          </div>
          {list.data && found.length === 0 && <Empty title="Nobody of that name" />}
        </div>
      }
      right={
        <>
          <h2>Coaches</h2>
          {coaches.map((p) => (
            <p key={p.id} className="border-b border-hair py-[3px]">
              <Belt belt={p.belt} rank={p.rank} />
              {p.name} <span className="text-soft">{p.rank.toLowerCase()}</span>
            </p>
          ))}
          <h2 className="mt-4">Held</h2>
          {held.length === 0 && <p className="text-soft">Nobody.</p>}
          {held.map((p) => (
            <Note key={p.id} tone="clay" title={p.name}>
              {p.held}. {p.hold_note}
            </Note>
          ))}
          <p className="mt-2 text-[12.5px] text-soft">
            A hold ends on a clinician's clearance, which the academy records. Nothing here is a medical judgement.
          </p>
        </>
      }
    />
  );
}

function Person({ person }: { person: S["PersonLine"] }) {
  const may = useMay();
  const words = (
    <>
      <Belt belt={person.belt} rank={person.rank} />
      {person.name} <span className="text-soft">{person.rank.toLowerCase()}</span>
      {person.minor && <span className="text-soft"> · minor</span>}
      {person.held && <b className="text-clay"> · held</b>}
    </>
  );
  return (
    <p className="border-b border-hair py-[3px]">
      {may("get-student") ? (
        <Link data-row className="no-underline hover:underline" to={`/ledger/${person.id}`}>
          {words}
        </Link>
      ) : (
        words
      )}
    </p>
  );
}
