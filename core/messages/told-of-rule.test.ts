import { expect, test } from "vitest";
import type { RecipientWhen } from "./recipient.ts";
import { toldOfRule, toldWords } from "./told-of-rule.ts";

const always: RecipientWhen = { severities: [], tags: [], weekdays: [], hours: null, zone: "UTC" };
const who = (name: string, when: Partial<RecipientWhen> = {}, on = true) => ({
  name,
  on,
  when: { ...always, ...when },
});
const rule = (machine?: readonly string[], urgent: { high: number } | null = { high: 9 }) => ({
  notice: { high: 5 },
  urgent,
  reading: { sentences: { a: { counter: "c", ...(machine && { where: [{ tag: "machine", is: machine }] }) } } },
});

test.each([
  ["everybody who wants everything", [who("Ines"), who("Jonas")], rule(), "tells Ines, Jonas"],
  ["nobody", [], rule(), "tells nobody but open pages"],
  ["not who is switched off", [who("Ines", {}, false)], rule(), "tells nobody but open pages"],
  ["one of urgent things alone", [who("Ines", { severities: ["urgent"] })], rule(), "tells Ines when urgent"],
  [
    "not of urgent things where the rule has none",
    [who("Ines", { severities: ["urgent"] })],
    rule(undefined, null),
    "tells nobody but open pages",
  ],
  ["at some hours", [who("Ines", { hours: { from: 8, to: 22 } })], rule(), "tells Ines at times"],
  [
    "of the machine that the rule is of",
    [who("Ines", { tags: [{ tag: "machine", is: ["vault", "hive"] }] })],
    rule(["vault"]),
    "tells Ines",
  ],
  [
    "not of another machine",
    [who("Ines", { tags: [{ tag: "machine", is: ["vault"] }] })],
    rule(["mast"]),
    "tells nobody but open pages",
  ],
  [
    "of one of the two that the rule is of",
    [who("Ines", { tags: [{ tag: "machine", is: ["vault"] }] })],
    rule(["vault", "mast"]),
    "tells Ines at times",
  ],
  [
    "of a site that the rule says nothing of",
    [who("Ines", { tags: [{ tag: "site", is: ["quay"] }] })],
    rule(["vault"]),
    "tells Ines at times",
  ],
])("%s", (_, recipients, asked, words) => {
  expect(toldWords(toldOfRule(recipients, asked))).toBe(words);
});
