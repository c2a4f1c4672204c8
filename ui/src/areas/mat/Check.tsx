import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Link, useSearchParams } from "react-router";
import { client, unwrap } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { Select } from "../../kit/Field";
import { Legend } from "../../kit/Legend";
import { Note } from "../../kit/SplitPane";
import { tr, word } from "../../kit/tr";
import { Waiting } from "../run/Waiting";
import { Toast } from "../Shell";
import { Marking } from "./CheckMarking";

export type Seen = "seen" | "prompted" | "missing";
export type Side = "left" | "right";

/** Check is the page at the mat's edge: one student, one technique, one side, with big targets for one hand. */
export default function Check() {
  const [query, setQuery] = useSearchParams();
  const student = query.get("student") ?? "";
  const correct = query.get("correct") ?? "";
  const made = useQuery({
    queryKey: ["made-check", correct],
    queryFn: () => unwrap(client.GET("/api/checks/{id}", { params: { path: { id: correct } } })),
    enabled: !!correct,
    staleTime: Number.POSITIVE_INFINITY, // once it was corrected, what stood there is no check any more
    retry: false,
  });
  const technique = query.get("technique") ?? made.data?.technique ?? "";
  const side = (query.get("side") ?? (technique === made.data?.technique ? made.data.side : undefined)) as Side | undefined;
  const session = query.get("class") ?? undefined;
  const page = useQuery({
    queryKey: ["check", student, technique, side],
    queryFn: () => unwrap(client.GET("/api/checks/sheet", { params: { query: { student, technique: technique || undefined, side } } })),
    placeholderData: keepPreviousData,
    enabled: !correct || !!made.data,
  });
  function go(change: Record<string, string>) {
    const next = new URLSearchParams(query);
    for (const [k, v] of Object.entries(change)) v ? next.set(k, v) : next.delete(k);
    setQuery(next);
  }
  return (
    <main className="mx-auto min-h-screen max-w-lg px-4 pt-3 pb-28">
      <Waiting />
      <p className="flex justify-between">
        <Link className="link" to={session ? `/mat/${session}` : `/ledger/${student}`}>
          ← {session ? tr("The class") : tr("The ledger")}
        </Link>
        <Legend />
      </p>
      {made.error && <p className="mt-4 text-clay">{made.error.message}</p>}
      {made.data && (
        <Note tone="lake" title={tr("Correcting:")}>
          {tr("{{names}}. The check as it was stays on record.", { names: made.data.names })}
        </Note>
      )}
      {page.error && <p className="mt-4 text-clay">{page.error.message}</p>}
      {page.data && (
        <>
          <h1 className="mt-1">
            <Belt belt={page.data.student.belt} rank={page.data.student.rank} />
            {page.data.student.name}
          </h1>
          <div className="mt-1">
            <Select label={tr("Technique")} value={technique} onChange={(e) => go({ technique: e.target.value, side: "" })}>
              {!technique && <option value="">{tr("Choose one")}</option>}
              {!page.data.choices.some((c) => c.id === technique) && technique && (
                <option value={technique}>{page.data.technique.name}</option>
              )}
              {page.data.choices.map((c) => (
                <option key={c.id} value={c.id}>
                  {c.name}
                  {c.needs ? ` (${word(c.needs)})` : ""}
                </option>
              ))}
            </Select>
          </div>
          {technique && page.data.technique.id === technique && (
            <Marking
              key={`${correct} ${technique} ${page.data.side}`}
              page={page.data}
              session={session}
              made={made.data}
              onSide={(s) => go({ side: s })}
            />
          )}
        </>
      )}
      <Toast />
    </main>
  );
}

export const resistances = ["0", "1", "2", "3", "4"] as const;
