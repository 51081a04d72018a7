import { useCalled } from "../../api/use-called.ts";
import { Called } from "../../shared/machines/called.tsx";
import { type ReactNode, useMemo, useState } from "react";
import type { DifferenceView } from "../../../../core/api/differences.ts";
import type { Moved } from "../../../../core/differences/fold.ts";
import { lineWords } from "../../../../core/differences/words.ts";
import { lineNames } from "../../charts/line-names.ts";
import type { OpenReading } from "../../sentence/reading-address.ts";
import { useReading } from "../../sentence/use-reading.ts";
import { ChartWithActions } from "../../shared/charts/chart-with-actions.tsx";
import { exactClockTime, momentText } from "../../time/moments.ts";
import { SectionLink } from "../../time/section-link.tsx";
import type { Span } from "../../time/time-window.ts";

const mostLines = 12;
const dayMs = 86_400_000;
const points = 600;

/** One thing that was different, in a sentence; opened, its lines and a chart of the first. */
export function DifferenceRow({ entry, span }: { entry: DifferenceView; span: Span }): ReactNode {
  const [isOpen, setIsOpen] = useState(false);
  const { machine, subject, atMs, words, lines } = entry;
  const [chosen, setChosen] = useState(0);
  const line = lines[Math.min(chosen, lines.length - 1)] as Moved;
  return (
    <li className="border-t border-hairline py-2" data-difference={`${machine} ${subject}`}>
      <div className="grid gap-x-5 sm:grid-cols-[7.5rem_1fr_auto]">
        <span className="figure text-quiet">
          {span.toMs - span.fromMs > dayMs / 2 ? momentText(atMs, span.toMs) : exactClockTime(atMs)}
        </span>
        <p>{words}</p>
        <p className="flex gap-4 text-[13.5px]">
          <button type="button" className="word-link" aria-expanded={isOpen} onClick={() => setIsOpen(!isOpen)}>
            {isOpen ? "close" : "look at it"}
          </button>
          {machine && (
            <SectionLink to={`/machines/${encodeURIComponent(machine)}`} className="word-link">
              <Called machine={machine} />
            </SectionLink>
          )}
          <SectionLink
            to={recordingAddress(entry)}
            className="word-link"
            aria-label={`record it: ${machine} ${subject}`}
          >
            record it
          </SectionLink>
        </p>
      </div>
      {isOpen && (
        <div className="mt-2 grid gap-x-8 gap-y-2 pl-0 lg:grid-cols-[22rem_1fr] sm:pl-[7.5rem]">
          <ul>
            {lines.slice(0, mostLines).map((one, i) => (
              <li key={`${one.counter} ${JSON.stringify(one.tags)}`} className="text-[13.5px]">
                <button
                  type="button"
                  aria-pressed={one === line}
                  className={`text-left ${one === line ? "font-semibold text-act" : "word-link"}`}
                  onClick={() => setChosen(i)}
                >
                  {lineWords(one)}
                </button>
              </li>
            ))}
            {lines.length > mostLines && <li className="text-quiet">and {lines.length - mostLines} more</li>}
          </ul>
          <LineChart line={line} span={span} />
        </div>
      )}
    </li>
  );
}

/** A new recording of what moved: a sentence for each counter of the machine. */
function recordingAddress({ machine, lines }: DifferenceView): string {
  const counters = [...new Set(lines.map(({ counter }) => counter))].slice(0, mostLines);
  const sentences = counters.map((counter) => ({
    counter,
    ...(machine && { where: [{ tag: "machine", is: [machine] }] }),
  }));
  return `/recordings/new?sentences=${encodeURIComponent(JSON.stringify(sentences))}`;
}

/** A line in the span and as long before it. */
function LineChart({ line, span }: { line: Moved; span: Span }): ReactNode {
  const around = useMemo(() => {
    const margin = Math.max(900_000, (span.toMs - span.fromMs) / 2);
    return { fromMs: span.fromMs - margin, toMs: Math.min(Date.now(), span.toMs + margin / 2) };
  }, [span]);
  const reading = useMemo(
    (): OpenReading => ({
      sentences: {
        a: {
          counter: line.counter,
          where: Object.entries(line.tags).map(([tag, value]) => ({ tag, is: [value] })),
          lines: "each",
        },
      },
      usual: true,
    }),
    [line],
  );
  const called = useCalled();
  const answer = useReading(reading, around, points);
  const nameOf = useMemo(() => lineNames(answer.data?.lines ?? [], [], called), [answer.data, called]);
  if (answer.error) return <p className="text-urgent">{answer.error.message}</p>;
  return (
    <ChartWithActions
      title={lineWords(line)}
      answer={answer.data}
      span={around}
      unit={line.unit}
      nameOf={nameOf}
      reading={reading}
      height={140}
    />
  );
}
