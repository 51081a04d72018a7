import { expectedBytesPerSample } from "../../../../core/capacity/disk-forecast.ts";
import type { ReactNode } from "react";
import { useQuery } from "@tanstack/react-query";
import { intervalAdvice } from "../../../../core/sources/interval-advice.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { costsQuery } from "../../api/queries.ts";
import { Quantity } from "../../ui/quantity.tsx";

/** What is assumed before the first two hours have been stored. */

export const intervals: readonly (readonly [seconds: number, words: string])[] = [
  [1, "1 s"],
  [5, "5 s"],
  [15, "15 s"],
  [30, "30 s"],
  [60, "1 min"],
  [300, "5 min"],
  [900, "15 min"],
  [3600, "1 h"],
];
/** For what sends by itself: a script may come once a night, or once a month. */
export const sendingIntervals: typeof intervals = [
  ...intervals,
  [21_600, "6 h"],
  [86_400, "day"],
  [7 * 86_400, "week"],
  [31 * 86_400, "month (31 days)"],
];

interface IntervalFieldProps {
  readonly seconds: number;
  readonly onChange: (seconds: number) => void;
  /** How many values an answer has, where that is known. */
  readonly series: number | undefined;
  readonly tookMs?: number | undefined;
  /** The intervals to choose from; the usual ones where not said. */
  readonly of?: typeof intervals;
}

/** The interval, and a fair warning of what it costs. */
export function IntervalField({ seconds, onChange, series, tookMs, of = intervals }: IntervalFieldProps): ReactNode {
  const costs = useQuery(costsQuery).data;
  const advice =
    series === undefined
      ? undefined
      : intervalAdvice(seconds * 1000, series, costs?.bytesPerSample ?? expectedBytesPerSample, tookMs);
  const known = of.some(([value]) => value === seconds);
  return (
    <span>
      every{" "}
      <select aria-label="interval" value={seconds} onChange={(event) => onChange(Number(event.target.value))}>
        {!known && <option value={seconds}>{presentSpan(seconds * 1000)}</option>}
        {of.map(([value, words]) => (
          <option key={value} value={value}>
            {words}
          </option>
        ))}
      </select>
      {advice && (
        <span className="text-quiet">
          {" "}
          which takes about <Quantity value={advice.bytesPerDay} unit="By" /> of disk a day
        </span>
      )}
      {advice?.words && <span className="block max-w-prose pt-1 text-quiet">{advice.words}</span>}
    </span>
  );
}
