import { useCalled } from "../../api/use-called.ts";
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { Sentence } from "../../../../core/reading/document.ts";
import { countersQuery } from "../../api/queries.ts";
import { lineNames, tagsOfLines } from "../../charts/line-names.ts";
import { TimeChart } from "../../charts/time-chart.tsx";
import { useReading } from "../../sentence/use-reading.ts";
import { useTime } from "../../time/time-provider.tsx";

/** Of many sentences these are drawn. */
const mostDrawn = 6;
const chartPx = { one: 190, several: 110 } as const;

/** What a recording's sentences see at present, over the window: each as a chart that follows what is chosen. */
export function WhatIsRecorded({ sentences }: { sentences: readonly Sentence[] }): ReactNode {
  const drawn = sentences.filter(({ counter }) => counter !== "").slice(0, mostDrawn);
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-3" data-what-is-recorded={drawn.length}>
      {drawn.map((sentence, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a sentence is its place in the list
        <OneSentence key={i} sentence={sentence} height={drawn.length === 1 ? chartPx.one : chartPx.several} />
      ))}
      {sentences.length > drawn.length && (
        <p className="text-[13px] text-quiet">and {sentences.length - drawn.length} more, which are not drawn here</p>
      )}
    </div>
  );
}

function OneSentence({ sentence, height }: { sentence: Sentence; height: number }): ReactNode {
  const { span } = useTime();
  const called = useCalled();
  const words = useQuery(countersQuery).data?.find(({ name }) => name === sentence.counter)?.words;
  const reading = { sentences: { a: sentence } };
  const answer = useReading(reading, span, 300);
  return (
    <div>
      <h2 className="text-[13.5px] font-bold">{words ?? sentence.counter}</h2>
      {answer.error && (
        <p role="alert" className="text-[13px] text-urgent">
          {answer.error.message}
        </p>
      )}
      <TimeChart
        title={words ?? sentence.counter}
        answer={answer.data}
        span={span}
        unit={answer.data?.lines[0]?.unit ?? "1"}
        nameOf={lineNames(answer.data?.lines ?? [], tagsOfLines(reading), called)}
        height={height}
      />
    </div>
  );
}
