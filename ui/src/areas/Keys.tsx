import { Dialog } from "radix-ui";
import { useState } from "react";
import { Button } from "../kit/Button";
import { tr } from "../kit/tr";
import { keysAreOn, keysStore } from "./keysAreOn";

const keys: [string, string][] = [
  ["0", tr("Today")],
  ["1 … 7", tr("Go to an area")],
  ["F", tr("Find anything")],
  ["/", tr("Search in this area")],
  ["↑ ↓", tr("Move in a list")],
  ["Enter", tr("Open the chosen row")],
  ["U", tr("Undo the last change")],
  ["?", tr("This sheet")],
  [tr("Esc"), tr("Close")],
];

/** Keys is the sheet of all keys. */
export function Keys({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  const [on, setOn] = useState(keysAreOn);
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange} modal={false}>
      <Dialog.Portal>
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-24 right-5 z-40 w-80 border-[1.5px] border-ink bg-leaf p-4 shadow-lg"
        >
          <Dialog.Title>{tr("Keys")}</Dialog.Title>
          <table className="grid-lines mt-2">
            <tbody>
              {keys.map(([key, does]) => (
                <tr key={key}>
                  <td className="head w-20 font-semibold">{key}</td>
                  <td>{does}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <label className="mt-3 flex gap-2">
            <input
              type="checkbox"
              checked={on}
              onChange={(e) => {
                localStorage.setItem(keysStore, e.target.checked ? "on" : "off");
                setOn(e.target.checked);
              }}
            />
            {tr("Single keys are on")}
          </label>
          <Dialog.Close asChild>
            <Button className="mt-3">{tr("Close")}</Button>
          </Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
