import { Quantity } from "../../ui/quantity.tsx";
import type { Span } from "../../time/time-window.ts";
import { useTime } from "../../time/time-provider.tsx";
import type { OpenReading } from "../../sentence/reading-address.ts";
import { SmallStrip } from "../../shared/charts/small-strip.tsx";
import { type ReactNode, useDeferredValue, useMemo, useState } from "react";
import type { CounterView } from "../../../../core/api/counters.ts";
import { findCounters } from "../../../../core/counters/find-counters.ts";
import { subjectOf } from "../../../../core/counters/subject.ts";
import { SectionLink } from "../../time/section-link.tsx";

const mostShown = 400;
const stripPx = 16;

interface CounterListProps {
  readonly counters: readonly CounterView[] | undefined;
  readonly failure: Error | null;
  readonly chosen: readonly string[];
  readonly onChoose: (name: string) => void;
}

/** All counters by subject, narrowed down by what is typed: words, names, tags, machines. */
export function CounterList({ counters, failure, chosen, onChoose }: CounterListProps): ReactNode {
  const span = useListSpan();
  const [typed, setTyped] = useState("");
  const wanted = useDeferredValue(typed);
  const found = useMemo(() => findCounters(counters ?? [], wanted), [counters, wanted]);
  const groups = useMemo(() => grouped(found.slice(0, mostShown)), [found]);
  const first = found[0];
  return (
    <nav
      aria-label="Counters"
      className="not-in-print lg:sticky lg:top-14 lg:max-h-[calc(100vh-11rem)] lg:self-start lg:overflow-auto lg:pr-2"
    >
      <form
        className="sticky top-0 z-10 bg-paper pt-2 pb-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (first) onChoose(first.name);
        }}
      >
        <label className="sr-only" htmlFor="counter-search">
          Find a counter
        </label>
        <input
          id="counter-search"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          placeholder="words, name, tag, machine …"
          className="w-full"
          autoComplete="off"
        />
        <p className="mt-1 text-[12.5px] text-quiet" aria-live="polite">
          {counters === undefined
            ? failure
              ? ""
              : "reading …"
            : wanted === ""
              ? `${counters.length} counters`
              : `${found.length} of ${counters.length}`}
          {chosen.length > 0 && wanted === "" && (
            <SectionLink to="/counters" className="word-link ml-3 lg:hidden">
              show them all
            </SectionLink>
          )}
        </p>
      </form>
      {failure && (
        <p role="alert" className="text-urgent">
          {failure.message}
        </p>
      )}
      {counters?.length === 0 && (
        <p className="text-quiet">
          Nothing has been gathered yet. This machine's own counters arrive within ten seconds of the start.
        </p>
      )}
      {counters !== undefined && counters.length > 0 && found.length === 0 && (
        <p className="text-quiet">Nothing here is called that. Fewer letters find more.</p>
      )}
      <div className={chosen.length > 0 && wanted === "" ? "hidden lg:block" : ""}>
        {groups.map(([subject, list]) => (
          <section key={subject} className="mb-3">
            <h2 className="border-b border-hairline text-[13px] text-quiet">{subject}</h2>
            <ul>
              {list.map((counter) => (
                <li key={counter.name}>
                  <button
                    type="button"
                    aria-current={chosen.includes(counter.name) ? "true" : undefined}
                    onClick={() => onChoose(counter.name)}
                    title={`${counter.name}: ${counter.series.toLocaleString("en")} series, the highest is drawn`}
                    className={`grid w-full grid-cols-[minmax(0,1fr)_4.5rem_5.5rem] items-center gap-2 py-[3px] text-left hover:text-act ${chosen.includes(counter.name) ? "font-bold text-act" : ""}`}
                    data-counter-choice={counter.name}
                  >
                    <span className="min-w-0 truncate">{counter.words}</span>
                    <SmallStrip reading={highestOf(counter)} span={span} height={stripPx}>
                      {(line) => (
                        <span className="text-right text-[12.5px] font-normal">
                          {line && <Quantity value={line.last} unit={line.unit} />}
                        </span>
                      )}
                    </SmallStrip>
                  </button>
                </li>
              ))}
            </ul>
          </section>
        ))}
        {found.length > mostShown && (
          <p className="text-quiet">
            and {(found.length - mostShown).toLocaleString("en")} more; type to narrow them down
          </p>
        )}
      </div>
    </nav>
  );
}

/** The list follows in whole minutes: many rows would be read anew at every second otherwise. */
function useListSpan(): Span {
  const { span } = useTime();
  const part = Math.max(60_000, (span.toMs - span.fromMs) / 60);
  const toMs = Math.ceil(span.toMs / part) * part;
  return { fromMs: toMs - (span.toMs - span.fromMs), toMs };
}

/** The one highest line of a counter; of a distribution, how much is counted in all of it. */
const highestOf = ({ name, kind }: CounterView): OpenReading => ({
  sentences: {
    a: {
      counter: name,
      ...(kind === "distribution" ? { lines: "together", combine: "sum" } : { keep: { highest: 1, by: "last" } }),
    },
  },
});

/** In order of the subjects' first counters, where something was sought; by name otherwise. */
function grouped(
  found: readonly CounterView[],
): readonly (readonly [subject: string, counters: readonly CounterView[]])[] {
  const groups = new Map<string, CounterView[]>();
  for (const counter of found) {
    const subject = subjectOf(counter.name);
    const list = groups.get(subject);
    if (list) list.push(counter);
    else groups.set(subject, [counter]);
  }
  return [...groups].sort(([a], [b]) => a.localeCompare(b));
}
