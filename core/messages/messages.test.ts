import { describe, expect, test } from "vitest";
import { DateTime } from "luxon";
import type { IncidentView } from "../rules/rule.ts";
import { type Decision, decide, type TellableIncident, type Told, toldAfter } from "./decide.ts";
import { isWanted, type Recipient, type RecipientWhen } from "./recipient.ts";
import { type MessageIncident, messageTexts } from "./texts.ts";

const minute = 60_000;
const always: RecipientWhen = { severities: [], tags: [], weekdays: [], hours: null, zone: "Europe/Berlin" };
const recipient = (more: Partial<Recipient> = {}): Recipient => ({
  id: 1,
  name: "Ines",
  kind: "email",
  mail: null,
  webhook: null,
  when: always,
  groupSeconds: 0,
  repeatSeconds: 0,
  onRecovery: true,
  escalation: null,
  texts: { subject: "", body: "" },
  on: true,
  ...more,
});
const incident = (more: Partial<TellableIncident> = {}): TellableIncident => ({
  id: 1,
  severity: "notice",
  tags: { machine: "vault" },
  raisedAtMs: 0,
  clearedAtMs: null,
  isAcknowledged: false,
  isQuiet: false,
  ...more,
});

/**
 * Decides at each moment as the server does: what was decided is remembered. Told as "minute recipient kind incidents".
 */
function story(
  recipients: readonly Recipient[],
  moments: readonly (readonly [atMinute: number, incidents: readonly TellableIncident[]])[],
): readonly string[] {
  let told: readonly Told[] = [];
  return moments.flatMap(([at, incidents]) => {
    const decisions = decide(recipients, incidents, told, at * minute);
    for (const decision of decisions) told = remembered(decision, incidents, told, at * minute, recipients);
    return decisions.map(
      ({ recipientId, kind, incidentIds }) => `${at} ${recipientId} ${kind} ${incidentIds.join("+")}`,
    );
  });
}

function remembered(
  decision: Decision,
  incidents: readonly TellableIncident[],
  told: readonly Told[],
  nowMs: number,
  recipients: readonly Recipient[],
): readonly Told[] {
  const isOf = (one: Told) => decision.incidentIds.includes(one.incidentId) && one.recipientId === decision.recipientId;
  const after = decision.incidentIds.map((id) =>
    toldAfter(
      decision,
      incidents.find((one) => one.id === id) as TellableIncident,
      told.find((one) => one.incidentId === id && one.recipientId === decision.recipientId),
      nowMs,
    ),
  );
  const escalating =
    decision.kind === "escalated"
      ? recipients.filter(({ escalation }) => escalation?.to === decision.recipientId).map(({ id }) => id)
      : [];
  return [
    ...told
      .filter((one) => !isOf(one))
      .map((one) =>
        escalating.includes(one.recipientId) && decision.incidentIds.includes(one.incidentId)
          ? { ...one, hasEscalated: true }
          : one,
      ),
    ...after,
  ];
}

