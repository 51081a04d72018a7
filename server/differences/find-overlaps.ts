import type { OverlapView } from "../../core/api/differences.ts";
import type { MachineEvent } from "../../core/events/machine-event.ts";
import { habitsOf } from "../../core/overlaps/habits.ts";
import { type Job, type LimitLine, type Overlap, overlapOf } from "../../core/overlaps/overlap.ts";
import { overlapWords } from "../../core/overlaps/words.ts";
import { diskBusy, processorBusy } from "../../core/reading/common-readings.ts";
import type { Line, ReadingDocument } from "../../core/reading/document.ts";
import { zoneOffsets } from "../../core/time/zone-offsets.ts";
import { answerReading } from "../reading/answer-reading.ts";
import type { Store } from "../store/store.ts";

const hourMs = 3_600_000;
const dayMs = 24 * hourMs;
const stepSeconds = 300;
const habitStepSeconds = 900;
const habitDays = 14;
/** A line is looked at where it had so much of its limit in the span. */
const nearLimit = 0.9;
const leastLengthMs = 300_000;
/** Of very many jobs the longest are looked at: all pairs of them are compared. */
const mostJobs = 40;
/** What happens by itself is nobody's job that could be moved. */
const noJobs = new Set(["power loss", "clock", "reboot"]);

interface Limited {
  readonly words: string;
  /** In percent of the limit, a line for each machine. */
  readonly reading: Omit<ReadingDocument, "window">;
}

/** What has a limit: lines that are at it are what jobs fight for. */
const limited: readonly Limited[] = [
  { words: "disks", reading: diskBusy() },
  { words: "processors", reading: processorBusy() },
  {
    words: "network",
    reading: {
      sentences: {
        io: { counter: "system.network.io", lines: { per: ["machine", "interface"] }, combine: "max" },
        limit: { counter: "hw.network.bandwidth.limit", lines: { per: ["machine", "interface"] }, combine: "max" },
      },
      figure: "io / limit * 100",
      unit: "%",
    },
  },
];

interface Span {
  readonly from: number;
  readonly to: number;
}

/**
 * Pairs of jobs that overlapped in a span while something that one of their machines has was at its limit, and what
 * moving one of them would do. Jobs are events with a length, and what rises on such a line on most days by itself.
 * Throws CancelledError.
 */
export async function findOverlaps(
  store: Store,
  span: Span,
  events: readonly MachineEvent[],
  {
    zone,
    clock,
    signal,
  }: { readonly zone: string; readonly clock: (ms: number) => string; readonly signal?: AbortSignal },
): Promise<readonly OverlapView[]> {
  const told = jobsOf(events);
  const found: Overlap[] = [];
  for (const { words, reading } of limited) {
    const near = await machinesNearLimit(store, reading, span, signal);
    if (near.length === 0) continue;
    const read = (from: number, to: number, step: number) =>
      answerReading(store, { ...onMachines(reading, near), window: { from, to }, step }, signal);
    const around = await read(span.from - dayMs, Math.min(Date.now(), span.to + dayMs / 2), stepSeconds);
    const past = await read(span.to - habitDays * dayMs, span.to, habitStepSeconds);
    for (const line of around.lines) {
      const limit = limitLine(line, words, around.from, around.stepMs);
      const before = past.lines.find(({ tags }) => sameTags(tags, line.tags));
      const habits = before
        ? habitsOf(limitLine(before, words, past.from, past.stepMs), span.to, zoneOffsets(zone)(span.to))
        : [];
      const jobs = [...told, ...habits.filter((habit) => !told.some((job) => isSame(habit, job)))].filter((job) =>
        touches(job, span),
      );
      found.push(...pairsOn(limit, jobs));
    }
  }
  return found
    .sort((a, b) => b.highestNow - b.highestThen - (a.highestNow - a.highestThen))
    .map((overlap) => ({
      first: overlap.first.name,
      second: overlap.second.name,
      machine: overlap.line.machine,
      fromMs: overlap.fromMs,
      toMs: overlap.toMs,
      moves: overlap.moves,
      shiftMinutes: overlap.shiftMinutes,
      highestNow: overlap.highestNow,
      highestThen: overlap.highestThen,
      words: overlapWords(overlap, clock),
    }));
}

function jobsOf(events: readonly MachineEvent[]): readonly Job[] {
  return events
    .filter(({ fromMs, toMs, kind }) => toMs - fromMs >= leastLengthMs && toMs - fromMs < dayMs && !noJobs.has(kind))
    .map(({ fromMs, toMs, kind, machine, text }) => ({ name: jobName(kind, text), machine, fromMs, toMs }))
    .sort((a, b) => b.toMs - b.fromMs - (a.toMs - a.fromMs))
    .slice(0, mostJobs);
}

/** What a script says of what it did, without the word that it is over. */
function jobName(kind: string, text: string): string {
  const plain = text
    .split("\n")[0]
    ?.trim()
    .replace(/\s+(ran|run|finished|done|ended|completed)\.?$/i, "");
  return plain || kind;
}

async function machinesNearLimit(
  store: Store,
  reading: Limited["reading"],
  span: Span,
  signal?: AbortSignal,
): Promise<readonly string[]> {
  const answer = await answerReading(
    store,
    { ...reading, window: { from: span.from - hourMs, to: span.to + hourMs }, step: stepSeconds },
    signal,
  );
  const near = answer.lines.filter(({ values }) => values.some((value) => value !== null && value / 100 >= nearLimit));
  return [...new Set(near.map(({ tags }) => tags["machine"] ?? ""))];
}

function onMachines(reading: Limited["reading"], machines: readonly string[]): Limited["reading"] {
  return {
    ...reading,
    sentences: Object.fromEntries(
      Object.entries(reading.sentences).map(([name, sentence]) => [
        name,
        { ...sentence, where: [...(sentence.where ?? []), { tag: "machine", is: machines }] },
      ]),
    ),
  };
}

function limitLine(line: Line, words: string, fromMs: number, stepMs: number): LimitLine {
  const named = line.tags["interface"] === undefined ? words : `${words} (${line.tags["interface"]})`;
  const values = Float64Array.from(line.values, (value) => (value === null ? Number.NaN : value / 100));
  return { machine: line.tags["machine"] ?? "", words: named, fromMs, stepMs, values };
}

/** All pairs of jobs of which one at least is of the line's machine, each pair once. */
function pairsOn(line: LimitLine, jobs: readonly Job[]): readonly Overlap[] {
  const ordered = [...jobs].sort((a, b) => a.fromMs - b.fromMs);
  return ordered.flatMap((first, i) =>
    ordered.slice(i + 1).flatMap((second) => {
      if (first.machine !== line.machine && second.machine !== line.machine) return [];
      return overlapOf(first, second, line) ?? [];
    }),
  );
}

const touches = ({ fromMs, toMs }: Job, { from, to }: Span) => fromMs < to && toMs > from;

/** A habit is what a script tells of where they run mostly at the same time. */
function isSame(habit: Job, told: Job): boolean {
  const both = Math.min(habit.toMs, told.toMs) - Math.max(habit.fromMs, told.fromMs);
  return both > 0.5 * Math.max(habit.toMs - habit.fromMs, told.toMs - told.fromMs);
}

const sameTags = (a: Line["tags"], b: Line["tags"]) =>
  a["machine"] === b["machine"] && a["interface"] === b["interface"];
