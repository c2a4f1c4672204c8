import { useState } from "react";
import { Link } from "react-router";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { arrows } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { newId, percent } from "../../kit/words";
import { GuestForm, PartOf } from "./GuestForm";

/** Attendance checks people in: the likeliest first, or by name. */
export function Attendance({ page }: { page: S["SessionPage"] }) {
  const may = useMay();
  const [name, setName] = useState("");
  const id = page.summary.session;
  const checkIn = useAction(
    (a: S["Attendee"]) =>
      unwrap(client.PUT("/api/classes/{id}/attendance/{student}", { params: { path: { id, student: a.id }, query: { event: newId() } } })),
    (_, a) => tr("{{name}} is here.", { name: a.name }),
    () => setName(""),
  );
  const part = useAction(
    (x: { a: S["Attendee"]; part: S["Attendee"]["part"] }) =>
      unwrap(
        client.PUT("/api/classes/{id}/attendance/{student}", {
          params: { path: { id, student: x.a.id }, query: { event: newId(), part: x.part } },
        }),
      ),
    (_, x) => `${x.a.name} ${x.part === "late" ? tr("came late") : x.part === "early" ? tr("left early") : tr("was in all of the class")}.`,
  );
  const guest = useAction(
    (g: S["Guest"]) => unwrap(client.POST("/api/classes/{id}/guests", { params: { path: { id } }, body: g })),
    (_, g) => tr("{{name}} is here as a guest.", { name: g.name }),
    () => setName(""),
  );
  const checkOut = useAction(
    (a: S["Attendee"]) => unwrap(client.DELETE("/api/classes/{id}/attendance/{student}", { params: { path: { id, student: a.id } } })),
    (_, a) => tr("{{name}} is not here after all.", { name: a.name }),
  );
  const others = page.others.filter((a) => a.name.toLowerCase().includes(name.trim().toLowerCase()));
  const busy = checkIn.isPending ? checkIn.variables?.id : checkOut.isPending ? checkOut.variables?.id : "";
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the arrow keys only move the focus between buttons
    <div onKeyDown={arrows} className="grid gap-x-6 gap-y-4 md:grid-cols-2">
      <section>
        <h2>
          {tr("Here")} <span className="num text-soft">{page.here.length}</span>
        </h2>
        {page.here.length === 0 && (
          <p className="text-soft">{tr("Nobody yet. Check in from the list, or write a name and press Enter.")}</p>
        )}
        <ul>
          {page.here.map((a) => (
            <li key={a.id} className="border-b border-hair py-1">
              <div className="flex items-center gap-2">
                <span className="min-w-0 flex-1">
                  <Belt belt={a.belt} rank={a.rank} />
                  {a.name}
                  {a.guest && <span className="text-soft"> · {a.guest === "trial" ? tr("trial class") : tr("visitor")}</span>}
                  {a.outside && <span className="block text-[12.5px] leading-4 text-clay">{a.outside}</span>}
                </span>
                <PartOf a={a} onChange={(p) => part.mutate({ a, part: p })} />
                {may("keep-check") && !a.out && !a.guest && (
                  <Link
                    className="link text-[12.5px]"
                    to={`/check?student=${a.id}&class=${id}${page.techniques[0] ? `&technique=${page.techniques[0].id}` : ""}`}
                  >
                    {tr("Check")}
                  </Link>
                )}
                <button
                  type="button"
                  className="link text-[12.5px]"
                  disabled={busy === a.id}
                  onClick={() => checkOut.mutate(a)}
                  aria-label={tr("{{name}} is not here", { name: a.name })}
                >
                  {tr("Not here")}
                </button>
              </div>
              {(a.out || a.no_live) && (
                <p className="pl-3.5 text-[12.5px] leading-4 text-clay">{a.out ? tr("Not paired: {{out}}", { out: a.out }) : a.no_live}</p>
              )}
            </li>
          ))}
        </ul>
      </section>
      <section>
        <h2>{tr("Likely tonight")}</h2>
        <input
          data-search
          type="search"
          aria-label={tr("Name of who came")}
          placeholder={tr("A name")}
          value={name}
          onChange={(e) => setName(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === "Enter" && others[0]) checkIn.mutate(others[0]);
          }}
          className="my-1 h-[31px] w-full rounded-sm border border-rule bg-white px-2"
        />
        <ul className="max-h-[60vh] overflow-y-auto">
          {others.map((a) => (
            <li key={a.id}>
              <button
                type="button"
                data-row
                disabled={busy === a.id}
                onClick={() => checkIn.mutate(a)}
                className="flex min-h-[34px] w-full items-center gap-2 border-b border-hair px-1 text-left hover:bg-wash"
              >
                <span className="sr-only">{tr("Check in {{name}},", { name: a.name })} </span>
                <span className="min-w-0 flex-1">
                  <Belt belt={a.belt} rank={a.rank} />
                  {a.name}
                  {a.held && <span className="text-clay"> {tr("· held")}</span>}
                  {a.outside && <span className="block text-[12.5px] leading-4 text-clay">{a.outside}</span>}
                </span>
                <span className="num text-soft">{percent(a.chance)}</span>
              </button>
            </li>
          ))}
        </ul>
        {others.length === 0 && <p className="text-soft">{tr("Nobody of that name.")}</p>}
        {may("add-guest") && <GuestForm name={others.length === 0 ? name : ""} onAdd={(g) => guest.mutate(g)} />}
        {guest.error && <p className="text-clay">{guest.error.message}</p>}
      </section>
    </div>
  );
}
