import { Link } from "react-router";
import type { S } from "../../api/client";
import { tr, word } from "../../kit/tr";
import { date } from "../../kit/words";

/** Reactions are the situations of tonight's fork table: the partner makes one, the other answers. */
export function Reactions({ page }: { page: S["SessionPage"] }) {
  return page.reactions.map((d) => (
    <section key={d.table} className="mt-3">
      <h3>
        {tr("Reaction rounds:")}{" "}
        <Link className="link" to={`/library/fork-tables/${d.table}`}>
          {d.name}
        </Link>
      </h3>
      <ol className="list-decimal pl-5">
        {d.calls.map((c, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a call is its number
          <li key={i}>
            {c.situation} → <b>{c.answer}</b>
          </li>
        ))}
      </ol>
    </section>
  ));
}

/** SeriesAndCare says where tonight stands among the weeks, and who here needs an eye. */
export function SeriesAndCare({ page }: { page: S["SessionPage"] }) {
  const { series, care } = page;
  const some = series.before.length + series.next.length + series.why.length + care.missed.length + care.sizes.length;
  if (some === 0) return null;
  return (
    <section className="mt-3 grid grid-cols-2 gap-x-6 gap-y-2 border-y border-rule py-2 text-[13px]">
      <div>
        <h2 className="text-[15px] leading-5">{tr("The weeks")}</h2>
        {series.before.map((x) => (
          <p key={x.session}>
            <Link className="link" to={`/mat/${x.session}`}>
              {date(x.on)}
            </Link>{" "}
            {x.summary}
            {x.reached && <span className="text-clay"> · {word(x.reached)}</span>}
          </p>
        ))}
        {series.next.map((x) => (
          <p key={x.session}>
            {tr("Next,")}{" "}
            <Link className="link" to={`/mat/${x.session}`}>
              {date(x.on)}
            </Link>
            : {x.summary}
          </p>
        ))}
      </div>
      <div>
        {series.why.length > 0 && <h3>{tr("Why tonight")}</h3>}
        {series.why.map((w) => (
          <p key={w}>{w}</p>
        ))}
        {care.missed.map((m) => (
          <p key={m.id}>
            <b>{m.name}</b> {tr("has not met {{of}}.", { of: m.of })}
          </p>
        ))}
        {care.sizes.length > 0 && (
          <p>
            <b className="text-clay">{tr("Sizes:")}</b> {care.sizes.map((x) => x.name).join(", ")}{" "}
            {tr("{{n}} nobody here within a fifth of their weight.", { n: care.sizes.length === 1 ? tr("has") : tr("have") })}
          </p>
        )}
      </div>
    </section>
  );
}
