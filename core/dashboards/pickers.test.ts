import { describe, expect, test } from "vitest";
import type { Dashboard, Tile } from "./dashboard.ts";
import { choicesOf, effectivePicks, type Picker, pickedReading, pickWords } from "./pickers.ts";
import { shownTiles } from "./repeat-tiles.ts";

const site: Picker = { id: "site", tag: "site", choose: "several" };
const machine: Picker = { id: "machine", tag: "machine", choose: "several" };
const one: Picker = { id: "one", tag: "machine", choose: "one" };
const step: Picker = { id: "step", steps: [60, 300], choose: "one" };
const present = [
  { site: "studio", machine: "playout" },
  { site: "studio", machine: "desk" },
  { site: "mast", machine: "mast" },
  { machine: "gate" },
];

describe("what can be picked", () => {
  test("is what there is, in order", () =>
    expect(choicesOf(machine, [machine], {}, present)).toEqual(["desk", "gate", "mast", "playout"]));
  test("within what is picked above it", () =>
    expect(choicesOf(machine, [site, machine], { site: ["studio"] }, present)).toEqual(["desk", "playout"]));
  test("not within what is picked below it", () =>
    expect(choicesOf(site, [site, machine], { machine: ["mast"] }, present)).toEqual(["mast", "studio"]));
  test("and what is picked already, so that it can be taken back", () =>
    expect(choicesOf(machine, [site, machine], { site: ["mast"], machine: ["playout"] }, present)).toEqual([
      "mast",
      "playout",
    ]));
  test("a list of one's own keeps its order, without what the picks above exclude", () => {
    const own = { ...machine, values: ["mast", "playout", "buoy"] };
    expect(choicesOf(own, [own], {}, present)).toEqual(["mast", "playout", "buoy"]);
    expect(choicesOf(own, [site, own], { site: ["studio"] }, present)).toEqual(["playout", "buoy"]);
  });
  test("steps are their own list", () =>
    expect(choicesOf(step, [step], { step: ["900"] }, present)).toEqual(["60", "300", "900"]));
});

describe("what is picked in fact", () => {
  test("nothing said is all, or the one of which most is reported", () => {
    expect(effectivePicks([machine], {}, present)).toEqual({ machine: [] });
    expect(effectivePicks([one], {}, present, [4, 1, 2, 4])).toEqual({ one: ["gate"] });
    expect(effectivePicks([one], {}, [])).toEqual({ one: [] });
  });
  test("one of several that an address names is the first", () =>
    expect(effectivePicks([one], { one: ["mast", "desk"] }, present)).toEqual({ one: ["mast"] }));
  test("the one is chosen within the picks above", () =>
    expect(effectivePicks([site, one], { site: ["mast"] }, present, [9, 9, 1, 9])).toEqual({
      site: ["mast"],
      one: ["mast"],
    }));
});

describe("a reading within the picks", () => {
  const reading = {
    sentences: {
      used: { counter: "storage.pool.usage", where: [{ tag: "state", is: ["used"] }] },
      price: { counter: "tariff" },
    },
  };
  const has = (counter: string) => counter !== "tariff";
  test("has one more condition in each sentence whose counter has the tag", () => {
    const { reading: made, by } = pickedReading(reading, [machine], { machine: ["vault"] }, has);
    expect(made.sentences).toEqual({
      used: {
        counter: "storage.pool.usage",
        where: [
          { tag: "state", is: ["used"] },
          { tag: "machine", is: ["vault"] },
        ],
      },
      price: { counter: "tariff" },
    });
    expect(by).toEqual([machine]);
  });
  test("is as it was where all is picked, or the tile leaves the picker aside", () => {
    expect(pickedReading(reading, [machine], { machine: [] }, has)).toEqual({ reading, by: [] });
    expect(pickedReading(reading, [machine], { machine: ["vault"] }, has, ["machine"])).toEqual({ reading, by: [] });
  });
  test("has the picked step", () =>
    expect(pickedReading(reading, [step], { step: ["300"] }, has).reading).toMatchObject({ step: 300 }));
});

test.each([
  [machine, [], 7, "all"],
  [machine, ["vault"], 7, "vault"],
  [machine, ["vault", "hive"], 7, "vault and hive"],
  [machine, ["a", "b", "c"], 7, "3 of 7"],
  [step, [], 2, "as it suits"],
  [step, ["300"], 2, "5 min"],
] as const)("%o picked as %j of %d reads %s", (picker, picked, of, words) =>
  expect(pickWords(picker, picked, of)).toBe(words),
);

describe("tiles that repeat", () => {
  const tile = (id: string, more: Partial<Tile> = {}): Tile => ({
    id,
    title: id,
    kind: "lines",
    place: { x: 0, y: 0, width: 4, height: 5 },
    ...more,
  });
  const tiles: Dashboard["tiles"] = [
    tile("a", { repeat: "machine" }),
    tile("b", { place: { x: 0, y: 5, width: 12, height: 3 } }),
  ];
  const shown = (picks: readonly string[], choices: readonly string[] = []) =>
    shownTiles(tiles, [machine], { machine: picks }, () => choices);
  test("stand once for each pick, side by side and then below; others give way", () => {
    const all = shown(["w", "x", "y", "z"]);
    expect(all.map(({ tile: { id, title, place } }) => [id, title, place.x, place.y])).toEqual([
      ["a", "a, w", 0, 0],
      ["a~1", "a, x", 4, 0],
      ["a~2", "a, y", 8, 0],
      ["a~3", "a, z", 0, 5],
      ["b", "b", 0, 10],
    ]);
    expect(all.map(({ picks }) => picks["machine"])).toEqual([["w"], ["x"], ["y"], ["z"], ["w", "x", "y", "z"]]);
  });
  test("for all that can be picked where nothing is, at most 24 times", () => {
    expect(shown([], ["p", "q"]).map(({ tile: { title } }) => title)).toEqual(["a, p", "a, q", "b"]);
    expect(
      shown(
        [],
        Array.from({ length: 40 }, (_, i) => `m${i}`),
      ),
    ).toHaveLength(25);
  });
  test("stand once where there is nothing to pick", () =>
    expect(shown([]).map(({ tile: { id } }) => id)).toEqual(["a", "b"]));
});
