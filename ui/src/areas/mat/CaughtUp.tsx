import type { S } from "../../api/client";
import { Choice } from "../../kit/Choice";
import { tr } from "../../kit/tr";
import type { useReport } from "./report";

/** CaughtUp says what those who caught up something at a station of their own reached of it. */
export function CaughtUp({ page, report, big }: { page: S["SessionPage"]; report: ReturnType<typeof useReport>; big?: boolean }) {
  const names = new Map([...page.here, ...page.others].map((p) => [p.id, p.name]));
  const titles = new Map(page.makeups.flatMap((m) => m.techniques.map((t) => [t.id, t.name])));
  return report.makeups.map((m, at) => (
    // biome-ignore lint/suspicious/noArrayIndexKey: a group of one report is its place
    <section key={at} data-caught-up>
      <h2>{tr("Caught up")}</h2>
      <p className="text-soft">
        {m.people.map((id) => names.get(id) ?? id).join(", ")}
        {tr(". What they were away from meanwhile counts half a class less for them.")}
      </p>
      {m.items.map((it) => {
        const name = titles.get(it.technique) ?? it.technique;
        return (
          <div key={it.technique} className="mt-1">
            <h3>{name}</h3>
            <Choice
              big={big}
              label={tr("What was reached at the station, of {{name}}", { name })}
              value={it.reached}
              onChange={(reached) => report.caughtUp(at, it.technique, reached)}
              options={[
                { value: "all", label: tr("All") },
                { value: "part", label: tr("Part") },
                { value: "not", label: tr("Not") },
              ]}
            />
          </div>
        );
      })}
    </section>
  ));
}
