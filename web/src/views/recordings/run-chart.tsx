import { type ReactNode, useMemo } from "react";
import type { MachineEvent } from "../../../../core/events/machine-event.ts";
import type { Line, ReadingAnswer } from "../../../../core/reading/document.ts";
import { ChartWithActions } from "../../shared/charts/chart-with-actions.tsx";
import type { Span } from "../../time/time-window.ts";
import type { Mark } from "../../charts/plot-overlay.tsx";

interface RunChartProps {
  readonly title: string;
  readonly reading: ReadingAnswer;
  readonly span: Span;
  readonly nameOf: (line: Line) => string;
  readonly events?: readonly MachineEvent[];
  readonly marks?: readonly Mark[];
}

/** All lines of a run: a chart for each unit over the same time, so that two units never share an axis. */
export function RunChart({ title, reading, span, nameOf, events, marks }: RunChartProps): ReactNode {
  const parts = useMemo(() => {
    const units = [...new Set(reading.lines.map(({ unit }) => unit))];
    return units.map((unit) => ({
      unit,
      answer: { ...reading, lines: reading.lines.filter((one) => one.unit === unit) },
    }));
  }, [reading]);
  return (
    <>
      {parts.map(({ unit, answer }) => (
        <ChartWithActions
          key={unit}
          title={runChartTitle(title, parts.length > 1 ? unit : "")}
          answer={answer}
          span={span}
          unit={unit}
          nameOf={nameOf}
          labels="wide"
          height={parts.length > 2 ? 130 : parts.length > 1 ? 170 : 260}
          {...(events && { events })}
          {...(marks && { marks })}
        />
      ))}
    </>
  );
}

/** The title by which a chart's styles are kept. */
export const runChartTitle = (title: string, unit: string): string => (unit === "" ? title : `${title}, in ${unit}`);
