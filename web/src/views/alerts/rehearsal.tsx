import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type ReactNode, useDeferredValue, useMemo, useState } from "react";
import type { RuleDocument } from "../../../../core/rules/rule.ts";
import type { RehearsalAnswer, Suggestion } from "../../../../core/rules/rehearse.ts";
import { gaugeText } from "../../../../core/rules/incident-text.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { rehearseRule } from "../../api/rehearse.ts";
import { useTime } from "../../time/time-provider.tsx";
import { HourGrid } from "./hour-grid.tsx";
import { RehearsalLanes } from "./rehearsal-lanes.tsx";

const longestMs = 90 * 86_400_000;
/** While the window follows now, what was read of the past is read anew after so much of it has passed. */
const parts = 200;
const leastPartMs = 5000;
const mostLines = 12;

/**
 * What the rule would have done in the window: how often, when, how long, on which lines; and what would make it
 * calmer.
 */
export function RehearsalPart({
  rule,
  onChange,
}: {
  rule: RuleDocument;
  onChange: (rule: RuleDocument) => void;
}): ReactNode {
  const { span } = useTime();
  const [progress, setProgress] = useState(1);
  const part = Math.max(leastPartMs, (span.toMs - span.fromMs) / parts);
  const to = Math.floor(span.toMs / part) * part;
  const from = Math.max(to - longestMs, Math.round(to - (span.toMs - span.fromMs)));
  const { name: _, advice: __, place: ___, marginSeconds: ____, ...said } = rule;
  const key = useDeferredValue(JSON.stringify(said));
  const rehearsal = useQuery({
    queryKey: ["rehearsal", key, from, to],
    queryFn: ({ signal }) =>
      rehearseRule(
        { ...(JSON.parse(key) as RuleDocument), name: "rehearsal", advice: "", place: null, marginSeconds: null },
        from,
        Math.round(to),
        signal,
        setProgress,
      ),
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 30_000,
    staleTime: 60_000,
  });
  return (
    <section aria-labelledby="rehearsal" className="mt-4 border-t border-ink pt-2" data-rehearsal>
      <h2 id="rehearsal" className="flex flex-wrap items-baseline gap-4 font-bold">
        Rehearsal on the window below
        {rehearsal.isFetching && progress < 1 && (
          <progress value={progress} aria-label="the past is read" className="h-1.5 w-40 accent-act" />
        )}
      </h2>
      {rehearsal.error && (
        <p role="alert" className="py-1 text-urgent">
          {rehearsal.error.message}
        </p>
      )}
      {rehearsal.isPending && !rehearsal.error && <p className="py-1 text-quiet">reading the past …</p>}
      {rehearsal.data && <Result rule={rule} result={rehearsal.data} onChange={onChange} />}
    </section>
  );
}

function Result({
  rule,
  result,
  onChange,
}: {
  rule: RuleDocument;
  result: RehearsalAnswer;
  onChange: (rule: RuleDocument) => void;
}): ReactNode {
  const { count, perDay, longestMs: longest, lines, byHour, suggestions, notes } = result;
  const days = (result.to - result.from) / 86_400_000;
  const raisedLines = useMemo(
    () =>
      lines
        .map((line, index) => ({ ...line, index }))
        .filter((line) => line.count > 0)
        .sort((a, b) => b.count - a.count),
    [lines],
  );
  return (
    <>
      <p className="py-1" data-rehearsed={count}>
        {count === 0 ? (
          `It would not have been raised in ${presentSpan(result.to - result.from)}.`
        ) : (
          <>
            It would have been raised <strong className="figure font-normal">{count}</strong>{" "}
            {count === 1 ? "time" : "times"} in {presentSpan(result.to - result.from)}
            {days >= 1 && (
              <>
                , <strong className="figure font-normal">{perDay < 10 ? perDay.toFixed(1) : Math.round(perDay)}</strong>{" "}
                a day
              </>
            )}
            , on {raisedLines.length} of {lines.length} {lines.length === 1 ? "line" : "lines"}; the longest lasted{" "}
            {presentSpan(longest)}.
          </>
        )}
      </p>
      {notes.map((note) => (
        <p key={note} className="text-[13px] text-quiet">
          {note}
        </p>
      ))}
      {suggestions.length > 0 && (
        <p className="py-1 text-notice" data-suggestions>
          That is more than once a day.{" "}
          {suggestions.map((suggestion) => (
            <span key={suggestion.kind} className="mr-4">
              {suggestionWords(rule, suggestion, result.unit)}{" "}
              <button type="button" className="word-link" onClick={() => onChange(taken(rule, suggestion))}>
                take that
              </button>
            </span>
          ))}
        </p>
      )}
      {count > 0 && (
        <div className="mt-2 grid gap-x-8 gap-y-3 xl:grid-cols-[minmax(0,1fr)_auto]">
          <RehearsalLanes result={result} lines={raisedLines.slice(0, mostLines)} />
          <HourGrid counts={byHour} />
        </div>
      )}
      {raisedLines.length > mostLines && (
        <p className="text-[13px] text-quiet">and {raisedLines.length - mostLines} more lines</p>
      )}
    </>
  );
}

function suggestionWords(rule: RuleDocument, suggestion: Suggestion, unit: string): string {
  const often = `${suggestion.perDay < 0.05 ? "hardly ever" : `${suggestion.perDay.toFixed(1)} times a day`}`;
  return suggestion.kind === "must last"
    ? `Were it to last ${presentSpan(suggestion.seconds * 1000)}, it would be raised ${often}:`
    : `With the limit at ${gaugeText(rule.watch.kind, suggestion.at, unit)}, ${often}:`;
}

function taken(rule: RuleDocument, suggestion: Suggestion): RuleDocument {
  if (suggestion.kind === "must last") return { ...rule, mustLastSeconds: suggestion.seconds };
  const end = rule.compare === "below" ? "low" : "high";
  const moved = { [end]: suggestion.at };
  const urgent = rule.urgent?.[end];
  const overtaken =
    suggestion.severity === "notice" &&
    urgent !== undefined &&
    (end === "high" ? urgent < suggestion.at : urgent > suggestion.at);
  return { ...rule, [suggestion.severity]: moved, ...(overtaken && { urgent: moved }) };
}
