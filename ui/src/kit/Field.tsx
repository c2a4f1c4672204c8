import { type InputHTMLAttributes, type ReactNode, type SelectHTMLAttributes, type TextareaHTMLAttributes, useId, useState } from "react";
import { tr, word } from "./tr";

const box = "w-full rounded-sm border border-rule bg-white px-2 py-1 aria-[invalid=true]:border-clay";

type Around = { label: string; error?: string; hint?: string };

/** Field is a label, something to fill in, and what is wrong with it. */
function Field({ label, error, hint, children }: Around & { children: (id: string, describedBy: string | undefined) => ReactNode }) {
  const id = useId();
  const note = error ?? hint;
  return (
    <div className="flex flex-col gap-0.5">
      <label htmlFor={id} className="cap">
        {label}
      </label>
      {children(id, note ? `${id}-note` : undefined)}
      {note && (
        <p id={`${id}-note`} className={`text-[12.5px] leading-4 ${error ? "text-clay" : "text-soft"}`}>
          {note}
        </p>
      )}
    </div>
  );
}

export function Input({ label, error, hint, type, ...rest }: Around & InputHTMLAttributes<HTMLInputElement>) {
  const [shown, show] = useState(false);
  const secret = type === "password";
  return (
    <Field label={label} error={error} hint={hint}>
      {(id, by) => (
        <span className="relative block">
          <input
            id={id}
            data-label={label}
            aria-describedby={by}
            aria-invalid={!!error}
            type={secret && shown ? "text" : type}
            className={`${box} h-[31px] ${secret ? "pr-20" : ""}`}
            {...rest}
          />
          {secret && (
            <button
              type="button"
              aria-pressed={shown}
              aria-controls={id}
              aria-label={tr("Show {{label}}", { label: label.toLowerCase() })}
              className="absolute inset-y-0 right-0 min-w-12 px-2 text-[12.5px] text-lake underline"
              onClick={() => show(!shown)}
            >
              {shown ? tr("Hide") : tr("Show")}
            </button>
          )}
        </span>
      )}
    </Field>
  );
}

export function TextArea({ label, error, hint, ...rest }: Around & TextareaHTMLAttributes<HTMLTextAreaElement>) {
  return (
    <Field label={label} error={error} hint={hint}>
      {(id, by) => <textarea id={id} data-label={label} aria-describedby={by} aria-invalid={!!error} className={box} {...rest} />}
    </Field>
  );
}

/** Options are choices among words of the server: each is sent as it came, and said in the reader's language. */
export function Options({ of }: { of: readonly string[] }) {
  return of.map((o) => (
    <option key={o} value={o}>
      {word(o)}
    </option>
  ));
}

export function Select({ label, error, hint, children, ...rest }: Around & SelectHTMLAttributes<HTMLSelectElement>) {
  return (
    <Field label={label} error={error} hint={hint}>
      {(id, by) => (
        <select id={id} data-label={label} aria-describedby={by} aria-invalid={!!error} className={`${box} h-[31px]`} {...rest}>
          {children}
        </select>
      )}
    </Field>
  );
}
