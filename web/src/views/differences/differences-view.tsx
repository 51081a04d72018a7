import { ViewTitle } from "../../ui/view-title.tsx";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useMemo, useState } from "react";
import type { DifferencesView as Found, DifferenceView } from "../../../../core/api/differences.ts";
import { SelectPart } from "../../sentence/select-part.tsx";
import { spanText } from "../../time/moments.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { useTime } from "../../time/time-provider.tsx";
import { type Span, spanOf } from "../../time/time-window.ts";
import { askDifferences } from "../../shared/differences/ask-differences.ts";
import { DifferenceRow } from "./difference-row.tsx";
import { MovedAxis } from "./moved-axis.tsx";

type Order = "moved" | "weight";

/**
 * What left its usual in the window, on all machines, said in sentences: in the order in which it moved, or by its
 * weight. A window that follows now is asked about as it was when this was opened.
 */
export function DifferencesView(): ReactNode {
  const { window } = useTime();
  const [askedAtMs, setAskedAtMs] = useState(Date.now);
  const span = useMemo(() => spanOf(window, askedAtMs), [window, askedAtMs]);
  const [order, setOrder] = useState<Order>("moved");
  const [progress, setProgress] = useState(0);
  const found = useQuery({
    queryKey: ["differences", span.fromMs, span.toMs],
    queryFn: ({ signal }) => askDifferences(span, signal, setProgress),
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
  const text = spanText(span.fromMs, span.toMs);
  return (
    <section aria-label="What was different">
      <div className="flex flex-wrap items-baseline gap-x-5 gap-y-1 border-b border-ink pt-2 pb-3">
        <ViewTitle words="What was different" />
        <p className="text-quiet">
          {text.day} <span className="moment">{text.from}</span> to <span className="moment">{text.to}</span>, on all
          machines, against what is usual then
        </p>
        {window.kind === "following" && (
          <button type="button" className="word-link" onClick={() => setAskedAtMs(Date.now())}>
            ask again up to now
          </button>
        )}
      </div>
      {found.isPending && (
        <p className="py-6 text-quiet" role="status">
          comparing every line with up to eight weeks before …
          {progress > 0 && <span className="figure"> {Math.round(progress * 100)} %</span>}
        </p>
      )}
      {found.error && (
        <p role="alert" className="py-6 text-urgent">
          {found.error.message}{" "}
          <button type="button" className="word-link" onClick={() => void found.refetch()}>
            Try again
          </button>
        </p>
      )}
      {found.data && <Answer found={found.data} span={span} order={order} onOrder={setOrder} />}
    </section>
  );
}

interface AnswerProps {
  readonly found: Found;
  readonly span: Span;
  readonly order: Order;
  readonly onOrder: (order: Order) => void;
}

function Answer({ found, span, order, onOrder }: AnswerProps): ReactNode {
  const { calm, entries, looked, rested, apart, incidents, events, recordings, overlaps } = found;
  const rests =
    rested.weeks === 0
      ? "Too little past is known yet to say what is usual: that takes ten days."
      : `${looked.toLocaleString("en")} lines were compared with ${rested.weeks === 1 ? "a week" : `${rested.weeks} weeks`} of past.`;
  return (
    <>
      <p className="py-3 text-[17px]" data-calm={calm}>
        {calm
          ? rested.weeks === 0
            ? rests
            : `Nothing was unusual. ${rests}`
          : `${entries.length === 1 ? "One thing was unusual" : `${entries.length} things were unusual`}. ${rests}`}
      </p>
      {overlaps.map(({ words }) => (
        <p key={words} className="max-w-[80rem] border-l-2 border-act pb-2 pl-3" data-overlap>
          {words}
        </p>
      ))}
      {(!calm || events.length > 0 || incidents.length > 0) && (
        <MovedAxis {...{ span, entries, events, incidents, recordings }} />
      )}
      {entries.length > 1 && (
        <p className="pt-3 leading-8">
          In the order{" "}
          <SelectPart
            label="order"
            value={order}
            options={[
              ["moved", "in which they moved"],
              ["weight", "of how much they weigh"],
            ]}
            onChange={(next) => onOrder(next as Order)}
          />
        </p>
      )}
      <ol className="mt-2">
        {inOrder(entries, order).map((entry) => (
          <DifferenceRow key={`${entry.machine} ${entry.subject}`} entry={entry} span={span} />
        ))}
      </ol>
      {incidents.length > 0 && (
        <p className="mt-3 flex flex-wrap gap-x-4">
          <span className="text-quiet">Incidents in it:</span>
          {incidents.slice(0, 12).map(({ id, ruleName, tags }) => (
            <SectionLink key={id} to={`/alerts/incidents/${id}`} className="word-link">
              {ruleName}
              {tags["machine"] && ` (${tags["machine"]})`}
            </SectionLink>
          ))}
        </p>
      )}
      {recordings.length > 0 && (
        <p className="mt-3 flex flex-wrap gap-x-4">
          <span className="text-quiet">Recorded in it:</span>
          {recordings.slice(0, 12).map(({ run, recordingId, name }) => (
            <SectionLink key={run} to={`/recordings/${recordingId}/runs/${run}`} className="word-link">
              {name}
            </SectionLink>
          ))}
        </p>
      )}
      {apart.length > 0 && (
        <details className="mt-4">
          <summary className="cursor-pointer text-quiet">
            {apart.reduce((sum, { series }) => sum + series, 0).toLocaleString("en")} lines have too short a past to be
            compared
          </summary>
          <ul className="mt-1 columns-1 gap-8 text-[13.5px] sm:columns-2 lg:columns-3">
            {apart.slice(0, 120).map(({ counter, machine, series }) => (
              <li key={`${counter} ${machine}`} className="break-inside-avoid">
                <span className="figure">{series}</span> of {counter}
                {machine && `, ${machine}`}
              </li>
            ))}
          </ul>
        </details>
      )}
    </>
  );
}

const inOrder = (entries: readonly DifferenceView[], order: Order): readonly DifferenceView[] =>
  order === "weight" ? entries : [...entries].sort((a, b) => a.atMs - b.atMs);
