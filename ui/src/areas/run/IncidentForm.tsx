import { useState } from "react";
import { useMay } from "../../api/actions";
import { tr } from "../../kit/tr";
import { newId } from "../../kit/words";
import { useOutbox } from "../../outbox/OutboxProvider";
import type { Page } from "./Run";
import { big } from "./RunNow";

/** IncidentForm notes what happened to somebody, and offers to keep them out until a clinician has cleared them. Nothing medical is judged here. */
export function IncidentForm({ page }: { page: Page }) {
  const may = useMay();
  const { send } = useOutbox();
  const [open, setOpen] = useState(false);
  const [student, setStudent] = useState("");
  const [text, setText] = useState("");
  const [hold, setHold] = useState("all");
  const [kept, setKept] = useState("");
  const session = page.summary.session;
  if (!may("note-incident") || page.here.length === 0) return null;
  if (!open)
    return (
      <div>
        <button type="button" className="link min-h-[48px]" onClick={() => setOpen(true)}>
          {tr("Somebody was hurt, or nearly")}
        </button>
        {kept && <p className="text-moss">{kept}</p>}
      </div>
    );
  const who = page.here.find((a) => a.id === student);
  return (
    <form
      aria-label={tr("An incident")}
      className="flex flex-col gap-3 border-t-[1.5px] border-ink pt-3"
      onSubmit={async (e) => {
        e.preventDefault();
        if (!who || !text.trim()) return;
        await send({
          kind: "incident",
          session,
          student,
          words: tr("What happened to {{name}}", { name: who.name }),
          method: "POST",
          path: `/api/classes/${encodeURIComponent(session)}/incidents`,
          body: { id: newId(), student, text: text.trim() },
        });
        if (hold !== "none")
          await send({
            kind: "hold",
            session,
            student,
            words: tr("Hold for {{name}}", { name: who.name }),
            method: "POST",
            path: `/api/people/${encodeURIComponent(student)}/holds`,
            body: { id: newId(), regions: [], all: hold === "all", no_live: hold === "live" },
          });
        setKept(
          tr("Noted what happened to {{name}}{{hold}}.", {
            name: who.name,
            hold: hold === "none" ? "" : tr("; they are held until a clinician has cleared them"),
          }),
        );
        setOpen(false);
        setText("");
        setStudent("");
      }}
    >
      <h2>{tr("What happened")}</h2>
      <p className="text-[14px] text-soft">
        {tr(
          "Stop, look after them, call for help where there is any doubt. This note is for the head instructor; Vereda judges nothing medical.",
        )}
      </p>
      <select
        aria-label={tr("To whom")}
        value={student}
        onChange={(e) => setStudent(e.target.value)}
        className="h-[52px] w-full rounded-sm border-[1.5px] border-ink bg-white px-2 text-[17px]"
      >
        <option value="">{tr("To whom?")}</option>
        {page.here.map((a) => (
          <option key={a.id} value={a.id}>
            {a.name}
          </option>
        ))}
      </select>
      <textarea
        aria-label={tr("What happened, as you saw it")}
        placeholder={tr("What happened, as you saw it")}
        rows={3}
        maxLength={2000}
        value={text}
        onChange={(e) => setText(e.target.value)}
        className="w-full rounded-sm border-[1.5px] border-ink bg-white p-2 text-[17px]"
      />
      <select
        aria-label={tr("Hold until a clinician clears them")}
        value={hold}
        onChange={(e) => setHold(e.target.value)}
        className="h-[52px] w-full rounded-sm border-[1.5px] border-ink bg-white px-2 text-[17px]"
      >
        <option value="all">{tr("Hold from all partner drills until cleared")}</option>
        <option value="live">{tr("Hold from live rounds until cleared")}</option>
        <option value="none">{tr("No hold")}</option>
      </select>
      <div className="flex gap-2">
        <button type="submit" className={big} data-main="true" disabled={!who || !text.trim()}>
          {tr("Save incident")}
        </button>
        <button type="button" className={big} onClick={() => setOpen(false)}>
          {tr("Cancel")}
        </button>
      </div>
    </form>
  );
}
