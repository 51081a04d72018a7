import { describe, expect, test } from "vitest";
import { type BriefingFacts, type BriefingLine, briefing, daysText, rangeText, factorWords } from "./briefing.ts";

const minute = 60_000;
const hour = 60 * minute;
const day = 24 * hour;
const now = Date.UTC(2026, 10, 24, 14, 0);
const machine = (name: string, silentMinutes?: number) => ({
  name,
  state: silentMinutes === undefined ? "reporting" : "silent",
  lastSampleAtMs: silentMinutes === undefined ? now : now - silentMinutes * minute,
});
const calmFacts: BriefingFacts = {
  nowMs: now,
  machines: [machine("vault"), machine("hive"), machine("mast")],
  incidents: [],
  fills: [],
  unusual: [],
  events: [],
};
const incident = (change: object) => ({
  id: 1,
  ruleId: 1,
  ruleName: "memory used of hive above 75 %",
  severity: "notice" as const,
  tags: { machine: "hive" },
  compare: "above" as const,
  limit: 75,
  unit: "%",
  raisedAtMs: now - 10 * minute,
  clearedAtMs: null,
  value: 76,
  furthest: 81.26,
  watch: "value" as const,
  acknowledgedBy: null,
  acknowledgedAtMs: null,
  snoozedUntilMs: null,
  quietId: null,
  closedBy: null,
  clearedValue: null,
  ended: null,
  ...change,
});
const event = (change: object) => ({
  id: 1,
  fromMs: now - 10 * hour,
  toMs: now - 9 * hour,
  kind: "backup",
  machine: "vault",
  text: "",
  tags: {},
  ...change,
});

const clock = (atMs: number) => new Date(atMs).toISOString().slice(11, 16);
const said = ({ pieces }: BriefingLine) =>
  pieces
    .map((piece) =>
      "text" in piece
        ? piece.text
        : piece.kind === "clock"
          ? clock(piece.atMs)
          : piece.kind === "span"
            ? `${clock(piece.fromMs)} to ${clock(piece.toMs)}`
            : "a Tuesday at 14",
    )
    .join("");
const told = (facts: Partial<BriefingFacts>) => briefing({ ...calmFacts, ...facts });

describe("each sentence, with the view and the window that show it", () => {
  test("a silent machine, since its last sample", () => {
    const [line] = told({ machines: [machine("vault"), machine("mast", 14)] });
    expect(said(line as BriefingLine)).toBe("mast has been silent for 14 min, since 13:46.");
    expect(line).toMatchObject({
      signal: "blind",
      severity: "urgent",
      path: "/machines/mast",
      window: { fromMs: now - 44 * minute, toMs: now },
    });
  });
  test("many silent machines are one sentence", () => {
    const lines = told({ machines: ["a", "b", "c", "d", "e"].map((name) => machine(name, 5)) });
    expect(said(lines[0] as BriefingLine)).toBe("5 machines are silent: a, b, c, d and others.");
    expect(lines.filter(({ signal }) => signal === "blind")).toHaveLength(1);
  });
  test("one never heard", () =>
    expect(said(told({ machines: [{ name: "desk", state: "silent", lastSampleAtMs: null }] })[0] as BriefingLine)).toBe(
      "desk has not been heard since Nubrel was started.",
    ));
  test.each([
    [{ lastAtMs: now - 3 * hour, problem: null }, undefined, undefined],
    [{ lastAtMs: now - 47 * hour, problem: null }, undefined, undefined],
    [
      { lastAtMs: now - 49 * hour, problem: null },
      "The last backup is overdue; the newest is of 2 days ago.",
      "urgent",
    ],
    [
      { lastAtMs: now - 30 * hour, problem: "the disk is full" },
      "The last backup failed; the newest is of yesterday.",
      "notice",
    ],
    [{ lastAtMs: null, problem: "the disk is full" }, "The last backup failed; there is none yet.", "urgent"],
    [{ lastAtMs: null, problem: null }, undefined, undefined],
  ] as const)("backups by the clock: %j", (backups, words, severity) => {
    const line = told({ backups }).find(({ path }) => path === "/sources/condition");
    expect(line && said(line)).toBe(words);
    expect(line?.severity).toBe(severity);
  });
  test("incidents of one machine together, the most urgent first", () => {
    const lines = told({
      incidents: [
        incident({}),
        incident({ id: 2, severity: "urgent", ruleName: "disk of hive above 90 %", furthest: 97 }),
        incident({ id: 3, tags: { machine: "vault" } }),
        incident({ id: 4, compare: "silent" }),
      ],
    });
    expect(lines.map(said)).toEqual([
      "disk of hive above 90 %: 97 % at the furthest, since 13:50, and one more there.",
      "memory used of hive above 75 %: 81.3 % at the furthest, since 13:50.",
    ]);
    expect(lines.map(({ severity, path }) => [severity, path])).toEqual([
      ["urgent", "/machines/hive"],
      ["notice", "/machines/vault"],
    ]);
  });
  test.each([
    [
      0.914,
      11.4 * day,
      "vault: the pool archive is at 91.4 %, full in 10 to 12 days at this rate.",
      "raised",
      "notice",
    ],
    [0.5, 20 * day, "vault: the pool archive is at 50 %, full in 18 to 22 days at this rate.", "building", "notice"],
    [0.98, null, "vault: the pool archive is at 98 %.", "raised", "urgent"],
    [0.7, 30 * hour, "vault: the pool archive is at 70 %, full in 27 to 33 hours at this rate.", "raised", "urgent"],
    [0.95, 400 * day, "vault: the pool archive is at 95 %.", "raised", "notice"],
  ] as const)("a volume at %d, full in about %s ms", (share, likelyMs, words, signal, severity) => {
    const [line] = told({
      fills: [
        {
          machine: "vault",
          what: "the pool archive",
          band: "pools",
          share,
          full: likelyMs === null ? null : { earliestMs: 0.9 * likelyMs, likelyMs, latestMs: 1.1 * likelyMs },
        },
      ],
    });
    expect(said(line as BriefingLine)).toBe(words);
    expect(line).toMatchObject({
      signal,
      severity,
      path: "/machines/vault#pools",
      window: { fromMs: now - 14 * day, toMs: now },
    });
  });
  test("a volume that has room is told of in calm only", () => {
    expect(
      told({
        fills: [
          {
            machine: "vault",
            what: "the pool archive",
            band: "pools",
            share: 0.6,
            full: { earliestMs: 99.2 * day, likelyMs: 99.5 * day, latestMs: 99.8 * day },
          },
        ],
      }).map(said),
    ).toEqual([
      "All 3 machines report; nothing else needs a look.",
      "The fullest is the pool archive of vault at 60 %, full in 99 days at this rate.",
    ]);
  });
  test("what is far from its usual", () => {
    const [line] = told({ unusual: [{ machine: "hive", words: "disk wait", band: "disks", factor: 3.1 }] });
    expect(said(line as BriefingLine)).toBe("hive: disk wait is three times its usual of this hour.");
    expect(line?.path).toBe("/machines/hive#disks");
  });
  test("works that overlapped, the last time; not those that follow one another, nor of two machines, nor notes", () => {
    const scan = event({ kind: "integrity scan", fromMs: now - 9.5 * hour, toMs: now - 8 * hour });
    const lines = told({
      events: [
        event({}),
        scan,
        event({ machine: "hive", kind: "dump" }),
        event({ kind: "note" }),
        event({ kind: "later", fromMs: now - 8 * hour, toMs: now - 7 * hour }),
      ],
    });
    expect(lines.filter(({ window }) => window !== null).map(said)).toEqual([
      "Backup and integrity scan on vault overlapped, 04:30 to 05:00.",
    ]);
  });
  test("the last outage", () =>
    expect(
      said(
        told({
          events: [event({ kind: "power loss", machine: "ups", text: "The mains were away for 11 minutes" })],
        })[0] as BriefingLine,
      ),
    ).toBe("The mains were away for 11 minutes (ups), 04:00."));
});

