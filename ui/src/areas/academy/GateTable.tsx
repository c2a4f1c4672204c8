import { useQuery } from "@tanstack/react-query";
import { client, type S, unwrap } from "../../api/client";
import { tr, word } from "../../kit/tr";

type Gate = S["SafetyGate"];

/** GateTable sets from which age and rank, and in which tracks, a technique may be taught or checked: by what it loads, or by itself. */
export function GateTable(props: {
  page: S["AcademyPage"];
  gates: Gate[];
  onChange: (gates: Gate[]) => void;
  wrong: Record<string, string>;
}) {
  const { page, gates } = props;
  const ladders = useQuery({ queryKey: ["ladders"], queryFn: () => unwrap(client.GET("/api/ladders")) });
  const adult = (ladders.data ?? []).find((l) => l.audience === "adult");
  const named = new Set(gates.map((g) => g.technique).filter(Boolean));
  const rows: { key: string; name: string; loads: string; gate: Gate; at: number }[] = [
    ...page.risks.map((r) => {
      const at = gates.findIndex((g) => g.class === r.class);
      return { key: r.class, name: word(r.class), loads: r.regions.map(word).join(", "), gate: gates[at] ?? { class: r.class }, at };
    }),
    ...gates.flatMap((gate, at) =>
      gate.technique
        ? [{ key: gate.technique, name: page.techniques.find((t) => t.id === gate.technique)?.name ?? gate.technique, loads: "", gate, at }]
        : [],
    ),
  ];
  const change = (row: (typeof rows)[number], part: Partial<Gate>) => {
    const next = { ...row.gate, ...part };
    props.onChange(row.at < 0 ? [...gates, next] : gates.map((g, i) => (i === row.at ? next : g)));
  };
  const number = (row: (typeof rows)[number], label: string, key: "min_age" | "escape_age") => (
    <input
      aria-label={`${label}: ${row.name}`}
      type="number"
      min={0}
      max={99}
      className="h-[27px] w-14 rounded-sm border border-rule bg-white px-1"
      value={row.gate[key] ?? ""}
      onChange={(e) => change(row, { [key]: e.target.value === "" ? undefined : Number(e.target.value) })}
    />
  );
  const rank = (row: (typeof rows)[number], label: string, key: "min_rank" | "escape_rank", same: string) => (
    <select
      aria-label={`${label}: ${row.name}`}
      className="h-[27px] max-w-24 rounded-sm border border-rule bg-white"
      value={row.gate[key] ?? ""}
      onChange={(e) => change(row, { [key]: e.target.value === "" ? undefined : Number(e.target.value) })}
    >
      <option value="">{same}</option>
      {(adult?.ranks ?? []).map((x, n) => (
        <option key={x.id} value={n}>
          {x.name}
        </option>
      ))}
    </select>
  );
  return (
    <section>
      <h2>{tr("Gates")}</h2>
      <p className="text-[12.5px] text-soft">
        {tr(
          "From which age and rank, and in which tracks, a technique may be taught or checked; an escape may come earlier. Ranks are those of {{name}}. Competition rules and local law on minors differ: these limits are yours to set.",
          { name: adult?.name ?? tr("the adult ladder") },
        )}
      </p>
      <table className="grid-lines mt-1">
        <thead>
          <tr>
            <th>{tr("Of what")}</th>
            <th>{tr("From age")}</th>
            <th>{tr("From rank")}</th>
            <th>{tr("Escape: age")}</th>
            <th>{tr("Escape: rank")}</th>
            <th>{tr("Tracks")}</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={r.key}>
              <td>
                {r.name} <span className="text-[12.5px] text-soft">{r.loads}</span>
                {r.gate.technique && (
                  <button
                    type="button"
                    className="link ml-2 text-[12.5px]"
                    onClick={() => props.onChange(gates.filter((_, i) => i !== r.at))}
                  >
                    {tr("Remove")}
                  </button>
                )}
                {props.wrong[`gates[${r.at}]`] && <span className="text-clay"> {props.wrong[`gates[${r.at}]`]}</span>}
              </td>
              <td>{number(r, tr("From age"), "min_age")}</td>
              <td>{rank(r, tr("From rank"), "min_rank", "any")}</td>
              <td>{number(r, tr("Escape from age"), "escape_age")}</td>
              <td>{rank(r, tr("Escape from rank"), "escape_rank", tr("the same"))}</td>
              <td>
                <Tracks page={page} name={r.name} chosen={r.gate.tracks ?? []} onChange={(tracks) => change(r, { tracks })} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <label className="mt-2 flex items-baseline gap-2">
        {tr("A gate for one technique")}
        <select
          className="h-[27px] max-w-64 rounded-sm border border-rule bg-white"
          value=""
          onChange={(e) => e.target.value && props.onChange([...gates, { technique: e.target.value }])}
        >
          <option value="">{tr("Choose one…")}</option>
          {page.techniques
            .filter((t) => !named.has(t.id))
            .map((t) => (
              <option key={t.id} value={t.id}>
                {t.name}
              </option>
            ))}
        </select>
      </label>
    </section>
  );
}

function Tracks(props: { page: S["AcademyPage"]; name: string; chosen: string[]; onChange: (tracks: string[] | undefined) => void }) {
  const words = props.chosen.length
    ? tr("{{chosen}} of {{tracks}}", { chosen: props.chosen.length, tracks: props.page.tracks.length })
    : "all";
  return (
    <details>
      <summary aria-label={tr("Tracks: {{name}}", { name: props.name })} className="cursor-pointer whitespace-nowrap">
        {words}
      </summary>
      {props.page.tracks.map((t) => (
        <label key={t.id} className="flex gap-1.5 whitespace-nowrap text-[12.5px]">
          <input
            type="checkbox"
            checked={props.chosen.includes(t.id)}
            onChange={(e) => {
              const next = e.target.checked ? [...props.chosen, t.id] : props.chosen.filter((x) => x !== t.id);
              props.onChange(next.length ? next : undefined);
            }}
          />
          {t.name}
        </label>
      ))}
    </details>
  );
}
