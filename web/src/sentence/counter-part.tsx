import { useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { type ReactNode, useDeferredValue, useMemo, useState } from "react";
import { findCounters } from "../../../core/counters/find-counters.ts";
import { countersQuery } from "../api/queries.ts";
import { PopoverPart } from "./popover-part.tsx";

const mostShown = 40;

/** The counter of a sentence, found by typing. */
export function CounterPart({
  name,
  words,
  onChange,
}: {
  name: string;
  words: string;
  onChange: (name: string) => void;
}): ReactNode {
  return (
    <PopoverPart label="counter" words={words}>
      {(close) => (
        <CounterChoice
          chosen={name}
          onChoose={(counter) => {
            onChange(counter);
            close();
          }}
        />
      )}
    </PopoverPart>
  );
}

function CounterChoice({ chosen, onChoose }: { chosen: string; onChoose: (name: string) => void }): ReactNode {
  const counters = useQuery(countersQuery).data ?? [];
  const [typed, setTyped] = useState("");
  const wanted = useDeferredValue(typed);
  const found = useMemo(() => findCounters(counters, wanted), [counters, wanted]);
  return (
    <Command label="Counters" shouldFilter={false} loop>
      <Command.Input
        autoFocus
        value={typed}
        onValueChange={setTyped}
        placeholder="name, words, tag …"
        className="w-full"
      />
      <Command.List className="mt-2">
        {found.length === 0 && <p className="text-quiet">Nothing here is called that.</p>}
        {found.slice(0, mostShown).map((counter) => (
          <Command.Item
            key={counter.name}
            value={counter.name}
            onSelect={() => onChoose(counter.name)}
            className="cursor-pointer px-1 py-1 data-[selected=true]:bg-wash"
          >
            <span className={counter.name === chosen ? "font-bold" : ""}>{counter.words}</span>
            <span className="figure block truncate text-[11.5px] text-quiet">{counter.name}</span>
          </Command.Item>
        ))}
        {found.length > mostShown && <p className="px-1 text-quiet">and {found.length - mostShown} more</p>}
      </Command.List>
    </Command>
  );
}
