import { Link } from "react-router";
import type { S } from "../../api/client";
import { tr, word } from "../../kit/tr";

/** Practice shows what it is drilled with, and the layers it is learned in. */
export function Practice({ technique: t }: { technique: S["LibraryTechnique"] }) {
  if (!t.layers?.length && !t.drills?.length) return null;
  return (
    <div className="mt-4 flex flex-col gap-3">
      {!!t.layers?.length && (
        <section>
          <h2>{tr("Layers")}</h2>
          <table className="grid-lines mt-1">
            <thead>
              <tr>
                <th className="w-36">{tr("Against")}</th>
                <th>{tr("The lesson")}</th>
                <th>{tr("The partner")}</th>
              </tr>
            </thead>
            <tbody>
              {t.layers.map((y, i) => (
                <tr key={y.defence} className="align-top">
                  <td className="font-semibold">
                    {i + 1}. {y.defence}
                  </td>
                  <td>{y.lesson}</td>
                  <td className="text-soft">{y.partner}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
      {!!t.drills?.length && (
        <section>
          <h2>{tr("Drills")}</h2>
          <table className="grid-lines mt-1">
            <thead>
              <tr>
                <th>{tr("Drill")}</th>
                <th>{tr("Form")}</th>
                <th className="w-16">{tr("Pace")}</th>
                <th className="w-20">{tr("Resistance")}</th>
              </tr>
            </thead>
            <tbody>
              {t.drills.map((d) => (
                <tr key={d.id} className="align-top">
                  <td>
                    <b>{d.name}.</b> {d.how} {d.wins && <span className="text-soft">{tr("Wins: {{wins}}", { wins: d.wins })}</span>}
                  </td>
                  <td>{word(d.form)}</td>
                  <td>{word(d.pace)}</td>
                  <td className="num">{tr("{{resistance}} of 4", { resistance: d.resistance })}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
    </div>
  );
}

export function Rest({ page, on }: { page: S["TechniquePage"]; on: string }) {
  const { shown: t, names, from_there: next } = page;
  return (
    <div className="mt-4 grid gap-x-6 gap-y-3 md:grid-cols-2">
      {t.prerequisites && (
        <section>
          <h3>{tr("Stands on")}</h3>
          {t.prerequisites.map((p) => (
            <p key={p.technique}>
              <Link className="link" to={`/library/${p.technique}${on}`}>
                {names[p.technique]}
              </Link>{" "}
              <span className="text-soft">{p.reason}</span>
            </p>
          ))}
        </section>
      )}
      {t.saves_from && (
        <section>
          <h3>{tr("Saves from")}</h3>
          <p>
            {t.saves_from.map((id, i) => (
              <span key={id}>
                {i > 0 && ", "}
                <Link className="link" to={`/library/${id}${on}`}>
                  {names[id]}
                </Link>
              </span>
            ))}
          </p>
        </section>
      )}
      {(t.bodies || t.context_note) && (
        <section>
          <h3>{tr("Bodies and jackets")}</h3>
          {t.bodies?.map((b) => (
            <p key={b.body}>
              <b>{b.body}:</b> {b.note}
            </p>
          ))}
          {t.context_note && <p>{t.context_note}</p>}
        </section>
      )}
      {t.questions && (
        <section>
          <h3>{tr("Explain while it is drilled")}</h3>
          {t.questions.map((q) => (
            <p key={q}>{q}</p>
          ))}
        </section>
      )}
      {(page.sets.length > 0 || page.tables.length > 0) && (
        <section>
          <h3>{tr("Beside it")}</h3>
          {page.sets.map((v) => (
            <p key={v.id}>
              <Link className="link" to={`/library/variants#${v.id}`}>
                {v.name}
              </Link>
              {v.house ? <b className="text-moss"> {tr("· house choice")}</b> : ""}
              <span className="text-soft">
                {" "}
                {tr("against")} {v.others.map((o) => o.name).join(", ")}
              </span>
            </p>
          ))}
          {page.tables.map((x) => (
            <p key={x.id}>
              {tr("An answer in")}{" "}
              <Link className="link" to={`/library/fork-tables/${x.id}`}>
                {x.name}
              </Link>
            </p>
          ))}
        </section>
      )}
      {next.length > 0 && (
        <section>
          <h3>{tr("From there")}</h3>
          <p>
            {next.map((n, i) => (
              <span key={n.id}>
                {i > 0 && ", "}
                <Link className="link" to={`/library/${n.id}${on}`}>
                  {n.name}
                </Link>
              </span>
            ))}
          </p>
        </section>
      )}
    </div>
  );
}
