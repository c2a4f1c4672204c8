import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { type KeyboardEvent, useDeferredValue, useId, useState } from "react";
import { useNavigate } from "react-router";
import { client, unwrap } from "../api/client";
import { tr, word } from "../kit/tr";
import { useEnter } from "../kit/useEnter";

/** Find opens anything by its name: a page, a person, a class, a technique. */
export function Find({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/25" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-[12vh] left-1/2 z-50 w-[min(620px,94vw)] -translate-x-1/2 border-[1.5px] border-ink bg-leaf shadow-lg"
        >
          <Dialog.Title className="sr-only">{tr("Find anything")}</Dialog.Title>
          <Finder onDone={() => onOpenChange(false)} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Finder({ onDone }: { onDone: () => void }) {
  const go = useNavigate();
  const list = useId();
  const [words, setWords] = useState("");
  const [at, setAt] = useState(0);
  const q = useDeferredValue(words.trim());
  const found = useQuery({
    queryKey: ["find", q],
    enabled: q.length > 0,
    queryFn: () => unwrap(client.GET("/api/find", { params: { query: { q } } })),
    placeholderData: keepPreviousData,
    staleTime: 10_000,
  });
  const rows = q ? (found.data ?? []) : [];
  const on = Math.min(at, rows.length - 1);
  function open(i: number) {
    const row = rows[i];
    if (!row) return;
    onDone();
    go(row.to);
  }
  const { enter, takeBack } = useEnter(q === words.trim() && !found.isPlaceholderData && !found.isFetching, () => open(on));
  function key(e: KeyboardEvent) {
    if (e.key === "ArrowDown") setAt(Math.min(rows.length - 1, on + 1));
    else if (e.key === "ArrowUp") setAt(Math.max(0, on - 1));
    else if (e.key === "Enter") enter();
    else return;
    e.preventDefault();
  }
  return (
    <>
      <input
        // biome-ignore lint/a11y/noAutofocus: it was opened to be written into
        autoFocus
        role="combobox"
        aria-label={tr("Find anything")}
        aria-expanded={rows.length > 0}
        aria-controls={list}
        aria-activedescendant={rows[on] ? `${list}${on}` : undefined}
        placeholder={tr("A technique, a person, a class, a page")}
        className="h-12 w-full border-b border-ink bg-leaf px-4 text-[17px] outline-none"
        value={words}
        onChange={(e) => {
          setWords(e.target.value);
          setAt(0);
          takeBack();
        }}
        onKeyDown={key}
      />
      <div id={list} role="listbox" aria-label={tr("Found")} tabIndex={-1} className="max-h-[56vh] overflow-auto py-1">
        {rows.map((r, i) => (
          // biome-ignore lint/a11y/useFocusableInteractive: the field keeps the focus and names the row
          // biome-ignore lint/a11y/useKeyWithClickEvents: the keys are those of the field
          <div
            key={r.kind + r.to + r.name}
            id={`${list}${i}`}
            role="option"
            aria-selected={i === on}
            onClick={() => open(i)}
            onPointerMove={() => setAt(i)}
            className="grid cursor-pointer grid-cols-[92px_minmax(0,1fr)_auto] items-baseline gap-3 px-4 py-1.5 aria-selected:bg-wash"
          >
            <span className="cap">{word(r.kind)}</span>
            <span className="font-semibold">{r.name}</span>
            <span className="text-[12.5px] text-soft">{r.note}</span>
          </div>
        ))}
      </div>
      <p role="status" className="border-t border-hair px-4 py-1.5 text-[12.5px] text-soft">
        {q && rows.length === 0 && found.isSuccess
          ? tr("Nothing is called so, nor nearly so.")
          : tr("↑ ↓ and Enter. A letter or two may be wrong.")}
      </p>
    </>
  );
}
