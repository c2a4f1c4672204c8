import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useAction, useMay, useToast } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Empty, Note } from "../../kit/SplitPane";
import { tr, word } from "../../kit/tr";
import { date } from "../../kit/words";

/** Publishing gives the plan to the coaches: what changes for whom, private calendars, and the notices that went out. */
export function Publishing({ season }: { season: string }) {
  const { say } = useToast();
  const page = useQuery({
    queryKey: ["publishing", season],
    queryFn: () => unwrap(client.GET("/api/seasons/{id}/publishing", { params: { path: { id: season } } })),
  });
  const publish = useAction(
    (version: number) => unwrap(client.POST("/api/seasons/{id}/publishing", { params: { path: { id: season }, query: { version } } })),
    undefined,
    (out) =>
      say({
        words: tr("Published. {{told}} coaches were told{{n}}.", {
          told: out.told.length,
          n: out.missed.length > 0 ? tr("; not {{missed}}", { missed: out.missed.join(", ") }) : "",
        }),
        change: out.change,
      }),
  );
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  if (!page.data) return null;
  const p = page.data;
  const hard = p.breaks.filter((b) => !b.own);
  return (
    <div className="grid gap-6 xl:grid-cols-2">
      <section>
        <h2>{p.number === 0 ? tr("Not published yet") : tr("Published, number {{number}}", { number: p.number })}</h2>
        {p.on && <p className="text-soft">{tr("{{slice}}, by {{by}}", { slice: date(p.on.slice(0, 10)), by: p.by })}</p>}
        {hard.length < p.breaks.length && (
          <Note title={tr("Not as its track asks:")} tone="lake">
            {tr("{{n}} not keep the rules for an evening. They are marked in the plan; it can be published so.", {
              n: p.breaks.length - hard.length === 1 ? tr("One class does") : tr("{{n}} classes do", { n: p.breaks.length - hard.length }),
            })}
          </Note>
        )}
        {hard.length > 0 && (
          <Note title={tr("It cannot be published:")} tone="clay">
            <ul>
              {hard.slice(0, 5).map((b) => (
                <li key={`${b.week} ${b.class} ${b.what}`}>
                  {tr("Week {{week}}, {{name}}: {{what}}", { week: b.week, name: b.name, what: b.what })}
                </li>
              ))}
            </ul>
          </Note>
        )}
        {p.changes.length === 0 ? (
          <p className="mt-1">{p.number === 0 ? tr("Plan the season first.") : tr("Nothing has changed since.")}</p>
        ) : (
          <>
            <p className="mt-1">
              {tr("{{changes}} classes {{number}}. These coaches will be told:", {
                changes: p.changes.length,
                number: p.number === 0 ? tr("will be given out") : tr("differ from what the coaches have"),
              })}
            </p>
            <ul className="my-1">
              {p.notices.map((n) => (
                <li key={n.coach} className="border-b border-hair py-1">
                  <details>
                    <summary className="cursor-pointer">
                      <b>{n.name}</b>
                      {tr(", {{lines}} classes", { lines: n.lines })}{" "}
                      <span className={n.email ? "text-soft" : "text-clay"}>
                        {n.email || tr("no address: add one under Timetable and coaches")}
                      </span>
                    </summary>
                    <pre className="mt-1 max-h-60 overflow-auto text-[12.5px] whitespace-pre-wrap">{n.text}</pre>
                  </details>
                </li>
              ))}
            </ul>
            <Button look="main" disabled={publish.isPending || hard.length > 0} onClick={() => publish.mutate(p.version)}>
              {p.number === 0 ? tr("Publish the season") : tr("Publish the changes")}
            </Button>
          </>
        )}
        {publish.error && <p className="text-clay">{publish.error.message}</p>}
        <p className="mt-2 text-[12.5px] text-soft">
          {tr(
            "From then on the mat, the coaches and the calendars go by the published plan, whatever is tried here, until you publish again.",
          )}
        </p>
        <Feeds feeds={p.feeds} />
      </section>
      <Letters />
    </div>
  );
}

