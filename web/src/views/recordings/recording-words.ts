import type { RunListed } from "../../../../core/api/recordings.ts";
import type { CounterView } from "../../../../core/api/counters.ts";
import { endings, namedSentences, type RecordingDocument } from "../../../../core/recordings/recording.ts";
import type { RunSchedule } from "../../../../core/recordings/schedule.ts";
import { machineWords } from "../../../../core/reading/sentence-words.ts";
import { presentSpan } from "../../../../core/units/present.ts";

const weekdays = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"] as const;

/** When it runs by itself, in words. */
export function scheduleWords({ weekdays: days, from, to, zone, firstDay, lastDay }: RunSchedule): string {
  const sorted = [...days].sort((a, b) => a - b);
  const named =
    sorted.length === 7
      ? "every day"
      : sorted.join() === "1,2,3,4,5"
        ? "Monday to Friday"
        : sorted.map((day) => weekdays[day - 1]).join(", ");
  const begins = firstDay ? ` from ${firstDay}` : "";
  const ends = lastDay ? ` to ${lastDay}` : "";
  return `${named}, ${from} to ${to} (${zone})${begins}${ends}`;
}

/** What is recorded, in words: its counters, and of which machines where they are few. */
export function sentencesWords(
  { sentences }: Pick<RecordingDocument, "sentences">,
  counters: readonly Pick<CounterView, "name" | "words">[],
): string {
  const all = Object.values(namedSentences(sentences));
  const words = [...new Set(all.map(({ counter }) => counters.find(({ name }) => name === counter)?.words ?? counter))];
  const machines = [...new Set(all.map(({ where }) => machineWords(where)))];
  const shown = words.length > 5 ? `${words.slice(0, 4).join(", ")} and ${words.length - 4} more` : words.join(", ");
  return `${shown}, of ${machines.length > 2 ? `${machines.length} choices of machines` : machines.join(" and of ")}`;
}

/** How a run stands or why it has ended, in words. */
export function runWords({ endedBecause, startedAtMs, endedAtMs }: RunListed): string {
  if (endedBecause === null || endedAtMs === null) return "on now";
  return `${presentSpan(endedAtMs - startedAtMs)}, ended as ${endings[endedBecause]}`;
}

/** The window of a run, for addresses. */
export function runWindow({ startedAtMs, endedAtMs }: Pick<RunListed, "startedAtMs" | "endedAtMs">): string {
  return endedAtMs === null
    ? ""
    : `?from=${new Date(startedAtMs).toISOString()}&to=${new Date(Math.max(endedAtMs, startedAtMs + 1000)).toISOString()}`;
}
