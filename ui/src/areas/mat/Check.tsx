import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { Input, Select, TextArea } from "../../kit/Field";
import { Note } from "../../kit/SplitPane";
import { Legend, Waymark } from "../../kit/Waymark";
import { newId } from "../../kit/words";
import { Cautions } from "../library/TechniqueLeaf";
import { Toast } from "../Shell";

type Seen = "seen" | "prompted" | "missing";
type Side = "left" | "right";

/** Check is the page at the mat's edge: one student, one technique, one side, with big targets for one hand. */
export default function Check() {
  const [query, setQuery] = useSearchParams();
  const student = query.get("student") ?? "";
  const technique = query.get("technique") ?? "";
  const side = (query.get("side") ?? undefined) as Side | undefined;
  const session = query.get("class") ?? undefined;
  const page = useQuery({
    queryKey: ["check", student, technique, side],
    queryFn: () => unwrap(client.GET("/api/checks/sheet", { params: { query: { student, technique: technique || undefined, side } } })),
    placeholderData: keepPreviousData,
  });
  function go(change: Record<string, string>) {
    const next = new URLSearchParams(query);
    for (const [k, v] of Object.entries(change)) v ? next.set(k, v) : next.delete(k);
    setQuery(next);
  }
  return (
    <main className="mx-auto min-h-screen max-w-lg px-4 pt-3 pb-28">
      <p className="flex justify-between">
        <Link className="link" to={session ? `/mat/${session}` : `/ledger/${student}`}>
          ← {session ? "The class" : "The ledger"}
        </Link>
        <Legend />
      </p>
      {page.error && <p className="mt-4 text-clay">{page.error.message}</p>}
      {page.data && (
        <>
          <h1 className="mt-1">
            <Belt belt={page.data.student.belt} rank={page.data.student.rank} />
            {page.data.student.name}
          </h1>
          <div className="mt-1">
            <Select label="Technique" value={technique} onChange={(e) => go({ technique: e.target.value, side: "" })}>
              {!technique && <option value="">Choose one</option>}
              {!page.data.choices.some((c) => c.id === technique) && technique && (
                <option value={technique}>{page.data.technique.name}</option>
              )}
              {page.data.choices.map((c) => (
                <option key={c.id} value={c.id}>
                  {c.name}
                  {c.needs ? ` (${c.needs})` : ""}
                </option>
              ))}
            </Select>
          </div>
          {technique && page.data.technique.id === technique && (
            <Marking key={`${technique} ${page.data.side}`} page={page.data} session={session} onSide={(s) => go({ side: s })} />
          )}
        </>
      )}
      <Toast />
    </main>
  );
}

const resistances = ["0", "1", "2", "3", "4"] as const;
const resistanceWords = ["holds still", "lets it happen", "reacts", "resists", "live"];