describe("who is told when, worked by hand", () => {
  const open = incident();
  const over = incident({ clearedAtMs: 3 * minute });
  test.each<[string, readonly Recipient[], Parameters<typeof story>[1], readonly string[]]>([
    [
      "once, and when it is over",
      [recipient()],
      [
        [0, [open]],
        [1, [open]],
        [4, [over]],
        [5, [over]],
      ],
      ["0 1 raised 1", "4 1 cleared 1"],
    ],
    [
      "not when it is over, if that is not wanted",
      [recipient({ onRecovery: false })],
      [
        [0, [open]],
        [4, [over]],
      ],
      ["0 1 raised 1"],
    ],
    [
      "not at all when it cleared before anybody was told",
      [recipient({ groupSeconds: 120 })],
      [
        [1, [open]],
        [4, [over]],
      ],
      [],
    ],
    [
      "together with what comes while a group waits",
      [recipient({ groupSeconds: 120 })],
      [
        [0, [open]],
        [1, [open, incident({ id: 2, raisedAtMs: minute, tags: { machine: "hive" } })]],
        [2, [open, incident({ id: 2, raisedAtMs: minute, tags: { machine: "hive" } })]],
      ],
      ["2 1 raised 1+2"],
    ],
    [
      "those of one machine within a minute together, of two machines apart",
      [recipient()],
      [
        [
          1,
          [
            open,
            incident({ id: 2, raisedAtMs: 59_000 }),
            incident({ id: 3, raisedAtMs: 61_000 }),
            incident({ id: 4, tags: { machine: "hive" } }),
          ],
        ],
      ],
      ["1 1 raised 1+2", "1 1 raised 4", "1 1 raised 3"],
    ],
    [
      "again when it becomes urgent, once",
      [recipient()],
      [
        [0, [open]],
        [1, [incident({ severity: "urgent" })]],
        [2, [incident({ severity: "urgent" })]],
      ],
      ["0 1 raised 1", "1 1 worsened 1"],
    ],
    [
      "again and again until somebody acknowledges it",
      [recipient({ repeatSeconds: 600 })],
      [
        [0, [open]],
        [9, [open]],
        [10, [open]],
        [19, [open]],
        [20, [open]],
        [30, [incident({ isAcknowledged: true })]],
      ],
      ["0 1 raised 1", "10 1 repeated 1", "20 1 repeated 1"],
    ],
    [
      "nothing in a quiet time; what is raised still when it ends, then",
      [recipient()],
      [
        [0, [incident({ isQuiet: true })]],
        [5, [incident({ isQuiet: true })]],
        [6, [open]],
      ],
      ["6 1 raised 1"],
    ],
    [
      "nothing of what was acknowledged before it could be told",
      [recipient({ groupSeconds: 120 })],
      [
        [0, [open]],
        [3, [incident({ isAcknowledged: true })]],
      ],
      [],
    ],
    [
      "to another when nobody acknowledges it, once; who was told then is told when it is over",
      [
        recipient({ escalation: { afterSeconds: 900, to: 2 } }),
        recipient({ id: 2, when: { ...always, severities: ["urgent"] } }),
      ],
      [
        [0, [open]],
        [14, [open]],
        [15, [open]],
        [16, [open]],
        [20, [incident({ clearedAtMs: 20 * minute })]],
      ],
      ["0 1 raised 1", "15 2 escalated 1", "20 1 cleared 1", "20 2 cleared 1"],
    ],
    ["to nobody who is switched off", [recipient({ on: false })], [[0, [open]]], []],
  ])("%s", (_, recipients, moments, expected) => expect(story(recipients, moments)).toEqual(expected));
});

describe("what somebody wants to be told of", () => {
  const berlin = (text: string) => DateTime.fromISO(text, { zone: "Europe/Berlin" }).toMillis();
  const night = { hours: { from: 22, to: 6 }, weekdays: [5, 6] };
  test.each<[string, Partial<RecipientWhen>, string, boolean]>([
    ["everything", {}, "2026-11-27T12:00", true],
    ["urgent only", { severities: ["urgent"] }, "2026-11-27T12:00", false],
    ["a tag's value", { tags: [{ tag: "machine", is: ["vault", "hive"] }] }, "2026-11-27T12:00", true],
    ["another tag's", { tags: [{ tag: "site", is: ["mast"] }] }, "2026-11-27T12:00", false],
    ["by day, at noon", { hours: { from: 8, to: 22 } }, "2026-11-27T12:00", true],
    ["by day, at its end", { hours: { from: 8, to: 22 } }, "2026-11-27T22:00", false],
    ["Friday's and Saturday's nights, late on Friday", night, "2026-11-27T23:00", true],
    ["Friday's and Saturday's nights, early on Saturday", night, "2026-11-28T05:59", true],
    ["Friday's and Saturday's nights, early on Sunday: Saturday's", night, "2026-11-29T05:00", true],
    ["Friday's and Saturday's nights, early on Friday: Thursday's", night, "2026-11-27T05:00", false],
    ["Friday's and Saturday's nights, late on Sunday", night, "2026-11-29T23:00", false],
    [
      "at 2 in the night in which the clock is put forward (IANA, Europe/Berlin 2026-03-29)",
      { hours: { from: 1, to: 4 } },
      "2026-03-29T03:30",
      true,
    ],
  ])("%s", (_, more, at, expected) =>
    expect(isWanted({ ...always, ...more }, "notice", { machine: "vault" }, berlin(at))).toBe(expected),
  );
});

