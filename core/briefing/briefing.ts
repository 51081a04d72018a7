import { narrowed } from "../reading/narrowed.ts";
import type { ReadingDocument } from "../reading/document.ts";
import { diskBusy, processorBusy } from "../reading/common-readings.ts";
import type { MachineEvent } from "../events/machine-event.ts";
import type { Fill } from "../capacity/fill.ts";
import type { IncidentView, Severity } from "../rules/rule.ts";
import { present, presentSpan } from "../units/present.ts";

/** A piece of a sentence. Moments are told in the viewer's own zone, so they stay numbers. */
export type Piece =
  | { readonly kind: "text" | "strong" | "machine"; readonly text: string }
  | { readonly kind: "clock" | "weekdayAndHour"; readonly atMs: number }
  | { readonly kind: "span"; readonly fromMs: number; readonly toMs: number };

/** One thing worth knowing, with the view and the window that show it. */
export interface BriefingLine {
  readonly signal: "raised" | "blind" | "building" | "quiet";
  readonly severity: Severity;
  readonly pieces: readonly Piece[];
  readonly path: string;
  /** Null where the window of the moment will do. */
  readonly window: { readonly fromMs: number; readonly toMs: number } | null;
  /** What the sentence is of, drawn small beside it over its window, or the last day; absent where nothing is. */
  readonly drawn?: Omit<ReadingDocument, "window">;
  /** It is over, and stands under what is to be known today. */
  readonly part?: "week";
}

export interface BriefingFacts {
  readonly nowMs: number;
  readonly machines: readonly {
    readonly name: string;
    readonly state: string;
    readonly lastSampleAtMs: number | null;
  }[];
  /** What is raised by rules. */
  readonly incidents: readonly IncidentView[];
  /** What rules read, by their ids, so that an incident can be drawn. */
  readonly readings?: RuleReadings;
  readonly fills: readonly (Fill & {
    readonly machine: string;
    readonly what: string;
    readonly band: string;
    readonly drawn?: Omit<ReadingDocument, "window">;
  })[];
  readonly unusual: readonly {
    readonly factor: number;
    readonly machine: string;
    readonly words: string;
    readonly band: string;
    readonly drawn?: Omit<ReadingDocument, "window">;
  }[];
  /** Of the last day. */
  readonly events: readonly MachineEvent[];
  /** Of backups that are taken by the clock; absent where none are. */
  readonly backups?: { readonly lastAtMs: number | null; readonly problem: string | null } | null;
  /** Of the last thirty days, each machine with the lowest that it stood at; absent where too little is known. */
  readonly steadiness?: readonly { readonly machine: string; readonly lowest: number; readonly atMs: number }[];
}

/** What rules read, by the rule's id. */
export type RuleReadings = ReadonlyMap<number, Omit<ReadingDocument, "window">>;

/** What an incident's own line is drawn by; nothing where its rule has gone. */
export function drawnOf(
  { ruleId, tags }: IncidentView,
  readings: RuleReadings = new Map(),
): Pick<BriefingLine, "drawn"> {
  const reading = readings.get(ruleId);
  return reading ? { drawn: narrowed(reading, tags) } : {};
}

/** What a machine's own line of a reading is drawn by; nothing where there is no machine. */
export const ofMachine = (reading: Omit<ReadingDocument, "window">, machine: string): Pick<BriefingLine, "drawn"> =>
  machine === "" ? {} : { drawn: narrowed(reading, { machine }) };

const hourMs = 3_600_000;
const dayMs = 24 * hourMs;
const mostLines = 6;
const leastLines = 2;
/** A volume is told of from here on, and where it is full within these days. Common practice, no source. */
const fullShare = 0.9;
const urgentShare = 0.97;
const soonDays = 60;
/** A machine that never stood lower is steady, and a difference below this is none. */
const unsteady = 90;
const unlike = 5;
const urgentDays = 3;
const oldBackupMs = 2 * dayMs;

const text = (words: string): Piece => ({ kind: "text", text: words });
const strong = (words: string): Piece => ({ kind: "strong", text: words });
const machineOf = (name: string): Piece => ({ kind: "machine", text: name });
const pageOf = (machine: string, band = "") => `/machines/${encodeURIComponent(machine)}${band && `#${band}`}`;

/**
 * The briefing: two to six sentences, the most pressing first. Machines that are silent, incidents (those of one
 * machine together), what
 * is or will soon be full, what is far from its usual, works that overlapped; where little is to be told, that all is
 * well and what comes next.
 */
