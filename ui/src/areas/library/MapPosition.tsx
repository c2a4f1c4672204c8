import { Link } from "react-router";
import type { S } from "../../api/client";
import { tr } from "../../kit/tr";
import { placeWords } from "./words";

export function Chosen({ page, id, onBack }: { page: S["MapPage"]; id: string; onBack: () => void }) {
  const out = page.arrows.filter((a) => a.from.position === id);
  const into = page.arrows.filter((a) => a.to?.position === id && a.from.position !== id);
  return (
    <section aria-label={page.places[id]}>
      <div className="flex items-baseline border-b-[1.5px] border-ink pb-0.5">
        <h2 className="flex-1">
          <Link className="no-underline hover:underline" to={`/library/positions/${id}`}>
            {page.places[id]}
          </Link>
        </h2>
        <button type="button" className="link text-[12.5px]" onClick={onBack}>
          {tr("Back to what the map says")}
        </button>
      </div>
      {(["attack", "defend"] as const).map((part) => (
        <div key={part} className="mt-1.5">
          <h3>{part === "attack" ? tr("The attacker goes to") : tr("The defender goes to")}</h3>
          <Arrows page={page} arrows={out.filter((a) => a.from.part === part)} end="to" />
        </div>
      ))}
      <h3 className="mt-1.5">{tr("One comes here from")}</h3>
      <Arrows page={page} arrows={into} end="from" />
    </section>
  );
}

function Arrows({ page, arrows, end }: { page: S["MapPage"]; arrows: S["MapArrow"][]; end: "to" | "from" }) {
  if (arrows.length === 0) return <p className="text-soft">{tr("Nothing on this map.")}</p>;
  return (
    <ul>
      {arrows.map((a) => (
        <li key={a.techniques.join()} className="border-b border-hair py-0.5">
          <b>{placeWords(end === "to" ? a.to : a.from, page.places)}</b>{" "}
          {a.techniques.map((t, i) => (
            <span key={t}>
              {i > 0 && ", "}
              <Link className="link" to={`/library/${t}`}>
                {page.names[t]}
              </Link>
            </span>
          ))}
        </li>
      ))}
    </ul>
  );
}
