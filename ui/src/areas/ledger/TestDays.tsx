import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Belt } from "../../kit/Belt";
import { Button } from "../../kit/Button";
import { Input } from "../../kit/Field";
import { Empty } from "../../kit/SplitPane";
import { date, percent, whole } from "../../kit/words";

/** TestDays are days on which people are tested for a rank: planned at once, printed, and read in the evening. */
export function TestDays() {
  const may = useMay();
  const [query, setQuery] = useSearchParams();
  const [making, make] = useState(false);
  const day = query.get("day");
  const list = useQuery({ queryKey: ["test days"], queryFn: () => unwrap(client.GET("/api/test-days")) });
  const open = (id: string) => setQuery({ view: "tests", day: id });
  if (day) return <Day id={day} />;
  if (making) return <Form onDone={open} onCancel={() => make(false)} />;
  return (
    <>
      <div className="flex items-center gap-4">
        <h1 className="flex-1">Days of tests</h1>
        {may("plan-test-day") && (
          <Button look="main" onClick={() => make(true)}>
            New day of tests
          </Button>
        )}
      </div>
      {list.error && <p className="text-clay">{list.error.message}</p>}
      {list.data?.length === 0 && (
        <Empty title="No day of tests yet">
          Choose who is tested and who examines: each gets a time, an examiner who is signed off, a partner of their size, from easy to
          hard, with rests.
        </Empty>
      )}
      <table className="grid-lines mt-2 w-full">
        <tbody>
          {list.data?.map((d) => (
            <tr key={d.id}>
              <td className="num w-32">{date(d.on)}</td>
              <td>
                <button type="button" data-row className="link" onClick={() => open(d.id)}>
                  {d.name}
                </button>
              </td>
              <td className="num text-right">{d.people} people</td>
              <td className="num text-right">
                {d.done} of {d.tests} tests done
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

const names: Record<string, string> = {
  name: "Name of the day",
  on: "Day",
  start: "Begins",
  minutes: "Minutes",
  people: "Who is tested",
  examiners: "Who examines",
};

function Form({ onDone, onCancel }: { onDone: (id: string) => void; onCancel: () => void }) {
  const outlook = useQuery({ queryKey: ["outlook"], queryFn: () => unwrap(client.GET("/api/ledger/outlook")) });
  const positions = useQuery({ queryKey: ["positions", "all"], queryFn: () => unwrap(client.GET("/api/ledger/positions")) });
  const [name, setName] = useState("");
  const [on, setOn] = useState("");
  const [start, setStart] = useState("10:00");
  const [minutes, setMinutes] = useState("180");
  const [rest, setRest] = useState("2");
  const [change, setChange] = useState("1");
  const [from, setFrom] = useState("");
  const [to, setTo] = useState("");
  const [people, setPeople] = useState<string[]>([]);
  const [examiners, setExaminers] = useState<string[]>([]);
  const [wanted, setWanted] = useState("");
  const plan = useAction(
    (_: undefined) =>
      unwrap(
        client.POST("/api/test-days", {
          body: {
            name,
            on: on || undefined,
            start,
            minutes: whole(minutes),
            change_minutes: whole(change),
            rest_minutes: whole(rest),
            breaks: from && to ? [{ start: whole(from), end: whole(to) }] : [],
            examiners,
            people,
            helpers: [],
          },
        }),
      ),
    () => `Planned ${name}.`,
    (done) => done.id && onDone(done.id),
  );
  const wrong = plan.error?.fields ?? {};
  const toggle = (all: string[], id: string) => (all.includes(id) ? all.filter((x) => x !== id) : [...all, id]);
  const rows = (outlook.data?.rows ?? []).filter((r) => r.name.toLowerCase().includes(wanted.trim().toLowerCase()));
  return (
    <form
      aria-label="New day of tests"
      onSubmit={(e) => {
        e.preventDefault();
        plan.mutate(undefined);
      }}
    >
      <h1>New day of tests</h1>
      <div className="mt-2 grid grid-cols-[minmax(0,2fr)_150px_90px_90px] gap-3">
        <Input label="Name of the day" value={name} error={wrong.name} onChange={(e) => setName(e.target.value)} />
        <Input label="Day" type="date" value={on} error={wrong.on} onChange={(e) => setOn(e.target.value)} />
        <Input label="Begins" value={start} error={wrong.start} onChange={(e) => setStart(e.target.value)} />
        <Input label="Minutes" inputMode="numeric" value={minutes} error={wrong.minutes} onChange={(e) => setMinutes(e.target.value)} />
      </div>
      <div className="mt-2 grid grid-cols-4 gap-3">
        <Input label="Rest between two tests" inputMode="numeric" value={rest} onChange={(e) => setRest(e.target.value)} />
        <Input label="Examiner changes over" inputMode="numeric" value={change} onChange={(e) => setChange(e.target.value)} />
        <Input
          label="Break from minute"
          inputMode="numeric"
          value={from}
          error={wrong["breaks[0].end"]}
          onChange={(e) => setFrom(e.target.value)}
        />
        <Input label="to minute" inputMode="numeric" value={to} onChange={(e) => setTo(e.target.value)} />
      </div>
      <fieldset className="mt-3">
        <legend className="cap">Who examines</legend>
        <div className="flex flex-wrap gap-x-4">
          {positions.data?.coaches.map((c) => (
            <label key={c.id} className="flex gap-1.5">
              <input type="checkbox" checked={examiners.includes(c.id)} onChange={() => setExaminers(toggle(examiners, c.id))} />
              {c.name}
            </label>
          ))}
        </div>
        {wrong.examiners && <p className="text-clay">{wrong.examiners}</p>}
      </fieldset>
      <fieldset className="mt-3">
        <legend className="cap">Who is tested: {people.length}, soonest ready first</legend>
        <input
          type="search"
          aria-label="Find somebody"
          placeholder="A name"
          value={wanted}
          onChange={(e) => setWanted(e.target.value)}
          className="my-1 h-[29px] w-60 rounded-sm border border-rule bg-white px-2"
        />
        {wrong.people && <p className="text-clay">{wrong.people}</p>}
        <div className="grid max-h-[40vh] grid-cols-2 gap-x-4 overflow-y-auto">
          {rows.map((r) => (
            <label key={r.id} className="flex items-center gap-1.5 border-b border-hair py-0.5">
              <input type="checkbox" checked={people.includes(r.id)} onChange={() => setPeople(toggle(people, r.id))} />
              <Belt belt={r.belt} rank={r.rank} />
              <span className="min-w-0 flex-1 truncate">{r.name}</span>
              <span className="num text-[12.5px] text-soft">
                {r.next} {percent(r.share)}
              </span>
            </label>
          ))}
        </div>
      </fieldset>
      {plan.error && (
        <div className="mt-2 text-clay">
          <p>{Object.keys(wrong).length > 0 ? "The day cannot be planned so:" : plan.error.message}</p>
          {Object.entries(wrong).map(([field, words]) => (
            <p key={field}>
              {names[field] ?? field}: {words}
            </p>
          ))}
        </div>
      )}
      <div className="mt-3 flex gap-2">
        <Button type="submit" look="main" disabled={plan.isPending}>
          Plan the day
        </Button>
        <Button onClick={onCancel}>Cancel</Button>
      </div>
    </form>
  );
}

const results: Record<S["TestSlot"]["result"], string> = { open: "", met: "met", "in part": "in part", "not met": "not met" };

function Day({ id }: { id: string }) {
  const may = useMay();
  const [, setQuery] = useSearchParams();
  const [by, setBy] = useState<"time" | "person" | "examiner">("time");
  const page = useQuery({
    queryKey: ["test day", id],
    queryFn: () => unwrap(client.GET("/api/test-days/{id}", { params: { path: { id } } })),
    refetchInterval: 20_000,
  });
  const remove = useAction(
    (_: undefined) => unwrap(client.DELETE("/api/test-days/{id}", { params: { path: { id } } })),
    () => "Removed the day of tests; its checks stay.",
    () => setQuery({ view: "tests" }),
  );
  const p = page.data;
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  if (!p) return null;
  const groups = new Map<string, S["TestSlot"][]>();
  for (const s of p.slots) {
    const key = by === "time" ? "" : by === "person" ? s.name : s.examiner;
    groups.set(key, [...(groups.get(key) ?? []), s]);
  }
  return (
    <>
      <div className="flex items-baseline gap-4">
        <h1 className="flex-1">{p.day.name}</h1>
        <button type="button" className="link no-print" onClick={() => setQuery({ view: "tests" })}>
          All days of tests
        </button>
        {may("remove-test-day") && (
          <button type="button" className="link no-print" disabled={remove.isPending} onClick={() => remove.mutate(undefined)}>
            Remove
          </button>
        )}
      </div>
      <p className="num text-soft">
        {date(p.day.on)}, {p.day.start} to {p.ends}; {p.slots.length} tests.{" "}
        {p.day.plan?.proven ? "No plan ends sooner." : `No plan ends before ${p.bound}.`} Partners differ by{" "}
        {(p.day.plan?.mean_gap_kg ?? 0).toFixed(1)} kg on the mean.
      </p>
      <section className="mt-2">
        <h2>Results</h2>
        <table className="grid-lines w-full">
          <tbody>
            {p.people.map((x) => (
              <tr key={x.id}>
                <td>
                  <Link className="link" to={`/ledger/${x.id}?view=tests&day=${id}`}>
                    <Belt belt={x.belt} rank={x.rank} />
                    {x.name}
                  </Link>
                  {x.held && <span className="text-clay"> · held</span>}
                </td>
                <td>toward {x.next}</td>
                <td className="num text-right">
                  {x.met} of {x.tests} met
                </td>
                <td className="num text-right">{percent(x.share)} of the rank</td>
                <td>{x.ready ? <b className="text-moss">everything is there</b> : ""}</td>
                <td className="no-print text-right">
                  {x.sheet && (
                    <a className="link text-[12.5px]" href={x.sheet} download>
                      Test sheet
                    </a>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        <p className="text-[12.5px] text-soft">
          Results come from the checks of that day, from any device. Who is given a rank is the head instructor's decision:{" "}
          <Link className="link" to="/people/promotions">
            Promotions
          </Link>
          . {p.defers}
        </p>
      </section>
      <div className="no-print mt-3 flex gap-4">
        {(["time", "person", "examiner"] as const).map((x) => (
          <button key={x} type="button" className={by === x ? "font-bold" : "link"} onClick={() => setBy(x)}>
            by {x}
          </button>
        ))}
        <button type="button" className="link" onClick={() => window.print()}>
          Print
        </button>
      </div>
      {[...groups].map(([key, slots]) => (
        <section key={key} className="mt-2 break-inside-avoid">
          {key && <h2>{key}</h2>}
          <table className="grid-lines w-full" data-slots>
            <tbody>
              {slots.map((s) => (
                <tr key={s.at + s.student + s.technique}>
                  <td className="num w-14">{s.at}</td>
                  {by !== "person" && <td className="w-36">{s.name}</td>}
                  <td>
                    {s.label}
                    {s.sides.length > 1 && <span className="text-soft"> both sides</span>}
                  </td>
                  <td className="text-soft">{s.partner && `with ${s.partner}`}</td>
                  {by !== "examiner" && <td className="text-soft">{s.examiner}</td>}
                  <td className="w-16">
                    <b className={s.result === "met" ? "text-moss" : s.result === "open" ? "" : "text-clay"}>{results[s.result]}</b>
                  </td>
                  <td className="no-print w-14 text-right">
                    {may("keep-check") && (
                      <Link className="link text-[12.5px]" to={`/check?student=${s.student}&technique=${s.technique}`}>
                        Check
                      </Link>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      ))}
      {p.left_out.length > 0 && (
        <section className="mt-3">
          <h2>Without a place</h2>
          {p.left_out.map((l) => (
            <p key={l.name + l.label}>
              {l.name}
              {l.label && `: ${l.label}`} <span className="text-soft">{l.why}</span>
            </p>
          ))}
        </section>
      )}
    </>
  );
}
