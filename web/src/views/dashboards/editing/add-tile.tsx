import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useDeferredValue, useState } from "react";
import type { CounterView } from "../../../../../core/api/counters.ts";
import { findCounters } from "../../../../../core/counters/find-counters.ts";
import type { Tile } from "../../../../../core/dashboards/dashboard.ts";
import type { PlanKind } from "../../../../../core/dashboards/tile-kinds.ts";
import { countersQuery } from "../../../api/queries.ts";
import { useFindFigures } from "../../../shared/bands/use-find-figures.ts";
import { PopoverPart } from "../../../sentence/popover-part.tsx";

const mostShown = 30;
const mostFigures = 8;
const firstLook = { highest: 8, by: "mean" } as const;

/** Answers of planning. */
const plans: readonly (readonly [PlanKind, string])[] = [
  ["energy", "energy"],
  ["cost", "cost of the month"],
  ["space", "what fills"],
  ["fit", "what would fit"],
  ["month", "the month"],
];

/** Another tile: of a counter that is found by typing, of what happened, a note, or a table of one's own. */
export function AddTile({ onAdd }: { onAdd: (tile: Omit<Tile, "id" | "place">) => void }): ReactNode {
  return (
    <PopoverPart label="add a tile" words="add a tile …" quiet>
      {(close) => {
        const add = (tile: Omit<Tile, "id" | "place">) => {
          close();
          onAdd(tile);
        };
        return (
          <>
            <p className="mb-2 flex gap-4">
              <button type="button" className="word-link" onClick={() => add({ title: "Events", kind: "events" })}>
                events
              </button>
              <button
                type="button"
                className="word-link"
                onClick={() => add({ title: "Note", kind: "note", text: "" })}
              >
                a note
              </button>
              <button type="button" className="word-link" onClick={() => add({ title: "Table", kind: "meter" })}>
                a table of your own
              </button>
            </p>
            <p className="mb-2 flex flex-wrap gap-x-4">
              {plans.map(([kind, words]) => (
                <button
                  key={kind}
                  type="button"
                  className="word-link"
                  onClick={() => add({ title: words.charAt(0).toUpperCase() + words.slice(1), kind })}
                >
                  {words}
                </button>
              ))}
            </p>
            <CounterTiles onAdd={add} />
          </>
        );
      }}
    </PopoverPart>
  );
}

function CounterTiles({ onAdd }: { onAdd: (tile: Omit<Tile, "id" | "place">) => void }): ReactNode {
  const counters = useQuery(countersQuery).data ?? [];
  const [typed, setTyped] = useState("");
  const wanted = useDeferredValue(typed);
  const found = findCounters(counters, wanted);
  const figures = useFindFigures()(wanted).slice(0, mostFigures);
  return (
    <>
      <label className="text-[13px] text-quiet" htmlFor="tile-counter">
        or a figure, or a counter
      </label>
      <input
        id="tile-counter"
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        placeholder="words, name, tag, machine …"
        className="mb-1 w-full"
        autoComplete="off"
      />
      <ul>
        {figures.map(({ id, words, subject, explains, reading }) => (
          <li key={id}>
            <button
              type="button"
              className="w-full truncate py-0.5 text-left font-semibold hover:text-act"
              title={explains}
              onClick={() =>
                onAdd({ title: `${words.charAt(0).toUpperCase()}${words.slice(1)}`, kind: "lines", reading })
              }
            >
              {words} <span className="font-normal text-quiet">{subject}</span>
            </button>
          </li>
        ))}
        {found.slice(0, mostShown).map((counter) => (
          <li key={counter.name}>
            <button
              type="button"
              className="w-full truncate py-0.5 text-left hover:text-act"
              title={counter.name}
              onClick={() => onAdd(tileOf(counter))}
            >
              {counter.words}
            </button>
          </li>
        ))}
      </ul>
      {found.length > mostShown && <p className="text-[13px] text-quiet">and {found.length - mostShown} more</p>}
      {found.length + figures.length === 0 && <p className="text-[13px] text-quiet">Nothing here is called that.</p>}
    </>
  );
}

function tileOf({ name, words, kind, series }: CounterView): Omit<Tile, "id" | "place"> {
  const title = words.charAt(0).toUpperCase() + words.slice(1);
  if (kind === "distribution")
    return {
      title,
      kind: "heat",
      reading: { sentences: { a: { counter: name, lines: { per: ["le"] }, combine: "sum" } } },
    };
  return {
    title,
    kind: "lines",
    reading: { sentences: { a: { counter: name, ...(series > firstLook.highest && { keep: firstLook }) } } },
  };
}
