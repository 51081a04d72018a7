import type { OpenReading } from "./reading-address.ts";
import type { FindNamed } from "./named-reading.ts";
import { useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { type ReactNode, useDeferredValue, useMemo, useState } from "react";
import { findCounters } from "../../../core/counters/find-counters.ts";
import { countersQuery } from "../api/queries.ts";
import { PopoverPart } from "./popover-part.tsx";

const mostShown = 40;
const mostFigures = 8;

/** The counter of a sentence, found by typing. */
export function CounterPart({
  name,
  words,
  onChange,
  figures,
  onFigure,
}: {
  name: string;
  words: string;
  onChange: (name: string) => void;
  /** Figures that stand for the whole reading, and what is done with one. */
  figures?: FindNamed | undefined;
  onFigure?: ((reading: OpenReading) => void) | undefined;
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
          figures={figures}
          onFigure={(reading) => {
            onFigure?.(reading);
            close();
          }}
        />
      )}
    </PopoverPart>
  );
}

interface CounterChoiceProps {
  readonly chosen: string;
  readonly onChoose: (name: string) => void;
  readonly figures: FindNamed | undefined;
  readonly onFigure: (reading: OpenReading) => void;
}

function CounterChoice({ chosen, onChoose, figures, onFigure }: CounterChoiceProps): ReactNode {
  const counters = useQuery(countersQuery).data ?? [];
  const [typed, setTyped] = useState("");
  const wanted = useDeferredValue(typed);
  const found = useMemo(() => findCounters(counters, wanted), [counters, wanted]);
  const named = (figures?.(wanted) ?? []).slice(0, mostFigures);
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
        {found.length + named.length === 0 && <p className="text-quiet">Nothing here is called that.</p>}
        {named.map(({ id, words, explains, reading }) => (
          <Command.Item
            key={id}
            value={`figure ${id}`}
            onSelect={() => onFigure(reading)}
            className="cursor-pointer px-1 py-1 data-[selected=true]:bg-wash"
            data-figure-choice={id}
          >
            <span className="font-semibold">{words}</span>
            <span className="block truncate text-[12px] text-quiet">{explains}</span>
          </Command.Item>
        ))}
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
