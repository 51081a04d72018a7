import { present, presentSpan } from "../units/present.ts";
import type { IncidentOf, IncidentView, Rule, RuleDocument, Watch } from "./rule.ts";

type Told = Pick<
  IncidentView,
  "ruleName" | "compare" | "watch" | "limit" | "unit" | "value" | "furthest" | "raisedAtMs" | "clearedAtMs"
> &
  Partial<Pick<IncidentView, "clearedValue" | "ended">>;

/** An incident in one sentence, when it is raised and when it has cleared. */
export function incidentText(incident: Told, kind: "raised" | "cleared"): string {
  const { ruleName, compare, watch, value, limit, raisedAtMs, clearedAtMs } = incident;
  if (compare === "silent") {
    const lasted = presentSpan(((clearedAtMs === null ? value : incident.furthest) ?? 0) * 1000);
    return kind === "raised"
      ? `${ruleName}: not heard for ${lasted}.`
      : `${ruleName.replace(/ is silent$/, "")} is heard again after ${lasted}.`;
  }
  const lasted = presentSpan((clearedAtMs ?? raisedAtMs) - raisedAtMs);
  if (compare === "failed")
    return kind === "raised" ? `${ruleName} cannot be checked.` : `${ruleName} is checked again after ${lasted}.`;
  if (kind === "raised") {
    if (value === null) return `${ruleName}: raised, as nothing is reported.`;
    return `${ruleName}: raised at ${gaugeText(watch, value, incident.unit)}, the limit is ${gaugeText(watch, limit, incident.unit)}.`;
  }
  if (incident.ended === "gone") return `${ruleName}: ended after ${lasted}, as nobody tells of it any more.`;
  return `${ruleName}: cleared after ${lasted}${incident.clearedValue == null ? "" : ` at ${gaugeText(watch, incident.clearedValue, incident.unit)}`}${incident.furthest === null ? "" : `, the furthest was ${gaugeText(watch, incident.furthest, incident.unit)}`}.`;
}

/** The figure that a rule compares, with its unit or in its words. */
export function gaugeText(watch: Watch["kind"], value: number | null, unit: string): string {
  if (value === null) return "no value";
  if (watch === "silence") return presentSpan(value * 1000);
  if (watch === "reach")
    return value === Number.POSITIVE_INFINITY
      ? "never at this rate"
      : value === 0
        ? "reached"
        : `${presentSpan(value * 1000)} away`;
  if (watch === "usual") return `${present(value, "1").text} standard deviations`;
  return withUnit(value, unit);
}

/** The unit of what a rule compares. */
export function gaugeUnit(watch: Watch["kind"], unit: string): string {
  return watch === "silence" || watch === "reach" ? "s" : watch === "usual" ? "1" : unit;
}

export function withUnit(value: number | null, unit: string): string {
  const shown = present(value, unit);
  return shown.unit === "" ? shown.text : `${shown.text} ${shown.unit}`;
}

const measureWords = {
  last: "the newest value",
  mean: "the mean",
  min: "the lowest",
  max: "the highest",
  p50: "the median",
  p90: "the 90th percentile",
  p95: "the 95th percentile",
  p99: "the 99th percentile",
} as const;

/** What a rule watches, in words: "the mean of 5 min", "when 100 % is reached". */
export function watchWords(watch: Watch, unit: string): string {
  switch (watch.kind) {
    case "value":
      return watch.of === "last" || watch.overSeconds === 0
        ? measureWords.last
        : `${measureWords[watch.of]} of ${presentSpan(watch.overSeconds * 1000)}`;
    case "change":
      return `its change in ${presentSpan(watch.overSeconds * 1000)}`;
    case "silence":
      return "for how long nothing has been reported";
    case "reach":
      return `the time until ${withUnit(watch.target, unit)}, at the rate of ${presentSpan(watch.pastSeconds * 1000)}`;
    case "usual":
      return "its distance from what is usual at this clock time, in standard deviations";
  }
}

/** A limit in words: "above 75 %, clears at 70 %", "outside 10 to 30 °C". */
function limitWords(
  rule: Pick<RuleDocument, "compare" | "watch">,
  limit: NonNullable<Rule["notice"]>,
  unit: string,
): string {
  const text = (value: number | undefined) => gaugeText(rule.watch.kind, value ?? null, unit);
  const { low, high, clearLow, clearHigh } = limit;
  const range = (a: number | undefined, b: number | undefined) => `${text(a)} to ${text(b)}`;
  switch (rule.compare) {
    case "above":
      return `above ${text(high)}${clearHigh === undefined ? "" : `, clears at ${text(clearHigh)}`}`;
    case "below":
      return `below ${text(low)}${clearLow === undefined ? "" : `, clears at ${text(clearLow)}`}`;
    default:
      return `${rule.compare} ${range(low, high)}${clearLow === undefined && clearHigh === undefined ? "" : `, clears at ${range(clearLow ?? low, clearHigh ?? high)}`}`;
  }
}

/** A rule's limits, the graver last. */
export function limitsWords(rule: Pick<RuleDocument, "compare" | "watch" | "notice" | "urgent">, unit: string): string {
  return [
    rule.notice && `notice ${limitWords(rule, rule.notice, unit)}`,
    rule.urgent && `urgent ${limitWords(rule, rule.urgent, unit)}`,
  ]
    .filter(Boolean)
    .join("; ");
}

/** The tags with the machine as people call it. */
export function withCalled(tags: IncidentView["tags"], called: (machine: string) => string): IncidentView["tags"] {
  return tags["machine"] === undefined ? tags : { ...tags, machine: called(tags["machine"]) };
}

/** What an incident is called in a list: "vault archive", or the source or rule that it is of. */
export function incidentPlace(tags: IncidentView["tags"], compare: IncidentOf): string {
  const { machine, ...others } = tags;
  const rest = Object.values(others).join(" ");
  return [machine, rest].filter(Boolean).join(" ") || (compare === "silent" ? "" : "all together");
}

const leastMarginMs = 300_000;
const mostMarginMs = 86_400_000;

/**
 * The window in which an incident is looked at: the margin that its rule says before and after it, else as much as it
 * lasted, five minutes to a day.
 */
export function incidentWindow(
  { raisedAtMs, clearedAtMs }: Pick<IncidentView, "raisedAtMs" | "clearedAtMs">,
  marginSeconds: number | null,
  nowMs: number,
): { readonly from: number; readonly to: number } {
  const end = clearedAtMs ?? nowMs;
  const margin =
    marginSeconds === null ? Math.min(mostMarginMs, Math.max(leastMarginMs, end - raisedAtMs)) : marginSeconds * 1000;
  return { from: Math.round(raisedAtMs - margin), to: Math.round(Math.min(nowMs, end + margin)) };
}
