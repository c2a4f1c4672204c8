import type { S } from "../../api/client";
import { Choice } from "../../kit/Choice";
import { tr } from "../../kit/tr";

/** Sides asks on which sides of a technique a class worked. */
export function Sides({
  name,
  taught,
  item,
  set,
  big,
}: {
  name: string;
  taught?: string;
  item: S["LedgerItem"];
  set: (change: Partial<S["LedgerItem"]>) => void;
  big?: boolean;
}) {
  return (
    <Choice
      label={tr("Sides of {{name}}", { name })}
      big={big}
      value={item.one_side ? item.side || taught || "right" : "both"}
      onChange={(side) => set(side === "both" ? { one_side: false, side: undefined } : { one_side: true, side: side as "left" | "right" })}
      options={[
        { value: "both", label: tr("Both sides") },
        { value: "left", label: tr("Left alone") },
        { value: "right", label: tr("Right alone") },
      ]}
    />
  );
}
