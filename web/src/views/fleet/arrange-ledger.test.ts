import { describe, expect, test } from "vitest";
import { arrangeLedger, type Arrangement, nextSort } from "./arrange-ledger.ts";
import { countersOf, ledgerColumns, ofEveryMachine, defaultColumns } from "./ledger-columns.ts";

const machine = (name: string, site: string | undefined, value: number | null, state = "reporting") => ({
  name,
  friendlyName: "",
  state,
  tags: site === undefined ? {} : { site },
  value,
});
const fleet = [
  machine("vault", "rack", 5),
  machine("mast", "hill", null, "silent"),
  machine("desk2", "studio", 9),
  machine("desk10", "studio", 5),
  machine("ups", undefined, 1),
];
const arranged = (change: Partial<Arrangement>) =>
  arrangeLedger(fleet, { columns: [], where: [], group: "", sort: "name", ...change }, ({ value }) => value).map(
    ({ value, machines }) => [value, machines.map(({ name }) => name).join(" ")],
  );

describe("the ledger is arranged", () => {
  test.each([
    ["by name, numbers as numbers", {}, [[undefined, "desk2 desk10 mast ups vault"]]],
    ["by name, backwards", { sort: "-name" }, [[undefined, "vault ups mast desk10 desk2"]]],
    [
      "the highest first, those without a value last, equal ones by name",
      { sort: "-x" },
      [[undefined, "desk2 desk10 vault ups mast"]],
    ],
    ["the lowest first, those without a value last", { sort: "x" }, [[undefined, "ups desk10 vault desk2 mast"]]],
    [
      "in groups by a tag, those without it last",
      { group: "site", sort: "-x" },
      [
        ["hill", "mast"],
        ["rack", "vault"],
        ["studio", "desk2 desk10"],
        ["", "ups"],
      ],
    ],
    ["where a tag is", { where: [{ tag: "site", is: ["studio", "hill"] }] }, [[undefined, "desk2 desk10 mast"]]],
    [
      "where a tag is not: those without it stay",
      { where: [{ tag: "site", not: ["studio"] }] },
      [[undefined, "mast ups vault"]],
    ],
    [
      "by state and name",
      {
        where: [
          { tag: "state", is: ["reporting"] },
          { tag: "machine", like: "desk*" },
        ],
      },
      [[undefined, "desk2 desk10"]],
    ],
    ["nothing fits", { where: [{ tag: "site", is: ["moon"] }] }, [[undefined, ""]]],
  ] as readonly (readonly [string, Partial<Arrangement>, unknown])[])("%s", (_, change, expected) =>
    expect(arranged(change)).toEqual(expected),
  );

  test("a head that is pressed sorts the highest first, the lowest, and by name again", () => {
    expect([
      nextSort("name", "load"),
      nextSort("-load", "load"),
      nextSort("load", "load"),
      nextSort("-x", "load"),
      nextSort("name", "name"),
      nextSort("-x", "name"),
    ]).toEqual(["-load", "load", "name", "-load", "-name", "name"]);
  });
});

describe("columns", () => {
  test("the usual ones exist; every one reads something and speaks of no machine", () => {
    expect(defaultColumns.filter((id) => !ledgerColumns.some((column) => column.id === id))).toEqual([]);
    for (const column of ledgerColumns) {
      expect(countersOf(column).length > 0).toBe(column.workedOut === undefined);
      for (const { sentences } of ofEveryMachine(column))
        for (const { where } of Object.values(sentences))
          expect(where?.some(({ tag }) => tag === "machine") ?? false).toBe(false);
    }
  });
});
