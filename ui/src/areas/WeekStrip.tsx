import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { useMay } from "../api/actions";
import { client, type S, unwrap } from "../api/client";
import { tr, word } from "../kit/tr";
import { date, shortDate, weekday } from "../kit/words";

const first = 6 * 60;
const last = 22 * 60;

/** WeekStrip shows the seven days with their classes on a time line: where the week stands, and the way into a class. */
export function WeekStrip() {
  const { session } = useParams();
  const may = useMay();
  const week = useQuery({
    enabled: may("week"),
    queryKey: ["week"],
    queryFn: () => unwrap(client.GET("/api/week")),
    refetchInterval: 60_000,
  });
  return (
    <nav aria-label={tr("This week")} className="grid h-[74px] min-w-[640px] grid-cols-7">
      {(week.data ?? []).map((d, i) => (
        <div key={d.on} className={`relative border-l border-hair px-2 pt-1.5 ${d.today ? "bg-leaf" : ""}`}>
          <b className={`head text-sm font-semibold ${d.today ? "text-lake" : ""}`}>
            {weekday(((new Date(`${d.on}T00:00Z`).getUTCDay() + 6) % 7) + 1)}
          </b>
          <span className="ml-1.5 text-[12.5px] text-soft">
            {shortDate(d.on).split(" ")[0]}
            {i === 0 ? ` ${shortDate(d.on).split(" ")[1]}` : ""}
            {d.today ? ` ${tr("· today")}` : ""}
          </span>
          <div className="absolute inset-x-2 bottom-2.5 h-[30px] border-b border-rule">
            {placed(d.classes).map(({ c, left }) => (
              <ClassTick key={c.session} tick={c} on={d.on} left={left} open={c.session === session} />
            ))}
          </div>
        </div>
      ))}
    </nav>
  );
}

const looks: Record<string, string> = {
  ready: "bg-ink",
  "no coach": "border-[1.5px] border-clay",
  "not recorded": "border-[1.5px] border-clay border-b-[6px]",
  "not planned": "border-[1.5px] border-dashed border-ink",
  recorded: "bg-rule",
  closed: "shut border border-rule",
};

/** placed puts classes at their hours, and apart from each other as far as a finger needs. */
function placed(classes: S["ClassSummary"][]): { c: S["ClassSummary"]; left: string }[] {
  let before = "";
  return [...classes]
    .sort((a, b) => a.at - b.at)
    .map((c, i) => {
      const hour = `${Math.min(96, Math.max(6, ((c.at - first) / (last - first)) * 100))}%`;
      before = before ? `max(${hour}, ${before} + 25px)` : `max(${hour}, 12px)`;
      // The last ones stay inside their day.
      return { c, left: `min(${before}, 100% - ${12 + 25 * (classes.length - 1 - i)}px)` };
    });
}

function ClassTick({ tick, on, left, open }: { tick: S["ClassSummary"]; on: string; left: string; open: boolean }) {
  const words = `${date(on)}, ${tick.start} ${tick.name}: ${word(tick.state)}${tick.lead ? `, ${tick.lead}` : ""}${tick.summary ? `. ${tick.summary}` : ""}`;
  const style = { left };
  const place = "absolute -bottom-px flex h-[30px] w-[24px] -translate-x-1/2 items-end justify-center";
  const bar = (
    <span
      style={{ height: Math.max(14, Math.min(30, tick.length / 3)) }}
      className={`block w-[6px] ${looks[tick.state] ?? ""} ${open ? "outline-2 outline-offset-2 outline-lake" : ""}`}
    />
  );
  if (!useMay()("get-class")) {
    return (
      <span role="img" aria-label={words} title={words} style={style} className={place}>
        {bar}
      </span>
    );
  }
  return (
    <Link to={`/mat/${tick.session}`} aria-label={words} title={words} style={style} className={place}>
      {bar}
    </Link>
  );
}
