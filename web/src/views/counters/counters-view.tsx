import { ViewTitle } from "../../ui/view-title.tsx";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useMemo } from "react";
import { useSearchParams } from "react-router";
import type { ReadingDocument } from "../../../../core/reading/document.ts";
import { countersQuery } from "../../api/queries.ts";
import type { Drawn } from "../../../../core/drawing/drawings.ts";
import { drawnFromSearch, type OpenReading, readingFromSearch } from "../../sentence/reading-address.ts";
import { searchWithWindow, windowFromSearch } from "../../time/time-window.ts";
import { CounterList } from "./counter-list.tsx";
import { CounterFacts } from "./counter-facts.tsx";
import { ReadingChart } from "./reading-chart.tsx";

/** Of many series, the first look shows these. */
const firstLook = { highest: 8, by: "mean" } as const;

/**
 * Everything that is measured: what each counter is, who reports it, and its chart, written as a sentence that can be
 * changed.
 */
export function CountersView(): ReactNode {
  const [search, setSearch] = useSearchParams();
  const counters = useQuery(countersQuery);
  const reading = useMemo(() => readingFromSearch(search), [search]);
  const drawn = drawnFromSearch(search);
  const show = (next: OpenReading, as: Drawn) => {
    const parts = searchWithWindow(new URLSearchParams(), windowFromSearch(search));
    parts.set("reading", JSON.stringify(next));
    if (as !== "lines") parts.set("drawn", as);
    // "Back" takes back what was chosen, not letter by letter what was typed.
    const typed =
      reading !== undefined &&
      reading.figure !== next.figure &&
      JSON.stringify(reading.sentences) === JSON.stringify(next.sentences);
    setSearch(parts, { replace: typed });
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
  const names = reading ? [...new Set(Object.values(reading.sentences).map(({ counter }) => counter))] : [];
  const unreadable = search.has("reading") && !reading;
  return (
    <div className="grid gap-x-8 gap-y-4 lg:grid-cols-[20rem_minmax(0,1fr)]">
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
          <section className="max-w-prose pt-2">
            <ViewTitle words="Counters" />
            <p className="mt-4">
              Here stands everything that is measured, in plain words. Choose a counter, and its chart stands here as a
              sentence whose words can be changed: which machines, how it is split, how it is joined, beside which
              earlier time.
            </p>
          </section>
        )}
      </div>
    </div>
  );
}
