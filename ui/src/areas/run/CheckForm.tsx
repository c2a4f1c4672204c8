import { useState } from "react";
import { Link } from "react-router";
import { client, type S, Trouble, unwrap } from "../../api/client";
import { Choice } from "../../kit/Choice";
import { tr, word } from "../../kit/tr";
import { newId } from "../../kit/words";
import { useOutbox } from "../../outbox/OutboxProvider";
import { resistances, type Seen, type Side } from "../mat/Check";
import type { Picked } from "./RunChecks";
import { big } from "./RunNow";

type Told = { side: Side; words: string; met?: boolean; id?: string };
type Live = { worked: number; failed: number };

/** recall gives what was used in the last check: the resistance, and with whom. */
const recall = (what: string) => sessionStorage.getItem(`check-${what}`) ?? "";
const remember = (what: string, value: string) => sessionStorage.setItem(`check-${what}`, value);

/** CheckForm is one check of one student, both sides in one go: everything counts as seen until it is touched. */
export function CheckForm({
  page,
  session,
  picked,
  form,
  onBack,
  onKept,
  next,
  onNext,
}: {
  page: S["ChecksPage"];
  session: string;
  picked: Picked;
  form: S["CheckForm"];
  onBack: () => void;
  onKept: () => void;
  next?: Picked;
  onNext: (p: Picked) => void;
}) {
  const { send } = useOutbox();
  const [sides, setSides] = useState<Side[]>(() => form.sides.filter((s) => picked.sides.includes(s)) as Side[]);
  const [marks, setMarks] = useState<Record<string, Seen>>({});
  const [live, setLive] = useState<Record<string, Live>>({});
  const [resistance, setResistance] = useState<(typeof resistances)[number]>((recall("resistance") || "1") as (typeof resistances)[number]);
  const [partner, setPartner] = useState(recall("partner"));
  const [broken, setBroken] = useState(false);
  const [back, setBack] = useState(false);
  const [ids] = useState<Record<string, string>>(() => Object.fromEntries(form.sides.map((s) => [s, newId()])));
  const [told, setTold] = useState<Told[]>([]);
  const [done, setDone] = useState<Told[]>([]);
  const [error, setError] = useState("");
  const [busy, setBusy] = useState(false);
  const withWhom = page.people.some((x) => x.id === partner && x.id !== picked.student.id) ? partner : "";
  const isLive = resistance === "4";
  const mark = (side: Side, point: string, to: Seen) => {
    const key = `${side} ${point}`;
    setMarks({ ...marks, [key]: marks[key] === to ? "seen" : to });
  };
  const count = (side: Side, what: keyof Live, by: number) => {
    const had = live[side] ?? { worked: 0, failed: 0 };
    setLive({ ...live, [side]: { ...had, [what]: Math.max(0, had[what] + by) } });
  };
  async function keep() {
    setBusy(true);
    setError("");
    remember("resistance", resistance);
    remember("partner", withWhom);
    const all: Told[] = [...done];
    for (const side of sides) {
      if (all.some((t) => t.side === side)) continue;
      const l = live[side] ?? { worked: 0, failed: 0 };
      const body: S["KeepCheck"] = {
        id: ids[side],
        student: picked.student.id,
        technique: form.id,
        side,
        class: session,
        observation: {
          points: Object.fromEntries(form.points.map((k) => [k.id, marks[`${side} ${k.id}`] ?? "seen"])),
          caution_broken: broken,
          resistance: Number(resistance),
          ...(withWhom ? { partner: withWhom } : {}),
          ...(isLive ? { tries: l.worked + l.failed, successes: l.worked, taught_back: back } : {}),
        },
      };
      try {
        const kept = await unwrap(client.POST("/api/checks", { body }));
        const met = kept.overruled?.met ?? kept.verdict.met;
        all.push({
          side,
          met,
          id: kept.id,
          words: met ? (kept.verdict.rung ?? "passed") : tr("not yet. {{reasons}}", { reasons: kept.verdict.reasons.join(" ") }),
        });
      } catch (e) {
        if (!(e instanceof Trouble)) throw e;
        if (!e.away) {
          // What was saved stays saved: trying again sends what is left.
          setDone(all);
          setError([e.message, ...Object.values(e.fields)].join(" "));
          setBusy(false);
          return;
        }
        const words = tr("Check: {{name}}, {{name2}}{{side}}", {
          name: picked.student.name,
          name2: form.name,
          side: side ? `, ${side}` : "",
        });
        await send({ kind: "check", session, student: picked.student.id, words, method: "POST", path: "/api/checks", body });
        all.push({ side, words: tr("kept on this device; judged when there is network") });
      }
    }
    setTold(all);
    setBusy(false);
    onKept();
  }
  const head = (
    <div className="mt-2 flex items-start gap-2">
      <button type="button" className="min-h-[48px] min-w-[40px] text-2xl" aria-label={tr("All checks")} onClick={onBack}>
        ‹
      </button>
      <span>
        <h2 className="text-[20px] leading-6">{picked.student.name}</h2>
        <span className="block">{form.name}</span>
      </span>
    </div>
  );
  if (told.length > 0)
    return (
      <>
        {head}
        <ul className="mt-2" data-kept>
          {told.map((t) => (
            <li key={t.side} className="border-b border-hair py-2">
              <b className={t.met === undefined ? "" : t.met ? "text-moss" : "text-clay"}>
                {t.side && `${word(t.side)}: `}
                {t.words}
              </b>
              {t.id && (
                <Link
                  className="link ml-3 inline-flex min-h-[44px] items-center"
                  to={`/check?student=${picked.student.id}&class=${session}&correct=${t.id}`}
                  aria-label={tr("Correct the check{{side}}", { side: t.side ? `, ${word(t.side)}` : "" })}
                >
                  {tr("Correct")}
                </Link>
              )}
            </li>
          ))}
        </ul>
        <div className="mt-4 flex gap-2">
          {next && (
            <button type="button" className={big} data-main="true" onClick={() => onNext(next)}>
              {tr("Next: {{name}}", { name: next.student.name })}
            </button>
          )}
          <button type="button" className={big} onClick={onBack}>
            {tr("All checks")}
          </button>
        </div>
      </>
    );
  return (
    <>
      {head}
      {form.cautions.length > 0 && (
        <p className="mt-1 text-[14px] leading-5 text-clay">
          {form.cautions.join(" ")} <span className="text-soft">{page.defers}</span>
        </p>
      )}
      {form.sides.length > 1 && (
        <div className="mt-2 flex gap-2">
          {(form.sides as Side[]).map((s) => (
            <label
              key={s}
              className={`flex min-h-[48px] flex-1 items-center gap-3 rounded-sm border-[1.5px] px-3 ${sides.includes(s) ? "border-ink" : "border-hair text-soft"}`}
            >
              <input
                type="checkbox"
                className="h-6 w-6"
                checked={sides.includes(s)}
                onChange={(e) => setSides(form.sides.filter((x) => (x === s ? e.target.checked : sides.includes(x as Side))) as Side[])}
              />
              {s}
            </label>
          ))}
        </div>
      )}
      <ol className="mt-1">
        {form.points.map((k, i) => (
          <li key={k.id} className="border-b border-hair py-2">
            <p className="leading-5">
              <span className="num text-soft">{i + 1}</span> {k.cues[Math.max(0, form.sides.indexOf(sides[0] ?? form.sides[0] ?? ""))]}
              {k.gate && <b className="text-clay"> {tr("· gate")}</b>}
              {k.checkpoint && <span className="text-moss"> {tr("· checkpoint")}</span>}
            </p>
            <div className="mt-1 flex gap-3">
              {sides.map((s) => (
                <fieldset
                  key={s}
                  className="flex min-w-0 flex-1 items-center gap-1"
                  aria-label={tr("Key point {{i}}, {{s}}", { i: i + 1, s: s || tr("no side") })}
                >
                  {sides.length > 1 && <span className="head w-4 text-soft">{s[0]?.toUpperCase()}</span>}
                  {(["prompted", "missing"] as const).map((seen) => {
                    const on = marks[`${s} ${k.id}`] === seen;
                    return (
                      <button
                        key={seen}
                        type="button"
                        aria-pressed={on}
                        aria-label={tr("{{seen}}: key point {{i}}{{s}}", { seen, i: i + 1, s: s ? `, ${s}` : "" })}
                        onClick={() => mark(s, k.id, seen)}
                        className={`min-h-[48px] min-w-0 flex-1 rounded-sm border-[1.5px] text-[14px] ${on ? (seen === "missing" ? "border-clay bg-clay text-paper" : "border-ink bg-ink text-paper") : "border-hair text-soft"}`}
                      >
                        {seen}
                      </button>
                    );
                  })}
                </fieldset>
              ))}
            </div>
          </li>
        ))}
      </ol>
      <p className="mt-3 text-[14px] text-soft">
        {tr("Resistance {{resistance}}: {{resistance2}}", { resistance, resistance2: page.resistance[Number(resistance)] })}
      </p>
      <Choice
        big
        label={tr("Resistance")}
        value={resistance}
        onChange={setResistance}
        options={resistances.map((r) => ({ value: r, label: r, title: page.resistance[Number(r)] }))}
      />
      {isLive &&
        sides.map((s) => (
          <div key={s} className="mt-2 flex items-center gap-2">
            {s && <b className="w-12">{s}</b>}
            <button type="button" className={`${big} min-h-[64px] flex-1`} onClick={() => count(s, "worked", 1)}>
              {tr("Worked")} <b className="num">{live[s]?.worked ?? 0}</b>
            </button>
            <button type="button" className={`${big} min-h-[64px] flex-1`} onClick={() => count(s, "failed", 1)}>
              {tr("Did not")} <b className="num">{live[s]?.failed ?? 0}</b>
            </button>
            <button
              type="button"
              aria-label={tr("Start counting again, {{s}}", { s })}
              className="min-h-[48px] px-2 text-soft underline"
              onClick={() => setLive({ ...live, [s]: { worked: 0, failed: 0 } })}
            >
              0
            </button>
          </div>
        ))}
      {isLive && (
        <label className="mt-1 flex min-h-[48px] items-center gap-3">
          <input type="checkbox" className="h-6 w-6" checked={back} onChange={(e) => setBack(e.target.checked)} />
          {tr("taught it back to somebody who then could do it")}
        </label>
      )}
      <select
        aria-label={tr("Partner")}
        value={withWhom}
        onChange={(e) => setPartner(e.target.value)}
        className="mt-2 h-[52px] w-full rounded-sm border-[1.5px] border-ink bg-white px-2 text-[17px]"
      >
        <option value="">{tr("With whom? (may be left out)")}</option>
        {page.people
          .filter((x) => x.id !== picked.student.id && !x.out)
          .map((x) => (
            <option key={x.id} value={x.id}>
              {x.name}
            </option>
          ))}
      </select>
      <label className="mt-1 flex min-h-[48px] items-center gap-3">
        <input type="checkbox" className="h-6 w-6" checked={broken} onChange={(e) => setBroken(e.target.checked)} />
        {tr("a caution was broken")}
      </label>
      <p className="text-[14px] text-soft">{page.standard}</p>
      {error && <p className="font-semibold text-clay">{error}</p>}
      <div className="sticky -bottom-6 flex bg-paper pt-2 pb-6">
        <button type="button" className={big} data-main="true" disabled={busy || sides.length === 0} onClick={() => void keep()}>
          {tr("Save check")}
        </button>
      </div>
    </>
  );
}