function Marking({ page, session, onSide }: { page: S["CheckPage"]; session?: string; onSide: (s: Side) => void }) {
  const t = page.technique;
  const [points, setPoints] = useState<Record<string, Seen>>({});
  const [broken, setBroken] = useState(false);
  const [resistance, setResistance] = useState<(typeof resistances)[number]>("1");
  const [tries, setTries] = useState("");
  const [successes, setSuccesses] = useState("");
  const [back, setBack] = useState(false);
  const [id] = useState(newId);
  const [kept, setKept] = useState<S["Kept"] | null>(null);
  const live = resistance === "4";
  const keep = useAction(
    () =>
      unwrap(
        client.POST("/api/checks", {
          body: {
            id,
            student: page.student.id,
            technique: t.id,
            side: page.side,
            class: session,
            observation: {
              points,
              caution_broken: broken,
              resistance: Number(resistance),
              ...(live ? { tries: Number(tries || 0), successes: Number(successes || 0), taught_back: back } : {}),
            },
          },
        }),
      ),
    undefined,
    setKept,
  );
  const wrong = keep.error?.fields ?? {};
  const error = (field: string) => wrong[field] ?? wrong[`observation.${field}`];
  if (kept)
    return <Verdict kept={kept} page={page} onAgain={() => onSide((page.sides.find((s) => s !== page.side) ?? page.side) as Side)} />;
  return (
    <>
      <div className="mt-2 flex items-center gap-3">
        {page.sides.length > 1 ? (
          <Choice
            big
            label="Side"
            value={page.side as Side}
            onChange={onSide}
            options={[
              { value: "right", label: "Right" },
              { value: "left", label: "Left" },
            ]}
          />
        ) : (
          <span className="text-soft">No sides</span>
        )}
        {page.marks.map((m) => (
          <span key={m.side} className="flex items-center gap-1 text-[12.5px] text-soft">
            <Waymark {...m} size={22} label={m.side} /> {m.side}
          </span>
        ))}
      </div>
      {page.refused.map((r) => (
        <Note key={r.class + r.why} tone="clay" title="Not today:">
          {r.why}
        </Note>
      ))}
      <Cautions usual={page.cautions} defers={page.cautions.length ? page.defers : undefined} />
      <ol className="mt-2">
        {(t.key_points ?? []).map((k, i) => (
          <li key={k.id} className="border-b border-hair py-2.5">
            <p className="text-base">
              <span className="num head text-soft">{i + 1}</span> <b>{k.cue}</b>
              {k.gate && <b className="text-clay"> · gate</b>}
              {k.checkpoint && <span className="text-moss"> · checkpoint</span>}
            </p>
            {k.detail && <p className="text-[13px] text-soft">{k.detail}</p>}
            <div className="mt-1.5">
              <Choice
                big
                label={`Key point ${i + 1}, ${k.cue}`}
                value={points[k.id] ?? ("" as Seen)}
                onChange={(v) => setPoints({ ...points, [k.id]: v })}
                options={[
                  { value: "seen", label: "Seen" },
                  { value: "prompted", label: "Prompted" },
                  { value: "missing", label: "Missing" },
                ]}
              />
            </div>
            {!points[k.id] && error(`points.${k.id}`) && <p className="text-clay">{error(`points.${k.id}`)}</p>}
          </li>
        ))}
      </ol>
      <div className="mt-3">
        <p className="cap mb-1">
          Resistance: {resistance}, {resistanceWords[Number(resistance)]}
        </p>
        <Choice
          big
          label="Resistance"
          value={resistance}
          onChange={setResistance}
          options={resistances.map((r) => ({ value: r, label: r, title: resistanceWords[Number(r)] }))}
        />
      </div>
      {live && (
        <div className="mt-3 grid grid-cols-2 gap-3">
          <Input
            label="Tries"
            inputMode="numeric"
            value={tries}
            error={error("tries")}
            onChange={(e) => setTries(e.target.value.replace(/\D/g, ""))}
          />
          <Input
            label="Successes"
            inputMode="numeric"
            value={successes}
            error={error("successes")}
            onChange={(e) => setSuccesses(e.target.value.replace(/\D/g, ""))}
          />
          <label className="col-span-2 flex min-h-[44px] items-center gap-2">
            <input type="checkbox" className="size-5" checked={back} onChange={(e) => setBack(e.target.checked)} />
            Taught it back to somebody who then could do it
          </label>
        </div>
      )}
      <label className="mt-2 flex min-h-[44px] items-center gap-2">
        <input type="checkbox" className="size-5" checked={broken} onChange={(e) => setBroken(e.target.checked)} />A caution was broken
      </label>
      <p className="text-[12.5px] text-soft">{page.standard}</p>
      {keep.error && <p className="mt-2 font-semibold text-clay">{keep.error.message}</p>}
      <Button
        look="main"
        className="mt-3 h-[52px]! w-full text-base"
        disabled={keep.isPending || page.refused.length > 0}
        onClick={() => keep.mutate(undefined)}
      >
        Save check
      </Button>
    </>
  );
}

function Verdict({ kept, page, onAgain }: { kept: S["Kept"]; page: S["CheckPage"]; onAgain: () => void }) {
  const [now, setNow] = useState(kept);
  const [reason, setReason] = useState("");
  const met = now.overruled ? now.overruled.met : now.verdict.met;
  const overrule = useAction(
    () => unwrap(client.POST("/api/checks/{id}/overrule", { params: { path: { id: now.id } }, body: { met: !met, reason } })),
    () => "Overruled; the reason is on record.",
    (done) => {
      setNow(done);
      setReason("");
    },
  );
  return (
    <div className="mt-3" data-verdict={met ? "met" : "not met"}>
      <h2 className={`text-[30px] leading-9 ${met ? "text-moss" : "text-clay"}`}>{met ? (now.verdict.rung ?? "Passed") : "Not yet"}</h2>
      <p className="flex items-center gap-2 text-base">
        <Waymark {...now.mark} size={26} /> {page.technique.name}
        {page.side && `, ${page.side}`}: {now.mark.rung}
      </p>
      <ul className="mt-2 list-disc pl-5">
        {now.verdict.reasons.map((r) => (
          <li key={r}>{r}</li>
        ))}
      </ul>
      {now.overruled && (
        <Note tone="lake" title="Overruled.">
          {now.overruled.reason} <span className="text-soft">Computed: {now.verdict.met ? "met" : "not met"}.</span>
        </Note>
      )}
      <section className="mt-4 border-t border-rule pt-2">
        <h3>The standard says {now.verdict.met ? "met" : "not met"}; you decide</h3>
        <TextArea
          label={`Why it is ${met ? "not" : ""} met after all`}
          rows={2}
          value={reason}
          error={overrule.error?.fields.reason ?? overrule.error?.message}
          onChange={(e) => setReason(e.target.value)}
        />
        <Button look="warn" className="mt-2 h-[44px]! w-full" disabled={overrule.isPending} onClick={() => overrule.mutate(undefined)}>
          {met ? "Overrule: not met" : "Overrule: met"}
        </Button>
      </section>
      {page.sides.length > 1 && (
        <Button className="mt-3 h-[52px]! w-full" onClick={onAgain}>
          Check the other side
        </Button>
      )}
    </div>
  );
}
