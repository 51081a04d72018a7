import type { Condition } from "../reading/document.ts";
import type { RuleDocument } from "../rules/rule.ts";
import { severities, type Severity } from "../rules/rule.ts";
import type { Recipient } from "./recipient.ts";

/** One who is told of a rule's incidents. */
export interface ToldOfRule {
  readonly name: string;
  /** Of this severity alone, of two that the rule has; null: of all that it has. */
  readonly only: Severity | null;
  /** Not at every hour, or not of every line that the rule may watch. */
  readonly isAtTimes: boolean;
}

/**
 * Who is told when a rule is raised, in the recipients' order. What a recipient wants of tags is held against what the
 * rule says of them; a tag that the rule leaves open may be told of at times.
 */
export function toldOfRule(
  recipients: readonly Pick<Recipient, "name" | "when" | "on">[],
  rule: Pick<RuleDocument, "notice" | "urgent" | "reading">,
): readonly ToldOfRule[] {
  const has = severities.filter((severity) => rule[severity] !== null);
  const said = Object.values(rule.reading.sentences).flatMap(({ where = [] }) => where);
  return recipients.flatMap(({ name, when, on }): ToldOfRule[] => {
    if (!on) return [];
    const told = has.filter((severity) => when.severities.length === 0 || when.severities.includes(severity));
    const fits = when.tags.map(({ tag, is }) => agreement(said, tag, is));
    if (told.length === 0 || fits.includes("never")) return [];
    return [
      {
        name,
        only: told.length < has.length ? (told[0] as Severity) : null,
        isAtTimes: when.hours !== null || when.weekdays.length > 0 || fits.includes("at times"),
      },
    ];
  });
}

/** Whether what a rule says of a tag lies within the wanted values. */
function agreement(
  said: readonly Condition[],
  tag: string,
  wanted: readonly string[],
): "always" | "at times" | "never" {
  const values = said.filter((one) => one.tag === tag).flatMap(({ is = [] }) => is);
  if (values.length === 0) return "at times";
  const among = values.filter((value) => wanted.includes(value)).length;
  return among === 0 ? "never" : among === values.length ? "always" : "at times";
}

/** "tells Ines, Jonas when urgent"; that nobody is told is said as well. */
export function toldWords(told: readonly ToldOfRule[]): string {
  if (told.length === 0) return "tells nobody but open pages";
  return `tells ${told
    .map(({ name, only, isAtTimes }) => `${name}${only ? ` when ${only}` : ""}${isAtTimes ? " at times" : ""}`)
    .join(", ")}`;
}
