import { useState } from "react";
import { Link } from "react-router";
import { useMay } from "../../api/actions";
import type { S } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { tr } from "../../kit/tr";
import { newId } from "../../kit/words";
import { useOutbox } from "../../outbox/OutboxProvider";
import { GuestForm, PartOf } from "../mat/GuestForm";
import type { Page } from "./Run";

/** RunPeople checks people in by one tap: the likeliest first, or by name. */
export function RunPeople({ page }: { page: Page }) {
  const may = useMay();
  const { send } = useOutbox();
  const [name, setName] = useState("");
  const session = page.summary.session;
  const path = (a: S["Attendee"], part?: string) =>
    `/api/classes/${encodeURIComponent(session)}/attendance/${encodeURIComponent(a.id)}?event=${newId()}${part ? `&part=${part}` : ""}`;
  const checkIn = (a: S["Attendee"], part?: string) => {
    setName("");
    const words =
      part === "late"
        ? tr("{{name}} came late", { name: a.name })
        : part === "early"
          ? tr("{{name}} left early", { name: a.name })
          : tr("{{name}} is here", { name: a.name });
    return send({ kind: "check-in", session, student: a.id, words, method: "PUT", path: path(a, part) });
  };
  const others = page.others.filter((a) => a.name.toLowerCase().includes(name.trim().toLowerCase()));
  return (
    <>
      <input
        type="search"
        aria-label={tr("Name of who came")}
        placeholder={tr("A name")}
        value={name}
        onChange={(e) => setName(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Enter" && others[0]) void checkIn(others[0]);
        }}
        className="mt-3 h-[52px] w-full rounded-sm border-[1.5px] border-ink bg-white px-3 text-[18px]"
      />
      {name === "" && (
        <section aria-label={tr("Here")}>
          <h2 className="mt-3">
            {tr("Here")} <span className="num text-soft">{page.here.length}</span>
          </h2>
          <ul>
            {page.here.map((a) => (
              <li key={a.id} className="flex min-h-[52px] items-center gap-2 border-b border-hair">
                <span className="min-w-0 flex-1">
                  <Belt belt={a.belt} rank={a.rank} />
                  {a.name}
                  {a.guest && <span className="text-soft"> {tr("· guest")}</span>}
                  {a.outside && <span className="block text-[14px] leading-4 text-clay">{a.outside}</span>}
                  {(a.out || a.no_live) && (
                    <span className="block text-[14px] leading-4 text-clay">
                      {a.out ? tr("Not paired: {{out}}", { out: a.out }) : a.no_live}
                    </span>
                  )}
                </span>
                <PartOf big a={a} onChange={(p) => void checkIn(a, p)} />
                {may("keep-check") && !a.out && !a.guest && (
                  <Link
                    className="link flex min-h-[48px] items-center px-2"
                    to={`/check?student=${a.id}&class=${session}${page.techniques[0] ? `&technique=${page.techniques[0].id}` : ""}`}
                  >
                    {tr("Check")}
                  </Link>
                )}
                <button
                  type="button"
                  className="min-h-[48px] px-2 text-soft underline"
                  aria-label={tr("{{name}} is not here", { name: a.name })}
                  onClick={() =>
                    send({
                      kind: "check-out",
                      session,
                      student: a.id,
                      words: tr("{{name}} is not here", { name: a.name }),
                      method: "DELETE",
                      path: path(a),
                    })
                  }
                >
                  {tr("Not here")}
                </button>
              </li>
            ))}
          </ul>
        </section>
      )}
      <h2 className="mt-3">{name ? tr("Found") : tr("Likely")}</h2>
      <ul>
        {others.slice(0, 60).map((a) => (
          <li key={a.id}>
            <button
              type="button"
              aria-label={tr("Check in {{name}}", { name: a.name })}
              onClick={() => checkIn(a)}
              className="flex min-h-[52px] w-full items-center border-b border-hair text-left"
            >
              <span className="flex-1">
                <Belt belt={a.belt} rank={a.rank} />
                {a.name}
                {a.held && <span className="text-clay"> {tr("· held")}</span>}
                {a.outside && <span className="block text-[14px] leading-4 text-clay">{a.outside}</span>}
              </span>
              <span aria-hidden="true" className="px-3 text-2xl text-lake">
                +
              </span>
            </button>
          </li>
        ))}
      </ul>
      {others.length === 0 && <p className="text-soft">{tr("Nobody of that name.")}</p>}
      <GuestForm
        big
        name={others.length === 0 ? name : ""}
        onAdd={(g) => {
          setName("");
          void send({
            kind: "guest",
            session,
            words: tr("{{name}} is here as a guest", { name: g.name }),
            method: "POST",
            path: `/api/classes/${encodeURIComponent(session)}/guests`,
            body: g,
          });
        }}
      />
    </>
  );
}
