import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { useMay, useMe } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { language, tr } from "../../kit/tr";
import { date } from "../../kit/words";
import { useOutbox } from "../../outbox/OutboxProvider";
import { overlay } from "../../outbox/overlay";
import { useClock } from "../mat/useClock";
import { Toast } from "../Shell";
import { RunAfter } from "./RunAfter";
import { RunChecks } from "./RunChecks";
import { RunGroups } from "./RunGroups";
import { RunNow } from "./RunNow";
import { RunPeople } from "./RunPeople";
import { RunTally } from "./RunTally";
import { Waiting } from "./Waiting";

const tabs = [
  ["now", tr("Now")],
  ["people", tr("People")],
  ["groups", tr("Groups")],
  ["tally", tr("Tally")],
  ["checks", tr("Checks")],
  ["after", tr("After")],
] as const;

/** Run is a class on a phone or a tablet: one part of it at a time, reachable by one thumb, also without network. */
export default function Run() {
  const { session } = useParams();
  return session ? <Session key={session} id={session} /> : <Choose />;
}

function Frame({ title, children, foot }: { title: React.ReactNode; children: React.ReactNode; foot?: React.ReactNode }) {
  return (
    <div className="mx-auto flex h-dvh max-w-3xl flex-col bg-paper text-[16px] leading-6">
      <header className="flex min-h-[56px] shrink-0 items-center gap-3 border-b-[1.5px] border-ink px-4">{title}</header>
      <Waiting />
      <main className="min-h-0 flex-1 overflow-y-auto px-4 pb-6">{children}</main>
      {foot}
      <Toast />
    </div>
  );
}

function Choose() {
  const me = useMe();
  const week = useQuery({
    queryKey: ["week", "ahead"],
    queryFn: () => unwrap(client.GET("/api/week", { params: { query: { ahead: true } } })),
  });
  const days = (week.data ?? []).filter((d) => d.classes.length > 0);
  useKept(days.flatMap((d) => d.classes).map((c) => c.session));
  return (
    <Frame
      title={
        <>
          <h1 className="flex-1 text-[22px]">{tr("The next seven days")}</h1>
          <Link className="link flex min-h-[48px] items-center" to={me.home}>
            {tr("At the desk")}
          </Link>
        </>
      }
    >
      {week.error && <p className="mt-4 text-clay">{week.error.message}</p>}
      {week.data && days.length === 0 && (
        <p className="mt-4 text-soft">
          {tr("No classes in the next seven days. They come from the")}{" "}
          <Link className="link" to="/mat">
            {tr("weekly timetable")}
          </Link>
          .
        </p>
      )}
      {days.map((d) => (
        <section key={d.on} className="mt-4">
          <h2>
            {date(d.on)} {d.today && <span className="text-lake">{tr("today")}</span>}
          </h2>
          {d.classes.map((c) => (
            <Link
              key={c.session}
              to={`/run/${c.session}`}
              className="flex min-h-[56px] items-center gap-3 border-b border-hair no-underline"
            >
              <b className="num w-14">{c.start}</b>
              <span className="min-w-0 flex-1">
                {c.name}
                <span className="block text-[14px] text-soft">{c.summary || c.state}</span>
              </span>
              {c.mine && <span className="cap">{tr("yours")}</span>}
            </Link>
          ))}
        </section>
      ))}
    </Frame>
  );
}

/** useKept reads the classes of the next days once while there is network, so that they are on the device without it. */
function useKept(sessions: string[]) {
  const list = sessions.join(" ");
  useEffect(() => {
    let left = false;
    const keep = async () => {
      if (!("serviceWorker" in navigator)) return;
      const { active } = await navigator.serviceWorker.ready;
      // What is asked before the worker stands between page and network is not kept by it. A page that was asked for while the
      // worker was starting is not taken by it, nor is one reloaded past it: it says that it is there.
      if (!navigator.serviceWorker.controller) {
        const taken = new Promise((on) => navigator.serviceWorker.addEventListener("controllerchange", on, { once: true }));
        active?.postMessage("claim");
        await taken;
      }
      const wanted = list
        .split(" ")
        .filter(Boolean)
        .flatMap((id) => [
          `/api/classes/${encodeURIComponent(id)}`,
          `/api/classes/${encodeURIComponent(id)}/clock`,
          `/api/classes/${encodeURIComponent(id)}/checks`,
        ]);
      for (const at of ["/api/session", "/api/week?ahead=true", ...wanted]) {
        if (left) return;
        await fetch(at, { headers: { "Accept-Language": language() } }).catch(() => undefined);
      }
      document.documentElement.dataset.kept = list;
    };
    void keep();
    return () => {
      left = true;
    };
  }, [list]);
}

function Session({ id }: { id: string }) {
  const [tab, setTab] = useState<(typeof tabs)[number][0]>("now");
  const { entries } = useOutbox();
  const may = useMay();
  const go = useNavigate();
  const clock = useClock(id);
  const query = useQuery({
    queryKey: ["session", id],
    queryFn: () => unwrap(client.GET("/api/classes/{id}", { params: { path: { id } } })),
    refetchInterval: 120_000,
  });
  useKept([id]);
  if (!query.data) {
    return (
      <Frame title={<h1 className="text-[22px]">{tr("A class")}</h1>}>
        {query.error && <p className="mt-4 text-clay">{query.error.message}</p>}
      </Frame>
    );
  }
  const page = overlay(query.data, entries);
  const open = tabs.filter(([t]) => t === "now" || t === "people" || (t === "checks" ? may("class-checks") : page.may_run));
  const name: Record<string, string> = { people: tr("People {{here}}", { here: page.here.length }) };
  return (
    <Frame
      title={
        <>
          <button type="button" className="min-h-[48px] min-w-[48px] text-2xl" aria-label={tr("All classes")} onClick={() => go("/run")}>
            ‹
          </button>
          <span className="min-w-0 flex-1">
            <h1 className="block truncate text-[20px] leading-6">{page.summary.name}</h1>
            <span className="num block text-[13px] leading-4 text-soft">
              {tr("{{on}} {{start}} · {{summary}} min · {{mat}}", {
                on: date(page.on),
                start: page.summary.start,
                summary: page.summary.length,
                mat: page.mat,
              })}
            </span>
          </span>
          <Link className="link flex min-h-[48px] items-center" to={`/clock/${id}`}>
            {tr("Wall")}
          </Link>
        </>
      }
      foot={
        <nav
          aria-label={tr("Parts of the class")}
          className="grid shrink-0 border-t-[1.5px] border-ink bg-leaf"
          style={{ gridTemplateColumns: `repeat(${open.length}, 1fr)` }}
        >
          {open.map(([t, label]) => (
            <button
              key={t}
              type="button"
              aria-current={tab === t}
              onClick={() => setTab(t)}
              className={`head num min-h-[56px] text-[15px] ${tab === t ? "border-t-[4px] border-lake font-bold" : "border-t-[4px] border-transparent text-soft"}`}
            >
              {name[t] ?? label}
            </button>
          ))}
        </nav>
      }
    >
      {tab === "now" && <RunNow page={page} clock={clock} />}
      {tab === "people" && <RunPeople page={page} />}
      {tab === "groups" && <RunGroups page={page} clock={clock} />}
      {tab === "tally" && <RunTally page={page} />}
      {tab === "checks" && <RunChecks page={page} />}
      {tab === "after" && <RunAfter page={page} />}
    </Frame>
  );
}

export type Page = S["SessionPage"];
