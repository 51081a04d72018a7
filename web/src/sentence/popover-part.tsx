import { Popover } from "radix-ui";
import { type ReactNode, useState } from "react";

interface PopoverPartProps {
  readonly label: string;
  readonly words: string;
  /** What opens: it is given the way to close it. */
  readonly children: (close: () => void) => ReactNode;
  readonly quiet?: boolean;
  /** Opens as soon as it is there. */
  readonly isOpen?: boolean;
}

/** A word of the sentence that opens its choices beneath it. */
export function PopoverPart({ label, words, children, quiet = false, isOpen = false }: PopoverPartProps): ReactNode {
  const [open, setOpen] = useState(isOpen);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger aria-label={`${label}: ${words}`} className={quiet ? "word-link" : "part !border-act text-act"}>
        {words}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={6}
          collisionPadding={8}
          aria-label={label}
          className="z-40 max-h-[min(28rem,var(--radix-popover-content-available-height))] w-80 max-w-[calc(100vw-1rem)] overflow-auto border border-hairline bg-paper p-3 text-[14px]"
        >
          {children(() => setOpen(false))}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
