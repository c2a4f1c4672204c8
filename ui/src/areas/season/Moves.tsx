import { useQuery } from "@tanstack/react-query";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Note } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { date, decimal, percent } from "../../kit/words";
import type { Carried, Spot } from "./spot";

/** Carried is a unit picked up from a class, to be put into another; or a coach who is to lead the class named in from. */
/** Trial says what putting a carried unit somewhere would lead to: the coverage, what breaks, who loses. */
export function Trial({
  page,
  carried,
  target,
  onDone,
}: {
  page: S["SeasonPage"];
  carried: Carried;
  target: Spot | null;
  onDone: () => void;
}) {
  const id = page.line.id;
  const body: S["SeasonMove"] = carried.lead
    ? { lead: carried.lead, to: carried.from }
    : { unit: carried.unit, kind: carried.kind as "teach", from: carried.from, to: target ?? undefined };
  const trial = useQuery({
    queryKey: ["trial", id, body],
    queryFn: () => unwrap(client.POST("/api/seasons/{id}/moves/trial", { params: { path: { id } }, body })),
    retry: false,
  });
  const make = useAction(
    (_: undefined) => unwrap(client.POST("/api/seasons/{id}/moves", { params: { path: { id } }, body })),
    () => `${trial.data?.done}.`,
    onDone,
  );
  const t = trial.data;
  const points = t ? (t.after - t.before) * 100 : 0;
  return (
    <section data-trial>
      <p className="cap">{carried.lead ? tr("Another coach") : tr("Picked up")}</p>
      <h1>{carried.name}</h1>
      {!target && !carried.lead && (
        <p className="mt-1 text-soft">
          {tr(
            "Pick the class it goes to: click it, or walk there with the arrow keys and press Enter. Escape puts it back. Taken out for good:",
          )}
        </p>
      )}
      {trial.error && <p className="mt-1 text-clay">{trial.error.message}</p>}
      {t && (
        <>
          <p className="mt-1 font-semibold">{t.summary}</p>
          <p className="num">
            {tr("Coverage")} <b>{decimal(t.before * 100, 1)}%</b> → <b data-after>{decimal(t.after * 100, 1)}%</b>{" "}
            <span className={points < -0.05 ? "text-clay" : "text-moss"}>
              {tr("({{points}}{{points2}} points)", { points: points >= 0 ? "+" : "", points2: decimal(points, 1) })}
            </span>
          </p>
          {t.breaks.length > 0 ? (
            <Note title={tr("It breaks:")} tone="clay">
              <ul>
                {together(t.breaks).map((b) => (
                  <li key={`${b.week} ${b.what}`}>
                    {tr("Week {{week}},", { week: b.week })} {b.names.join(" and ")}: {b.what}
                  </li>
                ))}
              </ul>
            </Note>
          ) : (
            <Note>{tr("No rule is broken.")}</Note>
          )}
          <People title={tr("Who loses")} all={t.loses} />
          <People title={tr("Who gains")} all={t.gains} />
          {t.changes.length > 0 && (
            <>
              <h3 className="mt-2">{tr("Classes that change")}</h3>
              <ul className="text-[13px]">
                {t.changes.map((c) => (
                  <li key={`${c.week} ${c.class}`}>
                    {date(c.on)}, {c.name}
                  </li>
                ))}
              </ul>
            </>
          )}
        </>
      )}
      <div className="mt-3 flex gap-2">
        <Button look={t && t.breaks.length > 0 ? "warn" : "main"} disabled={!t || make.isPending} onClick={() => make.mutate(undefined)}>
          {carried.lead
            ? tr("Give them the class")
            : !target
              ? tr("Remove from the class")
              : t && t.breaks.length > 0
                ? tr("Make this move all the same")
                : tr("Make this move")}
        </Button>
        <Button onClick={onDone}>{tr("Cancel")}</Button>
      </div>
      <p className="mt-2 text-[12.5px] text-soft">
        {tr("A class changed by hand is pinned: it stays when the season is planned again. The whole move can be undone.")}
      </p>
    </section>
  );
}

function People({ title, all }: { title: string; all: S["SeasonGain"][] }) {
  if (all.length === 0) return null;
  return (
    <>
      <h3 className="mt-2">{title}</h3>
      <p className="num text-[13px]">
        {all
          .slice(0, 6)
          .map((g) => `${g.student} ${percent(g.with)} → ${percent(g.without)}`)
          .join(", ")}
        {all.length > 6 && tr(", and {{n}} more", { n: all.length - 6 })}
      </p>
    </>
  );
}

/** together puts what is broken alike in several classes of a week into one line. */
type Grouped = { week: number; names: string[]; what: string; own: boolean };

export function together(all: S["BreachLine"][]): Grouped[] {
  const lines: Grouped[] = [];
  for (const b of all) {
    const had = lines.find((l) => l.week === b.week && l.what === b.what);
    if (had) had.names.push(b.name);
    else lines.push({ week: b.week, names: b.name ? [b.name] : [], what: b.what, own: b.own });
  }
  return lines;
}
