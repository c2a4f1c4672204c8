import { useRef, useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { percent } from "../../kit/words";

/** Compare plans the season four ways and shows what would follow from each, before one is chosen. */
export function Compare({ page }: { page: S["SeasonPage"] }) {
  const id = page.line.id;
  const [rows, show] = useState<S["Way"][]>([]);
  const stopped = useRef(false);
  // One after the other, each shown when it is there.
  const ways = useAction(async (_: undefined) => {
    stopped.current = false;
    show([]);
    for (let only = 1; only <= 4 && !stopped.current; only++) {
      const found = await unwrap(client.POST("/api/seasons/{id}/ways", { params: { path: { id }, query: { only } } }));
      show((had) => [...had, ...found]);
    }
  });
  const choose = useAction(
    (w: S["Way"]) =>
      unwrap(
        client.PUT("/api/seasons/{id}/ways", { params: { path: { id } }, body: { school: w.school as "block", mode: w.mode as "same" } }),
      ),
    (_, w) => `Planned ${page.line.name} as ${w.school}, ${w.mode}.`,
  );
  const best = (of: (w: S["Way"]) => number) => Math.max(...rows.map(of));
  const cell = (w: S["Way"], of: (w: S["Way"]) => number, words = percent) => (
    <td className={`num text-right ${of(w) >= best(of) - 1e-9 ? "font-bold" : ""}`}>{words(of(w))}</td>
  );
  return (
    <section>
      <p className="max-w-prose text-soft">
        <b className="text-ink">Block</b> stays in one area for several weeks, each week standing on the last;{" "}
        <b className="text-ink">spiral</b> changes area each week and comes back. <b className="text-ink">Same</b> gives one content in all
        of a track’s classes of a week: who comes once misses nothing. <b className="text-ink">Split</b> gives each class its own: twice the
        content, and more people miss something.
      </p>
      <Button className="mt-2" look={rows.length > 0 ? "plain" : "main"} disabled={ways.isPending} onClick={() => ways.mutate(undefined)}>
        {ways.isPending ? `Planning, ${rows.length} of 4 done` : rows.length > 0 ? "Compare again" : "Compare the four strategies"}
      </Button>
      {ways.isPending && (
        <Button
          className="mt-2 ml-2"
          onClick={() => {
            stopped.current = true;
          }}
        >
          Stop after this one
        </Button>
      )}
      {ways.error && <p className="text-clay">{ways.error.message}</p>}
      {rows.length > 0 && (
        <table className="grid-lines mt-3" data-ways>
          <thead>
            <tr>
              <th>Strategy</th>
              <th className="text-right">Coverage</th>
              <th className="text-right">At most</th>
              <th className="text-right">Who comes once a week</th>
              <th className="text-right">Under half covered</th>
              <th className="text-right">Units taught</th>
              <th className="text-right">Returns kept</th>
              <th className="text-right">School kept</th>
              <th className="text-right">Fair shares</th>
              <td />
            </tr>
          </thead>
          <tbody>
            {rows.map((w) => (
              <tr key={`${w.school} ${w.mode}`}>
                <td className="whitespace-nowrap">
                  <b>
                    {w.school}, {w.mode}
                  </b>
                  {w.now && <span className="text-soft"> as it is</span>}
                </td>
                {cell(w, (x) => x.coverage)}
                <td className="num text-right text-soft">{percent(w.bound)}</td>
                {cell(w, (x) => x.rare)}
                {cell(
                  w,
                  (x) => -x.under,
                  (n) => `${-n} students`,
                )}
                {cell(w, (x) => x.units, String)}
                {cell(w, (x) => x.spacing)}
                {cell(w, (x) => x.school_kept)}
                {cell(w, (x) => x.fairness)}
                <td>
                  <Button disabled={choose.isPending || ways.isPending} onClick={() => choose.mutate(w)}>
                    Use this plan
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {choose.error && <p className="text-clay">{choose.error.message}</p>}
      {rows.length > 0 && (
        <p className="mt-1 text-[12.5px] text-soft">
          The best of each column is bold. Choosing sets the school and the mode of every track; under Timetable and coaches each track can
          be set apart.
        </p>
      )}
    </section>
  );
}
