import { Dialog } from "radix-ui";
import { useState } from "react";
import { Button } from "../kit/Button";
import { keysAreOn, keysStore } from "./keysAreOn";

const keys: [string, string][] = [
  ["0", "Today"],
  ["1 … 7", "Go to an area"],
  ["F", "Find anything"],
  ["/", "Search in this area"],
  ["↑ ↓", "Move in a list"],
  ["Enter", "Open the chosen row"],
  ["U", "Undo the last change"],
  ["?", "This sheet"],
  ["Esc", "Close"],
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
          <Dialog.Title>Keys</Dialog.Title>
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
            Single keys are on
          </label>
          <Dialog.Close asChild>
            <Button className="mt-3">Close</Button>
          </Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