describe("texts", () => {
  const view: IncidentView = {
    id: 7,
    ruleId: 1,
    ruleName: "pool nearly full",
    severity: "urgent",
    tags: { machine: "vault", pool: "archive" },
    compare: "above",
    watch: "value",
    limit: 90,
    unit: "%",
    raisedAtMs: 0,
    clearedAtMs: null,
    value: 91.42,
    furthest: 92,
    clearedValue: null,
    ended: null,
    acknowledgedBy: null,
    acknowledgedAtMs: null,
    snoozedUntilMs: null,
    quietId: null,
    closedBy: null,
  };
  const one: MessageIncident = {
    incident: view,
    advice: "Order drives.",
    differed: "vault: disks busy 97 %, usually 12 %, from 07:21",
    ruleWords: "",
    links: { incident: "http://n/alerts/incidents/7", dashboard: null, tile: "http://n/t" },
  };
  const defaults = { subject: "", body: "" };
  const text = (ms: number) => `at ${ms / minute} min`;
  test("the usual ones say what, where, value, limit, since when, what to do, and where to look", () => {
    expect(messageTexts("raised", [one], defaults, text, 5 * minute)).toEqual({
      subject: "urgent raised: pool nearly full, vault archive",
      text: "pool nearly full\nvault archive: 91.4 %, the limit is 90 %\nraised since at 0 min\nWhat differed: vault: disks busy 97 %, usually 12 %, from 07:21\nOrder drives.\nhttp://n/alerts/incidents/7\nits tile: http://n/t",
    });
  });
  test("a machine that people call otherwise is called so, also by a text of one's own", () => {
    const called = { ...one, called: "The vault downstairs" };
    const { subject, text: body } = messageTexts("raised", [called], defaults, text, 5 * minute);
    expect(subject).toBe("urgent raised: pool nearly full, The vault downstairs archive");
    expect(body).toContain("The vault downstairs archive: 91.4 %");
    const own = { subject: "{machine}", body: "" };
    expect(messageTexts("raised", [called], own, text, 5 * minute).subject).toBe("The vault downstairs");
  });
  test.each<[string, Partial<IncidentView>, string]>([
    [
      "cleared",
      { clearedValue: 87.654 },
      "vault archive: cleared at at 2 min with 87.7 %\nraised at 0 min at 91.4 %, the limit is 90 %; it lasted 2 min, the furthest was 92 %",
    ],
    [
      "what is not there any more",
      { ended: "gone" },
      "vault archive: ended at at 2 min, as nobody tells of it any more\nraised",
    ],
    [
      "a rule that was changed",
      { ended: "rule" },
      "vault archive: over at at 2 min, as its rule was changed, switched off or removed\nraised",
    ],
    ["closed by hand", { closedBy: "Ines" }, "vault archive: closed by Ines at at 2 min\nraised"],
  ])("of the end it is told when, and at which value or why: %s", (_name, more, words) => {
    expect(
      messageTexts(
        "cleared",
        [{ ...one, incident: { ...view, clearedAtMs: 120_000, ...more } }],
        defaults,
        text,
        5 * minute,
      ).text,
    ).toContain(words);
  });
  test("of several the subject counts the others, and each has its part", () => {
    const { subject, text: body } = messageTexts(
      "raised",
      [one, { ...one, incident: { ...view, ruleName: "drive expects to fail" } }],
      defaults,
      text,
      0,
    );
    expect(subject).toMatch(/pool nearly full, vault archive and 1 more$/);
    expect(body.split("\n\n")).toHaveLength(2);
  });
  test("one's own take names in braces; what is no name stays; a subject is one line", () => {
    expect(
      messageTexts(
        "raised",
        [one],
        { subject: "{machine}\n{rule} {nothing}", body: "{value} of {limit} ({furthest}), {lasted}, {tile}, {count}" },
        text,
        3 * minute,
      ),
    ).toEqual({ subject: "vault pool nearly full {nothing}", text: "91.4 % of 90 % (92 %), 3 min, http://n/t, 1" });
  });
  test("a value cannot bring names of its own", () =>
    expect(
      messageTexts(
        "raised",
        [{ ...one, incident: { ...view, ruleName: "{machine}" } }],
        { subject: "{rule}", body: "" },
        text,
        0,
      ).subject,
    ).toBe("{machine}"));
});
