import { presentSpan } from "../units/present.ts";

const minute = 60;
const hour = 60 * minute;
const day = 24 * hour;

/** Up to which length which interval is advised, in seconds. Common practice, no source. */
const advised: readonly (readonly [upTo: number, every: number])[] = [
  [15 * minute, 1],
  [2 * hour, 5],
  [day, 15],
  [2 * day, minute],
  [8 * day, 5 * minute],
  [Number.POSITIVE_INFINITY, 15 * minute],
];

/** The interval that is advised for a run of a length, both in seconds: 1 s for minutes, 15 s for a day, 5 to 15 min for a week and more. */
export function advisedEverySeconds(forSeconds: number): number {
  return (advised.find(([upTo]) => forSeconds <= upTo) as (typeof advised)[number])[1];
}

/** What is said of an interval that is far from the one that is advised; undefined where it is about right. */
export function adviceWords(everySeconds: number, forSeconds: number): string | undefined {
  const every = advisedEverySeconds(forSeconds);
  if (everySeconds > every / 4 && everySeconds < every * 4) return undefined;
  const length = presentSpan(forSeconds * 1000);
  return everySeconds < every
    ? `Every ${presentSpan(everySeconds * 1000)} over ${length} is more than anybody looks at: every ${presentSpan(every * 1000)} shows the same course.`
    : `Every ${presentSpan(everySeconds * 1000)} gives ${Math.max(1, Math.floor(forSeconds / everySeconds))} values in ${length}: every ${presentSpan(every * 1000)} shows what happens in between.`;
}
