import { NotWhole } from "../../shared/charts/not-whole.tsx";
import { useCalled } from "../../api/use-called.ts";
import { useFindFigures } from "../../shared/bands/use-find-figures.ts";
import { makeRule } from "../../../../core/api/rules.ts";
import { May } from "../../shared/people/may.tsx";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useMemo, useState } from "react";
import type { MachineEvent } from "../../../../core/events/machine-event.ts";
import type { ReadingAnswer } from "../../../../core/reading/document.ts";
import { readingText } from "../../../../core/reading/sentence-words.ts";
import { countersQuery, windowEventsQuery } from "../../api/queries.ts";
import type { Drawn } from "../../../../core/drawing/drawings.ts";
import { lineNames, tagsOfLines } from "../../charts/line-names.ts";
import { ChartWithActions } from "../../shared/charts/chart-with-actions.tsx";
import { SectionLink } from "../../time/section-link.tsx";
import { ReadingEditor } from "../../sentence/reading-editor.tsx";
import type { OpenReading } from "../../sentence/reading-address.ts";
import { askedReading } from "../../sentence/said.ts";
import { useTime } from "../../time/time-provider.tsx";
import { newRuleAddress } from "../../shared/rules/rule-address.ts";
import { useReading } from "../../sentence/use-reading.ts";
import { RawSamplesTable } from "./raw-samples.tsx";
import { StepsTable } from "../../shared/charts/steps-table.tsx";

const noEvents: readonly MachineEvent[] = [];
const chartPoints = 600;
const sheets = [
  ["chart", "chart"],
  ["table", "table"],
  ["raw", "raw samples"],
] as const;

/**
 * A reading as a sentence, and beneath it as a chart (one for each unit: axes never mix), a table, or the samples
 * behind it.
 */
export function ReadingChart({
  reading,
  drawn,
  onChange,
}: {
  reading: OpenReading;
  drawn: Drawn;
  onChange: (reading: OpenReading, drawn: Drawn) => void;
}): ReactNode {
  const figures = useFindFigures();
  const called = useCalled();
  const { span } = useTime();
  const counters = useQuery(countersQuery).data;
  const [sheet, setSheet] = useState<(typeof sheets)[number][0]>("chart");
  const question = useMemo(
    () => ({ ...askedReading(reading), ...(drawn === "lines" && { extremes: true }) }),
    [reading, drawn],
  );
  const answer = useReading(question, span, chartPoints);
  const events = useQuery(windowEventsQuery(span)).data ?? noEvents;
  const boundUnit = counters?.find(({ name }) => name === `${Object.values(reading.sentences)[0]?.counter}.sum`)?.unit;
  const parts = useMemo(() => byUnit(answer.data), [answer.data]);
  const title = readingText(reading, ({ counter }) => ({
    words: counters?.find(({ name }) => name === counter)?.words ?? counter,
  }));
  return (
    <section aria-label="What is drawn" className="border-t border-ink pt-2">
      <ReadingEditor
        figures={figures}
        reading={reading}
        drawn={drawn}
        stepMs={answer.data?.stepMs}
        onChange={onChange}
      />
      <div className="my-3 flex items-baseline border-b border-hairline">
        <div role="tablist" aria-label="Shown as" className="flex gap-4">
          {sheets.map(([id, words]) => (
            <button
              key={id}
              type="button"
              role="tab"
              id={`tab-${id}`}
              aria-controls="sheet"
              aria-selected={sheet === id}
              onClick={() => setSheet(id)}
              className={sheet === id ? "border-b-2 border-act pb-1 font-bold" : "pb-1 text-quiet hover:text-ink"}
            >
              {words}
            </button>
          ))}
        </div>
        <May ask={makeRule}>
          <SectionLink to={newRuleAddress(reading)} className="word-link ml-auto text-[14px]">
            tell me when …
          </SectionLink>
        </May>
      </div>
      {answer.error && (
        <p role="alert" className="mb-2 text-urgent">
          {answer.error.message}
        </p>
      )}
      {reading.figure !== undefined && question.figure === undefined && (
        <p className="mb-1 text-[13px] text-quiet">
          Until the arithmetic can be read, the sentences themselves are drawn.
        </p>
      )}
      {answer.data?.notes.map((note) => (
        <p key={note} className="mb-1 text-[13px] text-quiet">
          {note}
        </p>
      ))}
      <NotWhole reading={reading} drawn={drawn} onChange={(next) => onChange(next, drawn)} />
      <div id="sheet" role="tabpanel" aria-labelledby={`tab-${sheet}`}>
        {sheet === "chart" &&
          (parts.length === 0 ? (
            <ChartWithActions
              title={title}
              answer={answer.data}
              span={span}
              unit="1"
              nameOf={({ of }) => of}
              height={260}
            />
          ) : (
            parts.map(({ unit, answer: part }) => (
              <ChartWithActions
                key={unit}
                title={parts.length > 1 ? `${title}, in ${unit}` : title}
                answer={part}
                span={span}
                unit={unit}
                nameOf={lineNames(
                  part.lines.filter(({ earlier }) => earlier === undefined),
                  tagsOfLines(reading),
                  called,
                )}
                labels="wide"
                drawn={drawn}
                boundUnit={boundUnit}
                events={events}
                height={parts.length > 1 ? 180 : 260}
              />
            ))
          ))}
        {sheet === "table" && answer.data && (
          <StepsTable
            caption={title}
            answer={answer.data}
            nameOf={lineNames(
              answer.data.lines.filter(({ earlier }) => earlier === undefined),
              tagsOfLines(reading),
              called,
            )}
          />
        )}
        {sheet === "raw" && <RawSamplesTable reading={question} />}
      </div>
    </section>
  );
}

function byUnit(
  answer: ReadingAnswer | undefined,
): readonly { readonly unit: string; readonly answer: ReadingAnswer }[] {
  if (!answer) return [];
  const units = [...new Set(answer.lines.map(({ unit }) => unit))];
  return units.map((unit) => ({
    unit,
    answer: units.length === 1 ? answer : { ...answer, lines: answer.lines.filter((line) => line.unit === unit) },
  }));
}
