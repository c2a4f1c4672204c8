import { useState } from "react";
import type { S } from "../../api/client";
import { Choice } from "../../kit/Choice";
import { tr } from "../../kit/tr";
import { newId } from "../../kit/words";

/** GuestForm asks who trains along without being a student here. */
export function GuestForm({ name: begun, onAdd, big }: { name: string; onAdd: (g: S["Guest"]) => void; big?: boolean }) {
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const [kind, setKind] = useState<S["Guest"]["kind"]>("trial");
  const [weight, setWeight] = useState("");
  const field = `w-full rounded-sm border border-rule bg-white px-2 ${big ? "h-[52px] text-[17px]" : "h-[31px]"}`;
  const button = `rounded-sm border-[1.5px] border-ink px-3 ${big ? "min-h-[48px]" : "h-[31px]"}`;
  if (!open)
    return (
      <button
        type="button"
        className={`link ${big ? "min-h-[48px]" : "mt-1"}`}
        onClick={() => {
          setName(begun.trim());
          setOpen(true);
        }}
      >
        {tr("Somebody else: add a guest")}
      </button>
    );
  return (
    <form
      aria-label={tr("A guest")}
      className="mt-2 flex flex-col gap-2 border-t border-rule pt-2"
      onSubmit={(e) => {
        e.preventDefault();
        if (!name.trim()) return;
        onAdd({ id: newId(), name: name.trim(), kind, ...(Number(weight) > 0 ? { weight_kg: Number(weight) } : {}) });
        setOpen(false);
        setWeight("");
      }}
    >
      <label>
        <span className="text-soft">{tr("Name of the guest")}</span>
        <input className={field} value={name} maxLength={300} onChange={(e) => setName(e.target.value)} />
      </label>
      <Choice
        big={big}
        label={tr("What they are here for")}
        value={kind}
        onChange={setKind}
        options={[
          { value: "trial", label: tr("A trial class") },
          { value: "visitor", label: tr("A visit") },
        ]}
      />
      <label>
        <span className="text-soft">{tr("Weight in kg, for a partner of their size")}</span>
        <input className={field} inputMode="decimal" value={weight} onChange={(e) => setWeight(e.target.value.replace(/[^\d.]/g, ""))} />
      </label>
      <p className="text-soft">{tr("Nothing of the ledger is theirs. They pass no gate, as nobody knows their rank or age.")}</p>
      <div className="flex gap-2">
        <button type="submit" className={`${button} bg-ink text-paper`} disabled={!name.trim()}>
          {tr("Add guest")}
        </button>
        <button type="button" className={button} onClick={() => setOpen(false)}>
          {tr("Cancel")}
        </button>
      </div>
    </form>
  );
}

/** PartOf says for how much of the class somebody was there. */
export function PartOf({ a, onChange, big }: { a: S["Attendee"]; onChange: (part: S["Attendee"]["part"]) => void; big?: boolean }) {
  return (
    <select
      aria-label={tr("How much of the class {{name}} was in", { name: a.name })}
      value={a.part ?? ""}
      onChange={(e) => onChange((e.target.value || undefined) as S["Attendee"]["part"])}
      className={`rounded-sm border bg-white ${a.part ? "border-ink" : "border-hair text-soft"} ${big ? "h-[48px] text-[15px]" : "h-[26px] text-[12.5px]"}`}
    >
      <option value="">{tr("all of it")}</option>
      <option value="late">{tr("came late")}</option>
      <option value="early">{tr("left early")}</option>
    </select>
  );
}
