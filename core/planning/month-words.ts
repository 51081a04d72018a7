import type { MonthView } from "../api/month.ts";
import { kilowattHours, money } from "../tariffs/cost-words.ts";
import { presentSpan } from "../units/present.ts";
import { amount, whenWords } from "./space-words.ts";

const leastKnown = 0.9;

type Facts = Omit<MonthView, "words">;

/** What is worth a word of a month, in sentences, with the month before beside it. */
export function monthWords(month: Facts, nowMs: number): readonly string[] {
  const { figures, before, incidents, energy, fills, grew, silent, steadiness, isOver } = month;
  const [longest] = incidents;
  const [most] = energy;
  const [least] = [...steadiness].sort((a, b) => a.mean - b.mean);
  const [fill] = fills;
  const [growth] = grew;
  const [quiet] = silent;
  return [
    figures.incidents === 0
      ? "No incident was raised."
      : `${figures.incidents} ${figures.incidents === 1 ? "incident was" : "incidents were"} raised, ${figures.urgent} of them urgent, for ${presentSpan(figures.raisedMs)} in all${before.incidents === 0 ? "" : `; the month before had ${before.incidents}`}.`,
    ...(longest ? [`The longest was ${longest.rule} on ${longest.machine}: ${presentSpan(longest.lengthMs)}.`] : []),
    ...(figures.wattHours !== null && figures.wattHours > 0
      ? [
          `${kilowattHours(figures.wattHours)} were measured${figures.cost !== null && figures.currency ? `, ${money(figures.cost, figures.currency)}` : ""}${isOver ? compared(figures, before) : ""}${most ? `; ${most.of} used most` : ""}.`,
        ]
      : []),
    ...(least && least.mean < 99.95
      ? [
          `Least steady was ${least.machine}, ${least.mean.toFixed(1)} in the mean${least.lowestDay ? `, lowest on ${least.lowestDay}` : ""}.`,
        ]
      : []),
    ...(!isOver && fill?.fullFromMs
      ? [`${fill.machine}'s ${fill.what} is full ${whenWords(fill.fullFromMs, fill.fullToMs, nowMs)}.`]
      : []),
    ...(growth && growth.by > 0
      ? [`What grew most: ${growth.machine}'s ${growth.what}, by ${amount(growth.by, growth.unit)}.`]
      : []),
    ...(quiet ? [`${quiet.machine} was silent for ${presentSpan(quiet.silentMs)}.`] : []),
  ];
}

/** Only months that are known nearly whole are compared. */
function compared(now: MonthView["figures"], before: MonthView["figures"]): string {
  if (before.wattHours === null || !(before.wattHours > 0) || now.wattHours === null) return "";
  if (now.known < leastKnown || before.known < leastKnown) return "";
  const percent = Math.round((now.wattHours / before.wattHours - 1) * 100);
  return percent === 0
    ? ", as much as the month before"
    : `, ${Math.abs(percent)} % ${percent > 0 ? "more" : "less"} than the month before`;
}
