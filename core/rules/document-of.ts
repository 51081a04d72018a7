import type { RuleDocument } from "./rule.ts";

/** What of a rule is a person's: the rest is where it stands. */
export function documentOf({
  name,
  reading,
  watch,
  compare,
  notice,
  urgent,
  everySeconds,
  mustLastSeconds,
  staysRaisedSeconds,
  noData,
  whenGone,
  marginSeconds,
  place,
  advice,
}: RuleDocument): RuleDocument {
  return {
    name,
    reading,
    watch,
    compare,
    notice,
    urgent,
    everySeconds,
    mustLastSeconds,
    staysRaisedSeconds,
    noData,
    ...(whenGone && { whenGone }),
    marginSeconds,
    place,
    advice,
  };
}
