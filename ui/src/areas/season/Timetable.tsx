import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { Select } from "../../kit/Field";
import { tr, word } from "../../kit/tr";
import { date, weekday } from "../../kit/words";
import { Closures } from "./Closures";
import { CoachForm } from "./CoachForm";
import { ClassForm, TrackForm } from "./TimetableForms";
import { Import } from "./TimetableImport";

/** Timetable is what a season is laid over: tracks, weekly classes, coaches, and when it is closed. */
export function Timetable({ page, only }: { page?: S["SeasonPage"]; only?: "classes" | "coaches" }) {
  const may = useMay();
  const table = useQuery({ queryKey: ["timetable"], queryFn: () => unwrap(client.GET("/api/timetable")) });
  const [form, open] = useState<{ class?: S["ClassLine"]; track?: S["AcademyTrack"] & { version: number }; coach?: string } | null>(null);
  const [person, choose] = useState("");
  const setTrack = useAction(
    ({ version, ...t }: S["AcademyTrack"] & { version: number }) =>
      unwrap(client.PUT("/api/timetable/tracks", { params: { query: { version } }, body: t })),
    (_, t) => tr("Changed the track {{name}}.", { name: t.name }),
  );
  if (table.error) return <p className="text-clay">{table.error.message}</p>;
  if (!table.data) return null;
  const t = table.data;
  const nameOf = (id: string) => t.classes.find((c) => c.id === id)?.name ?? id;
  const close = () => open(null);
  const other = t.others.find((o) => o.id === form?.coach);
  const coach =
    t.coaches.find((c) => c.id === form?.coach) ??
    (other && { ...other, terms: { available: [], signoffs: [], max_per_week: 2, share: 0.1, out: [] } });
  const blank: S["ClassLine"] = {
    id: "",
    version: 0,
    name: "",
    track: t.tracks[0]?.id ?? "",
    weekday: 1,
    start: "18:00",
    minutes: 60,
    teach_minutes: 30,
    mat: "",
  };
  return (
    <>
      {only !== "coaches" && (
        <>
          <h2>{tr("Tracks")}</h2>
          <table className="grid-lines mt-1" data-tracks>
            <tbody>
              {t.tracks.map((x) => {
                const { classes, units, assumes, warning, asks, ...track } = x;
                return (
                  <tr key={x.id}>
                    <td className="font-semibold">
                      {may("save-track") ? (
                        <button type="button" className="link" onClick={() => open({ track })}>
                          {x.name}
                        </button>
                      ) : (
                        x.name
                      )}
                    </td>
                    <td>
                      <Choice
                        label={tr("Mode of {{name}}", { name: x.name })}
                        value={x.mode as "same"}
                        disabled={!may("save-track")}
                        options={[
                          { value: "same", label: word("same"), title: tr("One content in all its classes of a week") },
                          { value: "split" as "same", label: word("split"), title: tr("Each class its own") },
                        ]}
                        onChange={(mode) => setTrack.mutate({ ...track, mode })}
                      />
                    </td>
                    <td>
                      <Choice
                        label={tr("School of {{name}}", { name: x.name })}
                        value={x.school as "block"}
                        disabled={!may("save-track")}
                        options={[
                          { value: "block", label: word("block"), title: tr("Stay in one area for several weeks") },
                          { value: "spiral" as "block", label: word("spiral"), title: tr("Change area each week and come back") },
                          { value: "free" as "block", label: word("free") },
                        ]}
                        onChange={(school) => setTrack.mutate({ ...track, school })}
                      />
                    </td>
                    <td className="text-[12.5px] text-soft">
                      {tr("{{classes}} classes, {{units}} units{{minage}}", {
                        classes,
                        units,
                        minage: x.min_age ? tr(", from {{minage}} years", { minage: x.min_age }) : "",
                      })}
                      {assumes.length > 0 && tr("; known before: {{assumes}}", { assumes: assumes.map((a) => a.name).join(", ") })}
                      {asks.length > 0 && (
                        <span className="block">
                          {tr("Rules:")} {asks.join("; ")}.
                        </span>
                      )}
                      {warning && <span className="block text-clay">{warning}</span>}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
          {may("save-track") && (
            <Button
              className="mt-1"
              onClick={() =>
                open({
                  track: {
                    id: "",
                    version: 0,
                    name: "",
                    audience: "all",
                    context: "both",
                    mode: "same",
                    school: "block",
                    min_age: 16,
                    rules: t.usual,
                  },
                })
              }
            >
              {tr("Add a track")}
            </Button>
          )}
          {form?.track && <TrackForm key={form.track.id} track={form.track} onDone={close} />}

          <h2 className="mt-4">{tr("Weekly classes")}</h2>
          <table className="grid-lines mt-1" data-classes>
            <thead>
              <tr>
                <th>{tr("Class")}</th>
                <th>{tr("Track")}</th>
                <th>{tr("When")}</th>
                <th className="text-right">{tr("Minutes")}</th>
                <th className="text-right">{tr("To teach")}</th>
                <th>{tr("Mat")}</th>
              </tr>
            </thead>
            <tbody>
              {t.classes.map((c) => (
                <tr key={c.id}>
                  <td>
                    {may("save-class") ? (
                      <button type="button" className="link" onClick={() => open({ class: c })}>
                        {c.name}
                      </button>
                    ) : (
                      c.name
                    )}
                  </td>
                  <td>{t.tracks.find((x) => x.id === c.track)?.name}</td>
                  <td className="num whitespace-nowrap">
                    {weekday(c.weekday)} {c.start}
                    <Days of={c} />
                  </td>
                  <td className="num text-right">{c.minutes}</td>
                  <td className="num text-right">{c.teach_minutes}</td>
                  <td>{c.mat}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {may("save-class") && (
            <Button className="mt-1" disabled={t.tracks.length === 0} onClick={() => open({ class: blank })}>
              {tr("Add a class")}
            </Button>
          )}
          {form?.class && <ClassForm key={form.class.id} entry={form.class} tracks={t.tracks} onDone={close} />}
          {may("take-timetable") && <Import tracks={t.tracks} />}
        </>
      )}
      {only !== "classes" && (
        <>
          <h2 className="mt-4">{tr("Coaches")}</h2>
          <table className="grid-lines mt-1" data-coaches>
            <thead>
              <tr>
                <th>{tr("Coach")}</th>
                <th>{tr("Available for")}</th>
                <th>{tr("Signed off for")}</th>
                <th className="text-right">{tr("Most a week")}</th>
                <th className="text-right">{tr("Share")}</th>
                <th>{tr("Away")}</th>
              </tr>
            </thead>
            <tbody>
              {t.coaches.map((c) => (
                <tr key={c.id} className="align-top">
                  <td className="whitespace-nowrap">
                    {may("save-coach") ? (
                      <button type="button" className="link" onClick={() => open({ coach: c.id })}>
                        {c.name}
                      </button>
                    ) : (
                      c.name
                    )}
                  </td>
                  <td className="text-[13px]">{c.terms.available.map(nameOf).join("; ")}</td>
                  <td className="text-[13px]">{c.terms.signoffs.join(", ")}</td>
                  <td className="num text-right">{c.terms.max_per_week}</td>
                  <td className="num text-right">{Math.round(c.terms.share * 100)}%</td>
                  <td className="num text-[13px]">
                    {(c.terms.out ?? []).map((o) => tr("{{from}} to {{to}}", { from: o.from, to: o.to })).join(", ")}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {may("save-coach") && t.others.length > 0 && (
            <div className="mt-1 flex items-end gap-2">
              <div className="w-64">
                <Select label={tr("Add a coach")} value={person} onChange={(e) => choose(e.target.value)}>
                  <option value="">{tr("choose a person")}</option>
                  {t.others.map((o) => (
                    <option key={o.id} value={o.id}>
                      {o.name}
                    </option>
                  ))}
                </Select>
              </div>
              <Button disabled={!person} onClick={() => open({ coach: person })}>
                {tr("Make them a coach")}
              </Button>
            </div>
          )}
          {coach && (
            <CoachForm
              key={coach.id}
              coach={coach}
              fresh={!t.coaches.some((c) => c.id === coach.id)}
              classes={t.classes}
              signoffs={t.signoffs}
              onDone={close}
            />
          )}
        </>
      )}
      {page && may("set-closures") && <Closures key={JSON.stringify(page.closures)} page={page} classes={t.classes} />}
    </>
  );
}

/** Days says from when and until when a class is there, and how it was before. */
function Days({ of: c }: { of: S["ClassLine"] }) {
  const before = c.before?.at(-1);
  return (
    <div className="text-soft">
      {c.from && <div>{tr("from {{day}}", { day: date(c.from) })}</div>}
      {c.until && <div>{tr("until {{day}}", { day: date(c.until) })}</div>}
      {before && (
        <div>{tr("until {{day}}: {{hours}}", { day: date(before.last), hours: `${weekday(before.weekday)} ${before.start}` })}</div>
      )}
    </div>
  );
}
