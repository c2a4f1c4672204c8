import { Popover } from "radix-ui";
import type { ReactNode } from "react";

/** Explain is a number that says where it comes from. */
export function Explain({ label, children, number }: { label: string; number: ReactNode; children: ReactNode }) {
  return (
    <Popover.Root>
      {/* Its name is what is seen; what it explains is its description. */}
      <Popover.Trigger title={number === label ? undefined : label} className="num border-b border-dotted border-soft font-inherit">
        {number}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          sideOffset={6}
          collisionPadding={8}
          className="z-20 max-w-80 border border-ink bg-leaf p-3 text-[13.5px] shadow-md"
        >
          {children}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
