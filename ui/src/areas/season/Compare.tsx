import { useRef, useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { tr, word } from "../../kit/tr";
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
    (_, w) => tr("Planned {{name}} as {{school}}, {{mode}}.", { name: page.line.name, school: word(w.school), mode: word(w.mode) }),
  );
  const best = (of: (w: S["Way"]) => number) => Math.max(...rows.map(of));
  const cell = (w: S["Way"], of: (w: S["Way"]) => number, words = percent) => (
    <td className={`num text-right ${of(w) >= best(of) - 1e-9 ? "font-bold" : ""}`}>{words(of(w))}</td>
  );
  return (
    <section>
      <p className="max-w-prose text-soft">
        <b className="text-ink">{tr("Block")}</b> {tr("stays in one area for several weeks, each week standing on the last;")}{" "}
        <b className="text-ink">{tr("spiral")}</b> {tr("changes area each week and comes back.")} <b className="text-ink">{tr("Same")}</b>{" "}
        {tr("gives one content in all of a track’s classes of a week: who comes once misses nothing.")}{" "}
        <b className="text-ink">{tr("Split")}</b> {tr("gives each class its own: twice the content, and more people miss something.")}
      </p>
      <Button className="mt-2" look={rows.length > 0 ? "plain" : "main"} disabled={ways.isPending} onClick={() => ways.mutate(undefined)}>
        {ways.isPending
          ? tr("Planning, {{rows}} of 4 done", { rows: rows.length })
          : rows.length > 0
            ? tr("Compare again")
            : tr("Compare the four strategies")}
      </Button>
      {ways.isPending && (
        <Button
          className="mt-2 ml-2"
          onClick={() => {
            stopped.current = true;
          }}
        >
          {tr("Stop after this one")}
        </Button>
      )}
      {ways.error && <p className="text-clay">{ways.error.message}</p>}
      {rows.length > 0 && (
        <table className="grid-lines mt-3" data-ways>
          <thead>
            <tr>
              <th>{tr("Strategy")}</th>
              <th className="text-right">{tr("Coverage")}</th>
              <th className="text-right">{tr("At most")}</th>
              <th className="text-right">{tr("Who comes once a week")}</th>
              <th className="text-right">{tr("Under half covered")}</th>
              <th className="text-right">{tr("Units taught")}</th>
              <th className="text-right">{tr("Returns kept")}</th>
              <th className="text-right">{tr("School kept")}</th>
              <th className="text-right">{tr("Fair shares")}</th>
              <td />
            </tr>
          </thead>
          <tbody>
            {rows.map((w) => (
              <tr key={`${w.school} ${w.mode}`}>
                <td className="whitespace-nowrap">
                  <b>
                    {word(w.school)}, {word(w.mode)}
                  </b>
                  {w.now && <span className="text-soft"> {tr("as it is")}</span>}
                </td>
                {cell(w, (x) => x.coverage)}
                <td className="num text-right text-soft">{percent(w.bound)}</td>
                {cell(w, (x) => x.rare)}
                {cell(
                  w,
                  (x) => -x.under,
                  (n) => tr("{{n}} students", { n: -n }),
                )}
                {cell(w, (x) => x.units, String)}
                {cell(w, (x) => x.spacing)}
                {cell(w, (x) => x.school_kept)}
                {cell(w, (x) => x.fairness)}
                <td>
                  <Button disabled={choose.isPending || ways.isPending} onClick={() => choose.mutate(w)}>
                    {tr("Use this plan")}
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
          {tr(
            "The best of each column is bold. Choosing sets the school and the mode of every track; under Timetable and coaches each track can be set apart.",
          )}
        </p>
      )}
    </section>
  );
}
