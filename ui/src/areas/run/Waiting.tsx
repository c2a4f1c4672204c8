import { useState } from "react";
import { tr } from "../../kit/tr";
import { useOutbox } from "../../outbox/OutboxProvider";

/** Waiting says what is on this device and not at the server yet, and what the server did not take. */
export function Waiting() {
  const { entries, drop, again } = useOutbox();
  const [open, show] = useState(false);
  if (entries.length === 0) return null;
  const refused = entries.filter((e) => e.refused);
  const rest = entries.length - refused.length;
  return (
    <section
      aria-label={tr("Waits to be sent")}
      className={`shrink-0 border-b border-ink px-4 ${refused.length ? "bg-clay text-white" : "bg-wash"}`}
    >
      <button
        type="button"
        className="flex min-h-[48px] w-full items-center gap-2 text-left font-semibold"
        aria-expanded={open}
        onClick={() => show(!open)}
      >
        <span className="flex-1" data-waiting={rest}>
          {[
            rest > 0 && tr("{{rest}} {{rest2}} to be sent", { rest, rest2: rest === 1 ? tr("waits") : tr("wait") }),
            refused.length > 0 && tr("{{refused}} refused", { refused: refused.length }),
          ]
            .filter(Boolean)
            .join(", ")}
        </span>
        {open ? tr("Hide") : tr("Show")}
      </button>
      {open && (
        <ul className="max-h-[40vh] overflow-y-auto bg-paper text-ink">
          {entries.map((e) => (
            <li key={e.key} className="border-t border-hair px-2 py-2">
              {e.words}
              {e.refused && (
                <>
                  <span className="block text-clay">{e.refused}</span>
                  <span className="flex gap-2">
                    <button type="button" className="link min-h-[48px] px-2" onClick={() => again(e)}>
                      {tr("Send again")}
                    </button>
                    <button type="button" className="link min-h-[48px] px-2" onClick={() => drop(e)}>
                      {tr("Drop it")}
                    </button>
                  </span>
                </>
              )}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