export function briefing(facts: BriefingFacts): readonly BriefingLine[] {
  const lines = [
    ...silences(facts),
    ...backups(facts),
    ...raised(facts),
    ...fills(facts),
    ...unusual(facts),
    ...overlaps(facts),
    ...outages(facts),
  ];
  const pressing = (line: BriefingLine) =>
    line.signal === "quiet" ? 3 : line.signal === "building" ? 2 : line.severity === "urgent" ? 0 : 1;
  const told = lines
    .map((line, i) => ({ line, i }))
    .sort((a, b) => pressing(a.line) - pressing(b.line) || a.i - b.i)
    .map(({ line }) => line)
    .slice(0, mostLines);
  const all = told.length >= leastLines ? told : [...told, ...calm(facts).slice(0, leastLines - told.length)];
  return [...all, ...steadiest(facts)].slice(0, mostLines);
}

/** Backups that fail, or that have grown old: a day for each, and one more for a night on which the machine was off. */
function backups({ backups: told, nowMs }: BriefingFacts): readonly BriefingLine[] {
  if (!told) return [];
  const age = told.lastAtMs === null ? null : nowMs - told.lastAtMs;
  const isOld = age !== null && age > oldBackupMs;
  if (told.problem === null && !isOld) return [];
  const newest = age === null ? "there is none yet" : `the newest is of ${daysAgo(age)}`;
  return [
    {
      signal: "blind",
      severity: isOld || age === null ? "urgent" : "notice",
      pieces: [text("The last backup "), strong(told.problem === null ? "is overdue" : "failed"), text(`; ${newest}.`)],
      path: "/sources/condition",
      window: null,
    },
  ];
}

function daysAgo(ms: number): string {
  const days = Math.floor(ms / dayMs);
  return days === 0 ? "today" : days === 1 ? "yesterday" : `${days} days ago`;
}

/** The month's least steady machine and the steadiest, where there is a difference that is worth a word. */
function steadiest({ steadiness = [], nowMs }: BriefingFacts): readonly BriefingLine[] {
  const sorted = [...steadiness].sort((a, b) => a.lowest - b.lowest || a.machine.localeCompare(b.machine));
  const [worst, best] = [sorted[0], sorted.at(-1)];
  if (!worst || !best || sorted.length < 2 || worst.lowest > unsteady || best.lowest - worst.lowest < unlike) return [];
  return [
    {
      signal: "quiet",
      severity: "notice",
      pieces: [
        text("In the last 30 days "),
        machineOf(worst.machine),
        text(" was the least steady, down to "),
        strong(worst.lowest.toFixed(0)),
        text(` of 100 ${daysAgo(nowMs - worst.atMs)}; `),
        machineOf(best.machine),
        text(
          best.lowest >= 100
            ? " was disturbed by nothing."
            : ` was the steadiest, never below ${best.lowest.toFixed(0)}.`,
        ),
      ],
      path: "/steadiness",
      window: null,
    },
  ];
}

function silences({ machines, nowMs }: BriefingFacts): readonly BriefingLine[] {
  const silent = machines.filter(({ state }) => state === "silent");
  if (silent.length > 3) {
    const names = silent.map(({ name }) => name);
    return [
      {
        signal: "blind",
        severity: "urgent",
        pieces: [
          strong(`${silent.length} machines`),
          text(` are silent: ${names.slice(0, 4).join(", ")}${names.length > 4 ? " and others" : ""}.`),
        ],
        path: "/sources",
        window: null,
      },
    ];
  }
  return silent.map(({ name, lastSampleAtMs }): BriefingLine => {
    if (lastSampleAtMs === null)
      return {
        signal: "blind",
        severity: "notice",
        pieces: [machineOf(name), text(" has not been heard since Nubrel was started.")],
        path: pageOf(name),
        window: null,
      };
    const since = nowMs - lastSampleAtMs;
    return {
      signal: "blind",
      severity: "urgent",
      pieces: [
        machineOf(name),
        text(" has been silent for "),
        strong(presentSpan(since)),
        text(", since "),
        { kind: "clock", atMs: lastSampleAtMs },
        text("."),
      ],
      path: pageOf(name),
      ...ofMachine(processorBusy(), name),
      window: around(lastSampleAtMs, nowMs, Math.max(since, hourMs / 2), nowMs),
    };
  });
}

