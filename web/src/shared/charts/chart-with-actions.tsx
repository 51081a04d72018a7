import { type ReactNode, useState } from "react";
import { getCounter } from "../../../../core/api/counters.ts";
import { noteEvent } from "../../../../core/api/events.ts";
import { makeRule } from "../../../../core/api/rules.ts";
import type { RulePlace } from "../../../../core/rules/rule.ts";
import { TimeChart, type TimeChartProps } from "../../charts/time-chart.tsx";
import { type OpenReading, readingAddress } from "../../sentence/reading-address.ts";
import type { Span } from "../../time/time-window.ts";
import { useGo } from "../../time/use-go.ts";
import { useMay } from "../people/use-may.ts";
import { KeepChart } from "../dashboards/keep-chart.tsx";
import { NoteForm } from "../notes/note-form.tsx";
import { NotePopover } from "../notes/note-popover.tsx";
import { newRuleAddress } from "../rules/rule-address.ts";

export interface ChartWithActionsProps
  extends Omit<TimeChartProps, "actions" | "beside" | "onNote" | "noteMark" | "children"> {
  /** What is drawn, so that it can be opened as a sentence and made a rule. */
  readonly reading?: OpenReading;
  /** The machine that a note made here is about; the only one that is drawn where none is given. */
  readonly machine?: string;
  /** The tile that a rule made here belongs to. */
  readonly place?: RulePlace | undefined;
}

/** A chart from which a person goes on: to its sentence, to a rule about it, to a note about a moment of it. */
export function ChartWithActions({ reading, machine, place, ...chart }: ChartWithActionsProps): ReactNode {
  const go = useGo();
  const [noting, setNoting] = useState<Span | null>(null);
  const may = useMay();
  const actions =
    reading &&
    [
      { words: "How was this made", needs: getCounter, run: () => go(readingAddress(reading, chart.drawn ?? "lines")) },
      { words: "Tell me when …", needs: makeRule, run: () => go(newRuleAddress(reading, place, chart.title)) },
    ].filter(({ needs }) => may(needs));
  return (
    <TimeChart
      {...chart}
      {...(actions && { actions })}
      {...(reading &&
        !place && { beside: <KeepChart tile={{ title: chart.title, kind: chart.drawn ?? "lines", reading }} /> })}
      {...(may(noteEvent) && { onNote: setNoting })}
      noteMark={(notes, words) => <NotePopover notes={notes} nowMs={chart.span.toMs} words={words} />}
    >
      {noting && <NoteForm span={noting} machine={machine ?? onlyMachine(chart)} onClose={() => setNoting(null)} />}
    </TimeChart>
  );
}

/** The machine that all lines are of; "" where they are of several. */
function onlyMachine({ answer }: Pick<TimeChartProps, "answer">): string {
  const machines = new Set((answer?.lines ?? []).map(({ tags }) => tags["machine"] ?? ""));
  return machines.size === 1 ? ([...machines][0] as string) : "";
}
