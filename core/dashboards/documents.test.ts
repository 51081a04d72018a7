import { describe, expect, test } from "vitest";
import { dashboardChanges } from "./compare.ts";
import { type Dashboard, emptyDashboard, type Tile } from "./dashboard.ts";
import { passedLimit } from "./limits.ts";
import { type KnownCounter, matched, missingHere } from "./match-here.ts";
import { noteParts } from "./note-parts.ts";
import { figureOfLine, figuresOfLines } from "./shown-figures.ts";
import { stateSpells } from "./states.ts";
import { unknownFields } from "../forms/form.ts";
import { dashboardForm } from "./dashboard-form.ts";

const tile = (id: string, more: Partial<Tile> = {}): Tile => ({
  id,
  title: id,
  kind: "lines",
  place: { x: 0, y: 0, width: 4, height: 4 },
  ...more,
});
const board = (...tiles: readonly Tile[]): Dashboard => ({ ...emptyDashboard("Studio"), tiles });

describe("two versions", () => {
  test.each<[string, Dashboard, Dashboard, readonly string[]]>([
    [
      "alike but for the order of fields",
      board(tile("a", { text: "x", most: 3 })),
      board({ ...tile("a"), most: 3, text: "x" }),
      [],
    ],
    ["another title", board(), { ...board(), title: "On air" }, ['the title was "Studio" and is "On air"']],
    ["one added, one removed", board(tile("a")), board(tile("b")), ['"b" was added', '"a" was removed']],
    [
      "moved and drawn otherwise",
      board(tile("a")),
      board(tile("a", { kind: "bars", place: { x: 1, y: 0, width: 4, height: 4 } })),
      ['"a" changed: how it is drawn, its place'],
    ],
    [
      "something of a newer version",
      board(tile("a")),
      board({ ...tile("a"), glow: 1 } as Tile),
      ['"a" changed: something that this version does not know'],
    ],
    [
      "pickers",
      board(),
      { ...board(), pickers: [{ id: "m", tag: "machine", choose: "one" }] },
      ["the pickers changed"],
    ],
  ])("%s", (_, before, after, said) => expect(dashboardChanges(before, after)).toEqual(said));
});

describe("a file from elsewhere", () => {
  const known: readonly KnownCounter[] = [
    {
      name: "system.memory.usage",
      unit: "By",
      tags: [
        { tag: "machine", values: ["vault", "hive"] },
        { tag: "state", values: ["used", "free"] },
      ],
    },
    { name: "system.memory.limit", unit: "By", tags: [{ tag: "machine", values: ["vault", "hive"] }] },
  ];
  const reads = (counter: string, ...is: readonly string[]): Tile =>
    tile(counter, { reading: { sentences: { a: { counter, where: [{ tag: "machine", is }] } } } });
  test("tells which counters and values are not here, which tiles read them, and what is likest", () => {
    const missing = missingHere(
      board(reads("system.memory.used", "vault"), reads("system.memory.usage", "vaults")),
      known,
      100,
    );
    expect(missing.map(({ kind, name, value, tiles, choices }) => [kind, name, value, tiles, choices[0]])).toEqual([
      ["counter", "system.memory.used", undefined, ["system.memory.used"], "system.memory.usage"],
      ["value", "machine", "vaults", ["system.memory.usage"], "vault"],
    ]);
  });
  test("what is chosen stands in their place, everything else stays", () => {
    const made = matched(board(reads("system.memory.used", "vaults"), tile("n", { text: "system.memory.used" })), {
      "system.memory.used": "system.memory.usage",
      "machine=vaults": "vault",
    });
    expect(made.tiles[0]?.reading?.sentences["a"]).toEqual({
      counter: "system.memory.usage",
      where: [{ tag: "machine", is: ["vault"] }],
    });
    expect(made.tiles[1]).toEqual(tile("n", { text: "system.memory.used" }));
  });
  test("of a tag with more values than are known nothing is called missing", () =>
    expect(missingHere(board(reads("system.memory.usage", "elsewhere")), known, 2)).toEqual([]));
  test("what is no sentence at all does not stop the looking: the server says what is wrong", () =>
    expect(
      missingHere(
        board(tile("a", { reading: { sentences: { a: null as never, b: { counter: 7 as never } } } })),
        known,
        100,
      ),
    ).toEqual([]));
  test("fields that this version does not know are told by where they stand", () =>
    expect(
      unknownFields(dashboardForm, {
        format: "f",
        mood: 1,
        start: { lastSeconds: 1, slow: 1 },
        pickers: [{ id: "a", hue: 1 }],
        tiles: [{ id: "a", place: { z: 1 }, meter: { glow: 1, min: 0 } }],
      }),
    ).toEqual(["mood", "start.slow", "pickers[0].hue", "tiles[0].place.z", "tiles[0].meter.glow"]));
});

