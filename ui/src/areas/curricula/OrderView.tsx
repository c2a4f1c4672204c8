import { useState } from "react";
import { Link } from "react-router";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Note } from "../../kit/SplitPane";
import { Ticks } from "../../kit/Ticks";
import { tr } from "../../kit/tr";
import { useUnits } from "../season/Units";

/** OrderView proposes a teaching order with its reasons, and the units it makes. */
export function OrderView({ page }: { page: S["CurriculumPage"] }) {
  const may = useMay();
  const o = page.order;
  const all = useUnits("").data?.tracks ?? [];
  const [tracks, setTracks] = useState<string[]>([]);
  const takeIt = useAction(
    (_: undefined) => unwrap(client.POST("/api/curricula/{id}/order", { params: { path: { id: page.line.id } } })),
    () => tr("Applied the proposed order."),
  );
  const units = useAction(
    (list: string[]) =>
      unwrap(client.POST("/api/curricula/{id}/units", { params: { path: { id: page.line.id } }, body: { tracks: list } })),
    () => tr("Made units; the season can plan them."),
  );
  const writes = may("take-order") && !page.frozen;
  return (
    <>
      {o.broken.map((b) => (
        <Note key={b} tone="clay">
          {b}
        </Note>
      ))}
      <section aria-label={tr("Units")}>
        <h2>{tr("Units")}</h2>
        <p className="text-soft">
          {tr("From the order the requirements stand in: techniques of one family that go on with each other, one to three in a class.")}
        </p>
        <table className="grid-lines">
          <thead>
            <tr>
              <td className="w-6" />
              <th>{tr("Unit")}</th>
              <th>{tr("Movement")}</th>
              <th className="!text-right">{tr("Min")}</th>
              <th>{tr("Stands on")}</th>
            </tr>
          </thead>
          <tbody>
            {o.groups.map((g, i) => (
              <tr key={g.techniques.join()} className="align-top">
                <td className="num text-soft">{i + 1}</td>
                <td>
                  {g.names.join(" · ")}
                  {g.existing && <span className="text-moss"> {tr("· is the unit {{existing}}", { existing: g.existing })}</span>}
                </td>
                <td className="text-soft">{g.moves}</td>
                <td className="num text-right">{g.minutes}</td>
                <td className="num text-soft">{g.requires.map((r) => r + 1).join(", ")}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {may("make-units") && (
          <form
            className="mt-1.5 flex flex-wrap items-center gap-3"
            onSubmit={(e) => {
              e.preventDefault();
              units.mutate(tracks);
            }}
          >
            <Ticks label={tr("Taught in")} all={all} chosen={tracks} onChange={setTracks} />
            <Button type="submit" disabled={units.isPending || tracks.length === 0}>
              {tr("Make units of what no unit teaches yet")}
            </Button>
            <Link className="link text-[13px]" to="/season?view=units">
              {tr("All units")}
            </Link>
          </form>
        )}
        {units.error && <p className="text-clay">{units.error.message}</p>}
      </section>
      <section aria-label={tr("Proposed order")} className="mt-4">
        <div className="flex items-center">
          <h2 className="flex-1">{tr("Proposed order")}</h2>
          {writes && !o.same && (
            <Button look="main" onClick={() => takeIt.mutate(undefined)}>
              {tr("Take this order")}
            </Button>
          )}
        </div>
        {o.same && <p className="text-moss">{tr("The requirements stand in it already.")}</p>}
        <ol>
          {o.steps.map((s, i) => (
            <li key={s.technique} className="grid grid-cols-[26px_minmax(0,1fr)_34px] border-b border-hair">
              <span className="num text-soft">{i + 1}</span>
              <span>
                {s.name} <span className="text-[12.5px] text-soft">{s.why}</span>
              </span>
              <span className="num text-right text-[12.5px] text-soft">
                {s.moves === 0 ? "" : s.moves > 0 ? `↓${s.moves}` : `↑${-s.moves}`}
              </span>
            </li>
          ))}
        </ol>
      </section>
    </>
  );
}
