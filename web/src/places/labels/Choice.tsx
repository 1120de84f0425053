import { Popover } from "radix-ui";
import type { ReactNode } from "react";

/** A word of a sentence that can be changed: it opens the choices. */
export function Choice({
  lead,
  says,
  name,
  width = 330,
  children,
}: {
  lead: string;
  says: string;
  name: string;
  width?: number;
  children: ReactNode;
}) {
  return (
    <span className="whitespace-nowrap">
      {lead}{" "}
      <Popover.Root>
        <Popover.Trigger
          type="button"
          aria-label={`${name}: ${says}`}
          className="max-w-85 cursor-pointer truncate border-b-2 border-dotted border-cobalt pb-px align-bottom font-semibold text-ink hover:text-cobalt"
        >
          {says}
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content
            align="start"
            sideOffset={7}
            collisionPadding={10}
            className="sheet z-40 max-h-[70vh] overflow-auto p-4"
            style={{ width }}
          >
            {children}
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    </span>
  );
}
