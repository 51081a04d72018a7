import { ViewTitle } from "../../ui/view-title.tsx";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useEffect, useMemo, useState } from "react";
import { useSearchParts } from "../../ui/use-search-parts.ts";
import type { CounterView } from "../../../../core/api/counters.ts";
import type { ReadingDocument } from "../../../../core/reading/document.ts";
import { countersQuery } from "../../api/queries.ts";
import type { Drawn } from "../../../../core/drawing/drawings.ts";
import {
  drawnFromSearch,
  type OpenReading,
  readingAddress,
  readingFromSearch,
} from "../../sentence/reading-address.ts";
import { searchWithWindow, windowFromSearch } from "../../time/time-window.ts";
import { CounterList } from "./counter-list.tsx";
import { CounterFacts } from "./counter-facts.tsx";
import { FirstLook } from "./first-look.tsx";
import { keepLook, lastLook } from "./last-look.ts";
import { ReadingChart } from "./reading-chart.tsx";

const noCounters: readonly CounterView[] = [];

/** Of many series, the first look shows these. */
const firstLook = { highest: 8, by: "mean" } as const;

/**
 * Everything that is measured: what each counter is, who reports it, and its chart, written as a sentence that can be
 * changed.
 */
export function CountersView(): ReactNode {
  const [search, setSearch] = useSearchParts();
  const counters = useQuery(countersQuery);
  const reading = useMemo(() => readingFromSearch(search), [search]);
  const drawn = drawnFromSearch(search);
  const show = (next: OpenReading, as: Drawn) => {
    // "Back" takes back what was chosen, not letter by letter what was typed.
    const typed =
      reading !== undefined &&
      reading.figure !== next.figure &&
      JSON.stringify(reading.sentences) === JSON.stringify(next.sentences);
    setSearch(
      (before) => {
        const parts = searchWithWindow(new URLSearchParams(), windowFromSearch(before));
        parts.set("reading", JSON.stringify(next));
        if (as !== "lines") parts.set("drawn", as);
        return parts;
      },
      { replace: typed },
    );
  };
  const choose = (name: string) => {
    const counter = counters.data?.find((one) => one.name === name);
    const many = (counter?.series ?? 0) > firstLook.highest;
    const buckets = counter?.kind === "distribution";
    const sentence: ReadingDocument["sentences"][string] = {
      counter: name,
      ...(buckets ? { lines: { per: ["le"] }, combine: "sum" } : many && { keep: firstLook }),
    };
    show({ sentences: { a: sentence } }, buckets ? "heat" : "lines");
  };
  const [last] = useState(lastLook);
  useEffect(() => {
    if (reading) keepLook(readingAddress(reading, drawn));
  }, [reading, drawn]);
  const names = reading ? [...new Set(Object.values(reading.sentences).map(({ counter }) => counter))] : [];
  const unreadable = search.has("reading") && !reading;
  return (
    <div className="grid gap-x-8 gap-y-4 lg:grid-cols-[24rem_minmax(0,1fr)]">
      <CounterList counters={counters.data} failure={counters.error} chosen={names} onChoose={choose} />
      <div className="min-w-0">
        {unreadable && (
          <p role="alert" className="py-2 text-urgent">
            The sentence in this address cannot be read. Choose a counter beside this, or open the address again from
            where it came.
          </p>
        )}
        {reading ? (
          <>
            {names.length === 1 && <CounterFacts name={names[0] as string} />}
            {names.length > 1 && (
              <ViewTitle
                words="A figure of several counters"
                className="pt-2 pb-3 text-[22px] leading-none font-bold"
              />
            )}
            <ReadingChart reading={reading} drawn={drawn} onChange={show} />
          </>
        ) : (
          <FirstLook counters={counters.data ?? noCounters} last={last} />
        )}
      </div>
    </div>
  );
}