function raised({ incidents, readings, nowMs }: BriefingFacts): readonly BriefingLine[] {
  const byMachine = new Map<string, IncidentView[]>();
  for (const incident of incidents) {
    if (incident.compare === "silent") continue; // the machine's own sentence says it
    const key = incident.tags["machine"] ?? incident.ruleName;
    byMachine.set(key, [...(byMachine.get(key) ?? []), incident]);
  }
  return [...byMachine].map(([machine, all]): BriefingLine => {
    const first = all.reduce((a, b) => (b.severity === "urgent" && a.severity !== "urgent" ? b : a));
    const since = Math.min(...all.map(({ raisedAtMs }) => raisedAtMs));
    const others = all.length - 1;
    const { text: value, unit } = present(first.furthest, first.unit);
    return {
      signal: "raised",
      severity: first.severity,
      pieces: [
        text(`${first.ruleName}: `),
        strong(`${value}${unit && ` ${unit}`}`),
        text(" at the furthest, since "),
        { kind: "clock", atMs: first.raisedAtMs },
        text(others === 0 ? "." : others === 1 ? ", and one more there." : `, and ${others} more there.`),
      ],
      path: first.tags["machine"] === undefined ? "/alerts" : pageOf(machine),
      ...drawnOf(first, readings),
      window: around(since, nowMs, Math.max(hourMs / 2, (nowMs - since) / 4), nowMs),
    };
  });
}

function fills({ fills: all, nowMs }: BriefingFacts): readonly BriefingLine[] {
  const pressing = all.filter(
    ({ share, full }) => share >= fullShare || (full !== null && full.likelyMs <= soonDays * dayMs),
  );
  const soonest = (fill: Fill) => fill.full?.likelyMs ?? (1 - fill.share) * 1000 * dayMs;
  return [...pressing]
    .sort((a, b) => soonest(a) - soonest(b))
    .slice(0, 3)
    .map(({ machine, what, band, share, full, drawn }): BriefingLine => {
      const soon = full !== null && full.likelyMs <= soonDays * dayMs;
      const urgent = share >= urgentShare || (full !== null && full.likelyMs <= urgentDays * dayMs);
      return {
        signal: urgent || share >= fullShare ? "raised" : "building",
        severity: urgent ? "urgent" : "notice",
        pieces: [
          machineOf(machine),
          text(`: ${what} is at `),
          strong(shareText(share)),
          ...(soon ? [text(", full in "), strong(rangeText(full)), text(" at this rate.")] : [text(".")]),
        ],
        path: pageOf(machine, band),
        ...(drawn && { drawn }),
        window: { fromMs: nowMs - 14 * dayMs, toMs: nowMs },
      };
    });
}

function unusual({ unusual: all, nowMs }: BriefingFacts): readonly BriefingLine[] {
  return [...all]
    .sort((a, b) => b.factor - a.factor)
    .slice(0, 2)
    .map(
      ({ machine, words, band, factor, drawn }): BriefingLine => ({
        signal: "building",
        severity: "notice",
        pieces: [
          machineOf(machine),
          text(`: ${words} is `),
          strong(factorWords(factor)),
          text(" its usual of this hour."),
        ],
        path: pageOf(machine, band),
        ...(drawn && { drawn }),
        window: { fromMs: nowMs - 6 * hourMs, toMs: nowMs },
      }),
    );
}

/** Two works that lasted and lay on one another: often one of them can be moved. Told once a pair, of the last time. */
function overlaps({ events }: BriefingFacts): readonly BriefingLine[] {
  const found = new Map<string, BriefingLine>();
  for (const { first, second, fromMs, toMs } of overlapping(events))
    found.set(`${first.machine} ${first.kind} ${second.kind}`, {
      signal: "quiet",
      severity: "notice",
      pieces: [
        text(`${capital(first.kind)} and ${second.kind} on `),
        machineOf(first.machine),
        text(" overlapped, "),
        { kind: "span", fromMs, toMs },
        text("."),
      ],
      path: first.machine === "" ? "/" : pageOf(first.machine),
      ...ofMachine(diskBusy(), first.machine),
      window: aroundBoth(first, second),
    });
  return [...found.values()].slice(0, 2);
}

/** Two works of one machine that lay on one another, and when. */
export interface Overlapping {
  readonly first: MachineEvent;
  readonly second: MachineEvent;
  readonly fromMs: number;
  readonly toMs: number;
}

/**
 * Works that lasted and overlapped on one machine, two and two, the one with the earlier name first; in the order in
 * which the later of both began. In one pass: of what is over, nothing is compared.
 */
export function overlapping(events: readonly MachineEvent[]): readonly Overlapping[] {
  const works = events.filter(({ fromMs, toMs, kind }) => toMs > fromMs && kind !== "note" && kind !== "power loss");
  const underWay = new Map<string, MachineEvent[]>();
  const found: Overlapping[] = [];
  for (const work of [...works].sort((a, b) => a.fromMs - b.fromMs)) {
    const others = (underWay.get(work.machine) ?? []).filter(({ toMs }) => toMs > work.fromMs);
    // The same work a second time is no other one, and of very many at once the newest are enough.
    for (const other of others.slice(-mostAtOnce)) {
      if (other.kind === work.kind) continue;
      const [first, second] = other.kind < work.kind ? [other, work] : [work, other];
      found.push({ first, second, fromMs: work.fromMs, toMs: Math.min(other.toMs, work.toMs) });
    }
    underWay.set(work.machine, [...others.slice(-mostAtOnce), work]);
  }
  return found;
}

