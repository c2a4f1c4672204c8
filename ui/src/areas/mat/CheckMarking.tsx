import { useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, Trouble, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { Input } from "../../kit/Field";
import { Note } from "../../kit/SplitPane";
import { tr, word } from "../../kit/tr";
import { Waymark } from "../../kit/Waymark";
import { newId } from "../../kit/words";
import { useOutbox } from "../../outbox/OutboxProvider";
import { Cautions } from "../library/TechniqueLeaf";
import { resistances, type Seen, type Side } from "./Check";
import { Verdict } from "./CheckVerdict";
import { TakeBack } from "./TakeBack";

type MarkingProps = { page: S["CheckPage"]; session?: string; made?: S["MadeCheck"]; onSide: (s: Side) => void };

/** Marking marks what was seen; of a check that is corrected it begins with what was marked then. */
export function Marking({ page, session, made, onSide }: MarkingProps) {
  const t = page.technique;
  const was = made?.observation;
  const [points, setPoints] = useState((made?.technique === t.id ? was?.points : undefined) ?? ({} as Record<string, Seen>));
  const [broken, setBroken] = useState(was?.caution_broken ?? false);
  const [resistance, setResistance] = useState(String(was?.resistance ?? 1) as (typeof resistances)[number]);
  const [tries, setTries] = useState(String(was?.tries ?? ""));
  const [successes, setSuccesses] = useState(String(was?.successes ?? ""));
  const [back, setBack] = useState(was?.taught_back ?? false);
  const [id] = useState(newId);
  const [kept, setKept] = useState<S["Kept"] | null>(null);
  const live = resistance === "4";
  const { send } = useOutbox();
  const [waits, setWaits] = useState(false);
  const keep = useAction(
    async () => {
      const body: S["KeepCheck"] = {
        id,
        student: page.student.id,
        technique: t.id,
        side: page.side,
        class: session,
        observation: {
          points,
          caution_broken: broken,
          ...(was?.partner ? { partner: was.partner } : {}),
          resistance: Number(resistance),
          ...(live ? { tries: Number(tries || 0), successes: Number(successes || 0), taught_back: back } : {}),
        },
      };
      if (made) {
        const { technique, side, observation } = body;
        return await unwrap(
          client.POST("/api/checks/{id}/correct", { params: { path: { id: made.id ?? "" } }, body: { id, technique, side, observation } }),
        );
      }
      try {
        return await unwrap(client.POST("/api/checks", { body }));
      } catch (e) {
        // Without network it goes into the outbox: the server judges it when it is back.
        if (!(e instanceof Trouble) || !e.away) throw e;
        const words = tr("Check: {{name}}, {{name2}}{{side}}", {
          name: page.student.name,
          name2: t.name,
          side: page.side ? `, ${word(page.side)}` : "",
        });
        await send({ kind: "check", session: session ?? "", student: page.student.id, words, method: "POST", path: "/api/checks", body });
        setWaits(true);
        return null;
      }
    },
    undefined,
    setKept,
  );
  const wrong = keep.error?.fields ?? {};
  const error = (field: string) => wrong[field] ?? wrong[`observation.${field}`];
  if (waits)
    return (
      <Note tone="lake" title={tr("Saved on this device.")}>
        {tr("There is no network. The check is sent when it is back, and the server judges it then.")}
      </Note>
    );
  if (kept)
    return <Verdict kept={kept} page={page} onAgain={() => onSide((page.sides.find((s) => s !== page.side) ?? page.side) as Side)} />;
  return (
    <>
      <div className="mt-2 flex items-center gap-3">
        {page.sides.length > 1 ? (
          <Choice
            big
            label={tr("Side")}
            value={page.side as Side}
            onChange={onSide}
            options={[
              { value: "right", label: tr("Right") },
              { value: "left", label: tr("Left") },
            ]}
          />
        ) : (
          <span className="text-soft">{tr("No sides")}</span>
        )}
        {page.marks.map((m) => (
          <span key={m.side} className="flex items-center gap-1 text-[12.5px] text-soft">
            <Waymark {...m} size={22} label={m.side} /> {word(m.side)}
          </span>
        ))}
      </div>
      {page.refused.map((r) => (
        <Note key={r.class + r.why} tone="clay" title={tr("Not today:")}>
          {r.why}
        </Note>
      ))}
      <Cautions usual={page.cautions} defers={page.cautions.length ? page.defers : undefined} />
      <ol className="mt-2">
        {(t.key_points ?? []).map((k, i) => (
          <li key={k.id} className="border-b border-hair py-2.5">
            <p className="text-base">
              <span className="num head text-soft">{i + 1}</span> <b>{k.cue}</b>
              {k.gate && <b className="text-clay"> {tr("· gate")}</b>}
              {k.checkpoint && <span className="text-moss"> {tr("· checkpoint")}</span>}
            </p>
            {k.detail && <p className="text-[13px] text-soft">{k.detail}</p>}
            <div className="mt-1.5">
              <Choice
                big
                label={tr("Key point {{i}}, {{cue}}", { i: i + 1, cue: k.cue })}
                value={points[k.id] ?? ("" as Seen)}
                onChange={(v) => setPoints({ ...points, [k.id]: v })}
                options={[
                  { value: "seen", label: tr("Seen") },
                  { value: "prompted", label: tr("Prompted") },
                  { value: "missing", label: tr("Missing") },
                ]}
              />
            </div>
            {!points[k.id] && error(`points.${k.id}`) && <p className="text-clay">{error(`points.${k.id}`)}</p>}
          </li>
        ))}
      </ol>
      <div className="mt-3">
        <p className="cap mb-1">
          {tr("Resistance: {{resistance}}, {{resistance2}}", { resistance, resistance2: page.resistance[Number(resistance)] })}
        </p>
        <Choice
          big
          label={tr("Resistance")}
          value={resistance}
          onChange={setResistance}
          options={resistances.map((r) => ({ value: r, label: r, title: page.resistance[Number(r)] }))}
        />
      </div>
      {live && (
        <div className="mt-3 grid grid-cols-2 gap-3">
          <Input
            label={tr("Tries")}
            inputMode="numeric"
            value={tries}
            error={error("tries")}
            onChange={(e) => setTries(e.target.value.replace(/\D/g, ""))}
          />
          <Input
            label={tr("Successes")}
            inputMode="numeric"
            value={successes}
            error={error("successes")}
            onChange={(e) => setSuccesses(e.target.value.replace(/\D/g, ""))}
          />
          <label className="col-span-2 flex min-h-[44px] items-center gap-2">
            <input type="checkbox" className="size-5" checked={back} onChange={(e) => setBack(e.target.checked)} />
            {tr("Taught it back to somebody who then could do it")}
          </label>
        </div>
      )}
      <label className="mt-2 flex min-h-[44px] items-center gap-2">
        <input type="checkbox" className="size-5" checked={broken} onChange={(e) => setBroken(e.target.checked)} />
        {tr("A caution was broken")}
      </label>
      <p className="text-[12.5px] text-soft">{page.standard}</p>
      {keep.error && <p className="mt-2 font-semibold text-clay">{keep.error.message}</p>}
      <Button
        look="main"
        className="mt-3 h-[52px]! w-full text-base"
        disabled={keep.isPending || (!made && page.refused.length > 0)}
        onClick={() => keep.mutate(undefined)}
      >
        {made ? tr("Save correction") : tr("Save check")}
      </Button>
      {made && <TakeBack id={made.id ?? ""} back={session ? `/mat/${session}` : `/ledger/${page.student.id}`} />}
    </>
  );
}