describe("a note", () => {
  test.each([
    ["plain", ["plain"]],
    ["{used}", [{ name: "used", shows: "last", isPercent: false }]],
    [
      "at {used highest}, then {figure mean}.",
      [
        "at ",
        { name: "used", shows: "max", isPercent: false },
        ", then ",
        { name: "figure", shows: "mean", isPercent: false },
        ".",
      ],
    ],
    ["{used often} {1}", ["{used often} {1}"]],
    ["at {charge %} of it", ["at ", { name: "charge", shows: "last", isPercent: true }, " of it"]],
    ["{charge highest %}", [{ name: "charge", shows: "max", isPercent: true }]],
    ["{% }", ["{% }"]],
  ])("%j", (text, parts) => expect(noteParts(text)).toEqual(parts));
});

describe("states over time", () => {
  const states = [
    { from: 1, words: "runs" },
    { from: 0, words: "off", signal: "notice" as const },
  ];
  test("steps in one state join; a gap is in none", () =>
    expect(
      stateSpells([1, 1, null, 0, 0, 1], 0, 10, states)?.map(({ fromMs, toMs, words, signal }) => [
        fromMs,
        toMs,
        words,
        signal,
      ]),
    ).toEqual([
      [0, 20, "runs", null],
      [30, 50, "off", "notice"],
      [50, 60, "runs", null],
    ]));
  test("below all of them it says so", () => expect(stateSpells([-2], 0, 10, states)?.[0]?.words).toBe("below 0"));
  test("limits make states; without either a few whole numbers do, and more are none", () => {
    expect(
      stateSpells([50, 95], 0, 10, [], [{ at: 90, compare: "above", severity: "urgent" }])?.map(({ words }) => words),
    ).toEqual(["within its limits", "urgent"]);
    expect(stateSpells([2, 3], 0, 10)?.map(({ words }) => words)).toEqual(["2", "3"]);
    expect(stateSpells([0.5], 0, 10)).toBeNull();
    expect(stateSpells([1, 2, 3, 4, 5, 6, 7, 8, 9], 0, 10)).toBeNull();
  });
});

test("a line's figure, hand-worked", () => {
  const line = {
    of: "a",
    tags: {},
    unit: "1",
    values: [null, 4, 1, null],
    last: 1,
    min: 1,
    max: 4,
    mean: 2.5,
    sum: { value: 5, unit: "h" },
  };
  expect((["last", "first", "min", "max", "mean", "sum"] as const).map((shows) => figureOfLine(line, shows))).toEqual([
    1, 4, 1, 4, 2.5, 5,
  ]);
  expect(figureOfLine({ ...line, sum: null }, "sum")).toBeNull();
  expect(figuresOfLines([line], "sum", () => "a").columns).toEqual([{ name: "a", unit: "h", least: 5, most: 5 }]);
});

test("the gravest passed limit counts", () =>
  expect(
    passedLimit(
      [
        { at: 1, compare: "above", severity: "urgent" },
        { at: 1, compare: "above", severity: "notice" },
      ],
      2,
    ),
  ).toBe("urgent"));