const mostAtOnce = 20;

/** The window that shows both of two works. */
export const aroundBoth = (first: MachineEvent, second: MachineEvent): BriefingLine["window"] =>
  around(
    Math.min(first.fromMs, second.fromMs),
    Math.max(first.toMs, second.toMs),
    hourMs / 2,
    Number.POSITIVE_INFINITY,
  );

function outages({ events, nowMs }: BriefingFacts): readonly BriefingLine[] {
  return events
    .filter(({ kind }) => kind === "power loss" || kind === "reboot")
    .slice(-1)
    .map(
      ({ machine, text: words, fromMs, toMs }): BriefingLine => ({
        signal: "quiet",
        severity: "notice",
        pieces: [
          text(`${capital(words.replace(/\.$/, ""))} (`),
          machineOf(machine),
          text("), "),
          { kind: "clock", atMs: fromMs },
          text("."),
        ],
        path: pageOf(machine),
        ...ofMachine(processorBusy(), machine),
        window: around(fromMs, toMs, hourMs, nowMs),
      }),
    );
}

function calm({ machines, fills: all, nowMs }: BriefingFacts): readonly BriefingLine[] {
  const reporting = machines.filter(({ state }) => state === "reporting").length;
  const well: BriefingLine = {
    signal: "quiet",
    severity: "notice",
    pieces: [
      text(
        machines.length === 0
          ? "Nothing has reported yet."
          : machines.length === 1
            ? "The one machine here reports; nothing is raised."
            : `${reporting === machines.length ? `All ${machines.length}` : `${reporting} of ${machines.length}`} machines report; nothing else needs a look.`,
      ),
    ],
    path: "/sources",
    window: null,
  };
  const fullest = [...all].sort((a, b) => b.share - a.share)[0];
  if (!fullest) return [well];
  const next =
    fullest.full === null ? [text(".")] : [text(", full in "), strong(rangeText(fullest.full)), text(" at this rate.")];
  return [
    well,
    {
      signal: "quiet",
      severity: "notice",
      pieces: [
        text("The fullest is "),
        text(`${fullest.what} of `),
        machineOf(fullest.machine),
        text(" at "),
        strong(shareText(fullest.share)),
        ...next,
      ],
      path: pageOf(fullest.machine, fullest.band),
      ...(fullest.drawn && { drawn: fullest.drawn }),
      window: { fromMs: nowMs - 14 * dayMs, toMs: nowMs },
    },
  ];
}

function around(fromMs: number, toMs: number, marginMs: number, latestMs: number): BriefingLine["window"] {
  return { fromMs: Math.round(fromMs - marginMs), toMs: Math.round(Math.min(latestMs, toMs + marginMs)) };
}

const shareText = (share: number) => `${Number((share * 100).toPrecision(3))} %`;
const capital = (words: string) => words.charAt(0).toUpperCase() + words.slice(1);

/** "9 to 13 days", "18 to 30 hours"; one length where both ends are said alike. */
export function rangeText({ earliestMs, latestMs }: NonNullable<Fill["full"]>): string {
  const [earliest, latest] = [daysText(earliestMs), daysText(latestMs)];
  if (earliest === latest) return latest;
  const [count, ...unit] = earliest.split(" ");
  return latest.endsWith(` ${unit.join(" ")}`) && count !== "an" ? `${count} to ${latest}` : `${earliest} to ${latest}`;
}

/** "11 days", "18 hours", "3 years". */
export function daysText(ms: number): string {
  const days = ms / dayMs;
  if (days < 2) return `${Math.max(1, Math.round(ms / hourMs))} hours`.replace(/^1 hours$/, "an hour");
  return days < 730 ? `${Math.floor(days)} days` : `${Math.floor(days / 365)} years`;
}

const counts = [
  "",
  "",
  "twice",
  "three times",
  "four times",
  "five times",
  "six times",
  "seven times",
  "eight times",
  "nine times",
  "ten times",
];

/** "twice", "three times", "more than 100 times". */
export function factorWords(factor: number): string {
  if (factor > 100) return "more than 100 times";
  return counts[Math.round(factor)] ?? `${Math.round(factor)} times`;
}
