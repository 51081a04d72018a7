import { diskBusy } from "../reading/common-readings.ts";
import type { MachineEvent } from "../events/machine-event.ts";
import type { IncidentView } from "../rules/rule.ts";
import { presentSpan } from "../units/present.ts";
import {
  aroundBoth,
  type BriefingLine,
  drawnOf,
  ofMachine,
  overlapping,
  type Piece,
  type RuleReadings,
} from "./briefing.ts";

export interface WeekFacts {
  readonly nowMs: number;
  /** Of the last seven days; those that are still raised are told elsewhere. */
  readonly incidents: readonly IncidentView[];
  readonly readings?: RuleReadings;
  /** Of the last seven days. */
  readonly events: readonly MachineEvent[];
}

const dayMs = 86_400_000;
const hourMs = 3_600_000;
/** So many sentences at most. */
const mostLines = 4;

const text = (words: string): Piece => ({ kind: "text", text: words });
const strong = (words: string): Piece => ({ kind: "strong", text: words });
const times = (n: number): string => (n === 2 ? "twice" : `${n} times`);

/**
 * What happened in the last seven days and is over: incidents, those of one rule and machine together, the gravest and
 * longest first; then works that overlapped before the last day, which today's sentences tell of.
 */
export function thisWeek(facts: WeekFacts): readonly BriefingLine[] {
  return [...ended(facts), ...overlapped(facts)].slice(0, mostLines);
}

function ended({ incidents, readings, nowMs }: WeekFacts): readonly BriefingLine[] {
  const groups = new Map<string, IncidentView[]>();
  for (const incident of incidents) {
    if (incident.clearedAtMs === null) continue;
    const key = JSON.stringify([incident.ruleName, incident.tags["machine"] ?? ""]);
    groups.set(key, [...(groups.get(key) ?? []), incident]);
  }
  const lastedMs = ({ raisedAtMs, clearedAtMs }: IncidentView) => (clearedAtMs ?? nowMs) - raisedAtMs;
  const urgent = (all: readonly IncidentView[]) => (all.some(({ severity }) => severity === "urgent") ? 1 : 0);
  const total = (all: readonly IncidentView[]) => all.reduce((sum, one) => sum + lastedMs(one), 0);
  return [...groups.values()]
    .sort((a, b) => urgent(b) - urgent(a) || total(b) - total(a))
    .map((all): BriefingLine => {
      const longest = all.reduce((a, b) => (lastedMs(b) > lastedMs(a) ? b : a));
      const machine = longest.tags["machine"];
      return {
        part: "week",
        signal: "quiet",
        severity: urgent(all) ? "urgent" : "notice",
        pieces: [
          text(`${longest.ruleName}${machine === undefined ? "" : ", "}`),
          ...(machine === undefined ? [] : [{ kind: "machine", text: machine } as const]),
          text(all.length === 1 ? ": raised for " : `: raised ${times(all.length)}, at longest for `),
          strong(presentSpan(lastedMs(longest))),
          text(", from "),
          { kind: "clock", atMs: longest.raisedAtMs },
          text("."),
        ],
        path: `/alerts/incidents/${longest.id}`,
        ...drawnOf(longest, readings),
        window: { fromMs: longest.raisedAtMs - hourMs, toMs: Math.min(nowMs, (longest.clearedAtMs ?? nowMs) + hourMs) },
      };
    });
}

function overlapped({ events, nowMs }: WeekFacts): readonly BriefingLine[] {
  const groups = new Map<string, ReturnType<typeof overlapping>[number][]>();
  for (const one of overlapping(events)) {
    if (one.toMs > nowMs - dayMs) continue;
    const key = JSON.stringify([one.first.machine, one.first.kind, one.second.kind]);
    groups.set(key, [...(groups.get(key) ?? []), one]);
  }
  return [...groups.values()].map((all): BriefingLine => {
    const { first, second, fromMs } = all.at(-1) as (typeof all)[number];
    return {
      part: "week",
      signal: "quiet",
      severity: "notice",
      pieces: [
        text(`${first.kind.charAt(0).toUpperCase()}${first.kind.slice(1)} and ${second.kind} on `),
        { kind: "machine", text: first.machine },
        text(all.length === 1 ? " overlapped on " : ` overlapped ${times(all.length)}, last on `),
        { kind: "clock", atMs: fromMs },
        text("."),
      ],
      ...ofMachine(diskBusy(), first.machine),
      path: first.machine === "" ? "/" : `/machines/${encodeURIComponent(first.machine)}`,
      window: aroundBoth(first, second),
    };
  });
}
