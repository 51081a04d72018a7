import { DropdownMenu } from "radix-ui";
import { type ReactNode, useState } from "react";

export interface Action {
  readonly words: string;
  readonly run: () => void;
}

const small = "word-link text-[12px] leading-4";

/**
 * What can be done with something, in words that stand under one. The menu's machinery is made when it is first
 * wanted: a page has many charts.
 */
export function ActionsMenu({
  about,
  actions,
  look = small,
}: {
  about: string;
  actions: readonly Action[];
  look?: string;
}): ReactNode {
  const [wanted, setWanted] = useState(false);
  const label = `more about ${about}`;
  if (!wanted)
    return (
      <button
        type="button"
        aria-haspopup="menu"
        aria-expanded={false}
        className={look}
        aria-label={label}
        onClick={() => setWanted(true)}
      >
        more …
      </button>
    );
  return (
    <DropdownMenu.Root modal={false} defaultOpen>
      <DropdownMenu.Trigger className={look} aria-label={label}>
        more …
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          className="z-40 min-w-44 border border-hairline bg-paper py-1 text-[13.5px]"
        >
          {actions.map(({ words, run }) => (
            <DropdownMenu.Item
              key={words}
              onSelect={run}
              className="cursor-pointer px-3 py-1 outline-none data-[highlighted]:bg-wash"
            >
              {words}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
