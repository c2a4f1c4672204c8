import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Input, TextArea } from "../../kit/Field";
import { Refusal } from "../../kit/Refusal";
import { Note } from "../../kit/SplitPane";
import { tr, word } from "../../kit/tr";
import { day, newId } from "../../kit/words";

/** Holds are what somebody is kept out of, and what ended. */
export function Holds({ id, page, onHold }: { id: string; page: S["PersonPage"]; onHold?: () => void }) {
  if (!onHold && page.holds.length === 0) return null;
  return (
    <section className="mt-4">
      <div className="flex items-baseline gap-3">
        <h2 className="flex-1">{tr("Holds")}</h2>
        {onHold && <Button onClick={onHold}>{tr("Hold")}</Button>}
      </div>
      {page.holds.length === 0 && <p className="text-soft">{tr("None.")}</p>}
      {page.holds.map((h) => (
        <Hold key={`${h.id} ${h.from}`} person={id} hold={h} />
      ))}
    </section>
  );
}

function Hold({ person, hold: h }: { person: string; hold: S["HoldLine"] }) {
  const may = useMay();
  const [open, show] = useState(false);
  const [id] = useState(newId);
  const [clinician, setClinician] = useState("");
  const [on, setOn] = useState("");
  const clear = useAction(
    () =>
      unwrap(
        client.POST("/api/people/{id}/clearances", {
          params: { path: { id: person }, query: { hold: h.id || undefined } },
          body: { id, clinician, on: on || undefined },
        }),
      ),
    () => tr("Recorded the clearance."),
    () => show(false),
  );
  return (
    <div className="border-b border-hair py-1">
      <p>
        <b className={h.active ? "text-clay" : "text-soft"}>{h.summary}</b>{" "}
        <span className="text-soft">
          {tr("since {{from}}", { from: day(h.from) })}
          {h.by && tr(", by {{by}}", { by: h.by })}
          {h.cleared_on && tr("; cleared on {{clearedon}}", { clearedon: day(h.cleared_on) })}
          {h.clinician && ` ${tr("by {{clinician}}", { clinician: h.clinician })}`}
          {h.cleared_by && tr(", recorded by {{clearedby}}", { clearedby: h.cleared_by })}
        </span>{" "}
        {h.active && may("clear-hold") && !open && (
          <button type="button" className="link text-[13px]" onClick={() => show(true)}>
            {tr("Record a clearance")}
          </button>
        )}
      </p>
      {h.note && <p className="pl-3 text-[13.5px]">{h.note}</p>}
      {open && (
        <div className="my-1 flex flex-wrap items-end gap-2 pl-3">
          <div className="w-56">
            <Input
              label={tr("Cleared by")}
              hint={tr("The clinician, as you were told")}
              value={clinician}
              error={clear.error?.message}
              onChange={(e) => setClinician(e.target.value)}
            />
          </div>
          <Input label={tr("On")} type="date" hint={tr("Today when empty")} value={on} onChange={(e) => setOn(e.target.value)} />
          <Button look="main" disabled={!clinician.trim() || clear.isPending} onClick={() => clear.mutate(undefined)}>
            {tr("Save clearance")}
          </Button>
          <Button onClick={() => show(false)}>{tr("Cancel")}</Button>
        </div>
      )}
    </div>
  );
}

/** HoldForm says what a hold covers, who will see what of it, and what it takes somebody out of tonight, before it is saved. */
export function HoldForm({ id, name, onDone }: { id: string; name: string; onDone: () => void }) {
  const [event] = useState(newId);
  const [h, set] = useState<S["NewHold"]>({ regions: [], note: "" });
  const put = (part: Partial<S["NewHold"]>) => set({ ...h, ...part });
  const body = { ...h, from: h.from || undefined, note: h.note || undefined };
  const covers = h.regions.length > 0 || h.all || h.no_live;
  const effect = useQuery({
    queryKey: ["hold", id, body],
    queryFn: () => unwrap(client.POST("/api/people/{id}/holds/trial", { params: { path: { id } }, body })),
    retry: false,
    placeholderData: keepPreviousData,
  });
  const save = useAction(
    () => unwrap(client.POST("/api/people/{id}/holds", { params: { path: { id } }, body: { ...body, id: event } })),
    () => tr("{{name}} is held.", { name }),
    onDone,
  );
  const e = effect.data;
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(x) => {
        x.preventDefault();
        save.mutate(undefined);
      }}
    >
      <h1>{tr("Hold {{name}}", { name })}</h1>
      <p className="text-soft">
        {tr("Write down what you were told to keep them out of. The software gives no medical judgement; a clinician's clearance ends it.")}
      </p>
      {save.error && <Refusal error={save.error} />}
      <fieldset>
        <legend className="cap">{tr("Out of what loads")}</legend>
        <div className="flex flex-wrap gap-x-4">
          {(effect.data?.regions ?? []).map((r) => (
            <label key={r} className="flex gap-1.5 py-0.5">
              <input
                type="checkbox"
                checked={h.regions.includes(r)}
                onChange={(x) => put({ regions: h.regions.filter((y) => y !== r).concat(x.target.checked ? [r] : []) })}
              />
              {word(r)}
            </label>
          ))}
        </div>
        <label className="flex gap-1.5 py-0.5">
          <input type="checkbox" checked={!!h.no_live} onChange={(x) => put({ no_live: x.target.checked || undefined })} />
          {tr("situational and live rounds")}
        </label>
        <label className="flex gap-1.5 py-0.5">
          <input type="checkbox" checked={!!h.all} onChange={(x) => put({ all: x.target.checked || undefined })} />
          {tr("all contact with a partner")}
        </label>
      </fieldset>
      <div className="w-44">
        <Input
          label={tr("Since")}
          type="date"
          hint={tr("Today when empty")}
          value={h.from ?? ""}
          onChange={(x) => put({ from: x.target.value })}
        />
      </div>
      <TextArea
        label={tr("Note")}
        rows={2}
        hint={tr("You alone read it; that you did is kept in the log")}
        value={h.note ?? ""}
        onChange={(x) => put({ note: x.target.value })}
      />
      {covers && e && (
        <Note title={`${e.summary}.`} tone="lake">
          {tr("A coach sees “{{coach}}”, the desk “{{desk}}”.", { coach: e.coach, desk: e.desk })}
          <ul className="mt-1">
            {e.tonight.length === 0 && <li className="text-soft">{tr("There is no class today.")}</li>}
            {e.tonight.map((t) => (
              <li key={t}>{t}</li>
            ))}
          </ul>
        </Note>
      )}
      <div className="flex gap-2">
        <Button type="submit" look="main" disabled={!covers || save.isPending}>
          {tr("Save hold")}
        </Button>
        <Button onClick={onDone}>{tr("Cancel")}</Button>
      </div>
    </form>
  );
}