function Feeds({ feeds }: { feeds: S["FeedLine"][] }) {
  const may = useMay();
  const make = useAction(
    (f: S["FeedLine"]) => unwrap(client.POST("/api/feeds", { params: { query: { scope: f.scope as "all", target: f.target } } })),
    (_, f) => tr("Made a private address for {{name}}.", { name: f.name }),
  );
  const revoke = useAction(
    (f: S["FeedLine"]) => unwrap(client.DELETE("/api/feeds", { params: { query: { scope: f.scope as "all", target: f.target } } })),
    (_, f) => tr("Revoked the address for {{name}}.", { name: f.name }),
  );
  return (
    <>
      <h2 className="mt-5">{tr("Calendars")}</h2>
      <p className="text-[12.5px] text-soft">
        {tr("Whoever has an address sees those classes in their calendar program, without signing in. Revoke it, and it answers no more.")}
      </p>
      <table className="grid-lines mt-1" data-feeds>
        <tbody>
          {feeds.map((f) => (
            <tr key={`${f.scope} ${f.target}`} className="align-top">
              <td className="whitespace-nowrap">
                {f.name} <span className="text-soft">{f.scope === "all" ? "" : word(f.scope)}</span>
              </td>
              <td className="max-w-64 break-all text-[12px]">
                {f.path ? (
                  <a className="link" href={f.path}>
                    {location.origin}
                    {f.path}
                  </a>
                ) : (
                  <span className="text-soft">{tr("no address")}</span>
                )}
              </td>
              <td className="text-right whitespace-nowrap">
                {may("make-feed") && (
                  <button
                    type="button"
                    className="link text-[13px]"
                    onClick={() => make.mutate(f)}
                    aria-label={tr("{{path}} for {{name}}", { path: f.path ? tr("New address") : tr("Make one"), name: f.name })}
                  >
                    {f.path ? tr("New one") : tr("Make one")}
                  </button>
                )}{" "}
                {f.path && (
                  <button
                    type="button"
                    className="link text-[13px]"
                    onClick={() => revoke.mutate(f)}
                    aria-label={tr("Revoke the address for {{name}}", { name: f.name })}
                  >
                    {tr("Revoke")}
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

const letterState = { waiting: "waiting", sent: "sent", failed: tr("not sent") };

function Letters() {
  const may = useMay();
  const [open, show] = useState<number | null>(null);
  const letters = useQuery({
    queryKey: ["letters"],
    enabled: may("list-letters"),
    queryFn: () => unwrap(client.GET("/api/letters")),
    refetchInterval: (q) => (q.state.data?.some((l) => l.state === "waiting") ? 3000 : false),
  });
  if (!letters.data) return null;
  return (
    <section data-letters>
      <h2>{tr("Notices")}</h2>
      {letters.data.length === 0 && (
        <Empty title={tr("No letters yet")}>
          <p>
            {tr(
              "Publishing writes to each coach something changes for. The letters wait here until the mail server named in VEREDA_SMTP has taken them.",
            )}
          </p>
        </Empty>
      )}
      <ul>
        {letters.data.map((l, i) => (
          <li key={`${l.at} ${l.to}`} className="border-b border-hair py-1">
            <button
              type="button"
              className="w-full text-left hover:bg-wash"
              aria-expanded={open === i}
              onClick={() => show(open === i ? null : i)}
            >
              <b>{l.to}</b> <span className="text-soft">{l.subject}</span>{" "}
              <span className={l.state === "failed" ? "text-clay" : "text-soft"}>· {letterState[l.state]}</span>
            </button>
            {l.failure && (
              <p className="text-[12.5px] text-clay">{tr("The mail server did not take it: {{failure}}", { failure: l.failure })}</p>
            )}
            {open === i && <pre className="mt-1 text-[12.5px] whitespace-pre-wrap">{l.text}</pre>}
          </li>
        ))}
      </ul>
    </section>
  );
}
