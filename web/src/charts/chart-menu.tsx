import { DropdownMenu } from "radix-ui";
import type { ReactNode } from "react";

export interface ChartAction {
  readonly words: string;
  readonly run: () => void;
}

/** What can be done with a chart, in words. */
export function ChartMenu({ title, actions }: { title: string; actions: readonly ChartAction[] }): ReactNode {
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger className="word-link text-[12px] leading-4" aria-label={`more about ${title}`}>more …</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" sideOffset={4} className="z-40 min-w-44 border border-hairline bg-paper py-1 text-[13.5px]">
          {actions.map(({ words, run }) => (
            <DropdownMenu.Item key={words} onSelect={run} className="cursor-pointer px-3 py-1 outline-none data-[highlighted]:bg-wash">
              {words}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
