import { useQuery } from "@tanstack/react-query";
import { type KeyboardEvent, useState } from "react";
import { Link } from "react-router";
import { useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Explain } from "../../kit/Explain";
import { arrows, Empty } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";

/** useUnits are the units with their tracks, against a season's minutes; head instructors alone may ask. */
export function useUnits(season: string) {
  const may = useMay()("list-units");
  return useQuery({
    enabled: may,
    queryKey: ["units", season],
    queryFn: () => unwrap(client.GET("/api/units", { params: { query: { season } } })),
  });
}

/** Units lists what seasons are planned with: minutes, tracks, what stands on what, and whether the minutes there are will do. */
export function Units({ season, open, onOpen }: { season: string; open: string; onOpen: (id: string) => void }) {
  const may = useMay();
  const [words, setWords] = useState("");
  const units = useUnits(season);
  if (units.error) return <p className="text-clay">{units.error.message}</p>;
  if (!units.data) return null;
  const u = units.data;
  const said = words.trim().toLowerCase();
  const found = u.units.filter((x) =>
    [x.name, x.area, x.track_names, x.signoff ?? "", ...x.teaches.map((t) => t.name)].some((w) => w.toLowerCase().includes(said)),
  );
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the arrow keys only move the focus between rows
    <div onKeyDown={(e: KeyboardEvent<HTMLElement>) => arrows(e)}>
      <Minutes tracks={u.tracks} share={u.review_share} />
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <h2>{tr("Units")}</h2>
        <input
          data-search
          type="search"
          aria-label={tr("Search units by name, area, track or technique")}
          placeholder={tr("Name, area, track or technique")}
          value={words}
          onChange={(e) => setWords(e.target.value)}
          className="h-[31px] w-72 rounded-sm border border-rule bg-white px-2"
        />
        <span className="cap">{tr("{{found}} of {{units}}", { found: found.length, units: u.units.length })}</span>
        {may("save-unit") && <Button onClick={() => onOpen("new")}>{tr("Add a unit")}</Button>}
      </div>
      {u.units.length === 0 && (
        <Empty title={tr("No unit yet")}>
          <p>{tr("A unit is what one class can teach: one to three techniques that belong together, in minutes.")}</p>
          <p>
            {tr("Add one here, or let")}{" "}
            <Link className="link" to="/curricula">
              {tr("a curriculum")}
            </Link>{" "}
            {tr("make them from its order.")}
          </p>
        </Empty>
      )}
      {u.units.length > 0 && found.length === 0 && <Empty title={tr("No unit of that name")} />}
      {found.length > 0 && (
        <table className="grid-lines mt-1" data-units>
          <thead>
            <tr>
              <th className="w-[27%]">{tr("Unit")}</th>
              <th>{tr("Area")}</th>
              <th className="text-right">{tr("Min")}</th>
              <th className="text-right">{tr("Review")}</th>
              <th className="w-[19%]">{tr("Tracks")}</th>
              <th className="w-[24%]">{tr("Stands on")}</th>
              <th>{tr("Sign-off")}</th>
            </tr>
          </thead>
          <tbody>
            {found.map((x) => (
              <tr key={x.id} className={`align-top ${open === x.id ? "bg-wash" : ""}`}>
                <td>
                  <button type="button" data-row className="link text-left" aria-current={open === x.id} onClick={() => onOpen(x.id)}>
                    {x.name}
                  </button>
                </td>
                <td className="text-[13px]">{x.area}</td>
                <td className="num text-right">{x.minutes}</td>
                <td className="num text-right">{x.review_minutes}</td>
                <td className="text-[13px]">
                  {x.track_names || <span className="text-clay">{tr("none: it is never taught")}</span>}
                  {x.refused.map((r) => (
                    <span key={r} className="block text-clay">
                      {r}
                    </span>
                  ))}
                </td>
                <td className="text-[13px]">{x.stands_on.map((s) => s.name).join("; ")}</td>
                <td className="text-[13px]">{x.signoff}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

function Minutes({ tracks, share }: { tracks: S["UnitTrack"][]; share: number }) {
  if (tracks.length === 0) return null;
  const season = tracks.find((t) => t.season)?.season;
  return (
    <table className="grid-lines mt-1 max-w-3xl" data-minutes>
      <thead>
        <tr>
          <th>{tr("Track")}</th>
          <th className="text-right">{tr("Units to teach")}</th>
          <th className="text-right">{tr("Minutes they take")}</th>
          <th className="text-right">{season ? tr("Still there in {{season}}", { season }) : tr("There are")}</th>
          <td />
        </tr>
      </thead>
      <tbody>
        {tracks.map((t) => (
          <tr key={t.id}>
            <td className="font-semibold">{t.name}</td>
            <td className="num text-right">{t.units}</td>
            <td className="text-right">
              <Explain label={tr("Minutes {{name}} takes", { name: t.name })} number={Math.round(t.demand)}>
                {tr("Each unit that is not known before, once: its minutes × (1 + {{share}}), the part that is taught again.", { share })}
              </Explain>
            </td>
            <td className="text-right">
              {t.season ? (
                <Explain label={tr("Minutes there are for {{name}}", { name: t.name })} number={t.supply}>
                  {tr(
                    "Teaching minutes of its classes from today to the end of {{season}}, less closures. Where all classes of a week teach the same, those of the longest count once.",
                    { season: t.season },
                  )}
                </Explain>
              ) : (
                tr("no season yet")
              )}
            </td>
            <td className={t.enough ? "text-soft" : "text-clay"}>
              {t.season && (t.enough ? tr("enough") : tr("{{v}} short: the planner chooses", { v: Math.round(t.demand - t.supply) }))}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