describe("the whole", () => {
  test("two sentences at least where there is anything to say, six at most, the most pressing first", () => {
    const many = told({
      machines: [machine("mast", 14)],
      incidents: ["a", "b", "c", "d"].map((name, id) => incident({ id, tags: { machine: name } })),
      fills: [{ machine: "vault", what: "the pool archive", band: "pools", share: 0.99, full: null }],
      unusual: [{ machine: "hive", words: "disk wait", band: "disks", factor: 3 }],
    });
    expect(many.map(({ severity, signal }) => [severity, signal])).toEqual([
      ["urgent", "blind"],
      ["urgent", "raised"],
      ["notice", "raised"],
      ["notice", "raised"],
      ["notice", "raised"],
      ["notice", "raised"],
    ]);
    expect(briefing({ ...calmFacts, machines: [] }).map(said)).toEqual(["Nothing has reported yet."]);
  });
  test.each([
    [hour, "an hour"],
    [30 * hour, "30 hours"],
    [2 * day, "2 days"],
    [11.9 * day, "11 days"],
    [800 * day, "2 years"],
  ])("%d ms is %s", (ms, words) => expect(daysText(ms)).toBe(words));
  test.each([
    [20 * hour, 30 * hour, "20 to 30 hours"],
    [40 * hour, 3.5 * day, "40 hours to 3 days"],
    [hour, 5 * hour, "an hour to 5 hours"],
    [9.2 * day, 9.8 * day, "9 days"],
  ])("from %d to %d ms is %s", (earliestMs, latestMs, words) =>
    expect(rangeText({ earliestMs, likelyMs: earliestMs, latestMs })).toBe(words),
  );
  test.each([
    [1.8, "twice"],
    [2.6, "three times"],
    [10.2, "ten times"],
    [27.4, "27 times"],
    [Number.POSITIVE_INFINITY, "more than 100 times"],
  ])("a factor of %d is %s", (factor, words) => expect(factorWords(factor)).toBe(words));
});

test("the month's least steady machine and the steadiest come last, where there is a difference", () => {
  const of = (lowest: readonly (readonly [string, number])[]) =>
    briefing({
      nowMs: 40 * 24 * hour,
      machines: [],
      incidents: [],
      fills: [],
      unusual: [],
      events: [],
      steadiness: lowest.map(([machine, value]) => ({ machine, lowest: value, atMs: 25 * 24 * hour })),
    }).filter(({ path }) => path === "/steadiness");
  const words = ([line]: readonly BriefingLine[]) =>
    line?.pieces.map((piece) => ("text" in piece ? piece.text : "")).join("");
  expect(
    words(
      of([
        ["hive", 100],
        ["vault", 59.4],
        ["gate", 97],
      ]),
    ),
  ).toBe(
    "In the last 30 days vault was the least steady, down to 59 of 100 15 days ago; hive was disturbed by nothing.",
  );
  expect(
    words(
      of([
        ["hive", 96],
        ["vault", 80],
      ]),
    ),
  ).toContain("hive was the steadiest, never below 96.");
  expect(
    of([
      ["hive", 88],
      ["vault", 86],
    ]),
  ).toEqual([]);
  expect(of([["vault", 50]])).toEqual([]);
});
