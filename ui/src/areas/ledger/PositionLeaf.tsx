import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { tr, word } from "../../kit/tr";
import { Waymark } from "../../kit/Waymark";
import { date, percent, shortDate } from "../../kit/words";

/** PositionLeaf is one student in one position: what is asked there, and a step from each to its facts and to a check. */
export function PositionLeaf({
  student,
  position,
  technique,
  side,
}: {
  student: string;
  position: string;
  technique?: string;
  side?: string;
}) {
  const may = useMay();
  const page = useQuery({
    queryKey: ["position", student, position],
    queryFn: () => unwrap(client.GET("/api/students/{id}/positions/{position}", { params: { path: { id: student, position } } })),
  });
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  const p = page.data;
  if (!p) return null;
  const here = `/ledger/${student}?position=${position}`;
  return (
    <section className="mb-5 border-b border-rule pb-3" aria-label={`${p.student.name}, ${p.position}`}>
      <h2 className="text-[20px] leading-6">
        {p.student.name}: {p.position}
      </h2>
      <table className="grid-lines mt-1">
        <tbody>
          {(["attack", "defend"] as const).flatMap((part) =>
            p.techniques
              .filter((t) => t.part === part)
              .map((t, i) => (
                <tr key={t.id} data-on={t.id === technique}>
                  <td className="w-16 text-soft">{i === 0 ? word(part) : ""}</td>
                  <td>
                    {t.name} <span className="text-soft">{word(t.needs)}</span>
                  </td>
                  <td className="whitespace-nowrap">
                    {t.marks.map((m) => (
                      <Link
                        key={m.side}
                        className="mr-2 no-underline"
                        aria-label={tr("Why: {{name}}{{side}}", { name: t.name, side: m.side ? `, ${word(m.side)}` : "" })}
                        to={`${here}&technique=${t.id}&side=${m.side}`}
                      >
                        <Waymark {...m} label={word(m.side) || undefined} />{" "}
                        <span className="text-[12px] text-soft">{word(m.side).slice(0, 1).toUpperCase()}</span>
                      </Link>
                    ))}
                  </td>
                  {may("keep-check") && (
                    <td className="text-right">
                      <Link
                        className="link text-[12.5px]"
                        to={`/check?student=${student}&technique=${t.id}`}
                        aria-label={tr("Check: {{name}}", { name: t.name })}
                      >
                        {tr("Check")}
                      </Link>
                    </td>
                  )}
                </tr>
              )),
          )}
        </tbody>
      </table>
      {technique && <Facts student={student} technique={technique} side={side} />}
    </section>
  );
}

/** Facts says why a standing is what it is, to the last fact, and how it fades. */
export function Facts({ student, technique, side }: { student: string; technique: string; side?: string }) {
  const may = useMay();
  const page = useQuery({
    queryKey: ["facts", student, technique, side],
    queryFn: () =>
      unwrap(
        client.GET("/api/students/{id}/facts", {
          params: { path: { id: student }, query: { technique, side: (side || undefined) as "left" | "right" | undefined } },
        }),
      ),
  });
  const p = page.data;
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  if (!p) return null;
  return (
    <section aria-label={tr("Why")} className="mt-3">
      <h3>
        {tr("Why {{name}}", { name: p.technique.name })}
        {p.side && `, ${word(p.side)}`} {tr("is {{rung}}", { rung: word(p.standing.rung) })}
      </h3>
      {p.facts.length === 0 && <p className="text-soft">{tr("Nothing touched it yet: no class they were in, no check.")}</p>}
      <table className="grid-lines">
        <tbody>
          {p.facts.map((x) => (
            <tr key={x.on + x.summary + x.check}>
              <td className="num whitespace-nowrap">
                {x.session && may("get-class") ? (
                  <Link className="link" to={`/mat/${x.session}`}>
                    {shortDate(x.on)}
                  </Link>
                ) : (
                  shortDate(x.on)
                )}
              </td>
              <td>
                {x.summary} <span className="text-soft">{x.by}</span>
              </td>
              <td className="text-soft">{word(x.rung)}</td>
              <td className="num text-right text-soft">{x.share > 0 ? percent(x.share) : ""}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {p.curve.length > 0 && <Curve page={p} />}
      {p.refreshes.length > 0 && (
        <p className="mt-1">
          {tr("Would refresh it:")}{" "}
          {p.refreshes.slice(0, 4).map((r, i) => (
            <span key={r.session}>
              {i > 0 && ", "}
              {may("get-class") ? (
                <Link className="link" to={`/mat/${r.session}`}>
                  {r.name}, {date(r.on)}
                </Link>
              ) : (
                `${r.name}, ${date(r.on)}`
              )}{" "}
              <span className="text-soft">{tr("({{chance}} likely there)", { chance: percent(r.chance) })}</span>
            </span>
          ))}
        </p>
      )}
    </section>
  );
}

/** Curve draws how much is thought to be still there, week by week. */
function Curve({ page: p }: { page: S["FactsPage"] }) {
  const first = p.curve[0];
  const last = p.curve[p.curve.length - 1];
  if (!first || !last) return null;
  const day = (d: string) => Date.parse(d) / 86_400_000;
  const from = day(first.on);
  const width = Math.max(7, day(last.on) - from);
  const x = (d: string) => ((day(d) - from) / width) * 300;
  const y = (share: number) => 60 - share * 56;
  return (
    <figure className="mt-2">
      <svg viewBox="0 0 300 64" className="h-20 w-full" role="img" aria-label={tr("How much is thought to be still there")}>
        <path d={`M0 ${y(p.threshold)}H300`} stroke="var(--color-clay)" strokeDasharray="3 3" />
        <path d="M0 60H300" stroke="var(--color-rule)" />
        <path
          d={p.curve.map((c, i) => `${i ? "L" : "M"}${x(c.on)} ${y(c.share)}`).join("")}
          fill="none"
          stroke="var(--color-ink)"
          strokeWidth={1.6}
        />
      </svg>
      <figcaption className="num text-[12.5px] text-soft">
        {tr("{{on}} to {{on2}}; half-life now {{v}} days. {{dueon}}", {
          on: shortDate(first.on),
          on2: shortDate(last.on),
          v: Math.round(p.standing.half_life ?? 0),
          dueon: p.due_on ? tr("Due from {{dueon}}, unless something refreshes it.", { dueon: shortDate(p.due_on) }) : "",
        })}
      </figcaption>
    </figure>
  );
}
