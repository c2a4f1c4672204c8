import { Popover } from "radix-ui";
import { tr } from "./tr";
import { rungs, Waymark } from "./Waymark";

/** Legend explains the waymark, one step away from wherever one is shown. */
export function Legend() {
  return (
    <Popover.Root>
      <Popover.Trigger className="link text-[12.5px] no-print">{tr("Waymarks")}</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content sideOffset={6} collisionPadding={8} className="z-20 w-64 border border-ink bg-leaf p-3 shadow-md">
          <ul className="flex flex-col gap-1">
            {rungs.map((r, i) => (
              <li key={r} className="flex gap-2">
                <Waymark rung={r} />
                <span>
                  <b>{r}</b>
                  <span className="text-soft"> {meanings[i]}</span>
                </span>
              </li>
            ))}
            <li className="flex gap-2">
              <Waymark rung="passed" due />
              <span>
                <b>{tr("due")}</b>
                <span className="text-soft"> {tr("reached once, wants a refresh")}</span>
              </span>
            </li>
            <li className="flex gap-2">
              <Waymark rung="met" held />
              <span>
                <b>{tr("held")}</b>
                <span className="text-soft"> {tr("a medical hold keeps it away")}</span>
              </span>
            </li>
          </ul>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

export const meanings = [
  tr("nothing recorded"),
  tr("was there when it was taught"),
  tr("enough exposures"),
  tr("a check met the standard"),
  tr("met it against live resistance"),
  tr("can teach it back"),
];
