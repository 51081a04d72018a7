import { describe, expect, test } from "vitest";
import { ledgerChoiceOf } from "./ledger-choice.ts";
import { defaultColumns } from "./ledger-columns.ts";

const defaults = { columns: defaultColumns, where: [], group: "", sort: "name", open: [] };

describe("how the ledger is arranged, from a text that anybody may have written", () => {
  test("what was chosen is found again", () => {
    const choice = {
      columns: ["network", "load"],
      where: [
        { tag: "site", not: ["rack"] },
        { tag: "machine", like: "v*" },
      ],
      group: "site",
      sort: "-network",
      open: ["hive"],
    };
    expect(ledgerChoiceOf(JSON.stringify(choice))).toEqual(choice);
  });
  test("a part that is left out is as usual", () =>
    expect(ledgerChoiceOf('{"group":"role"}')).toEqual({ ...defaults, group: "role" }));
  test.each([null, "", "{", "null", "[]", "7", '"x"', "{}"])("%j is the usual", (text) =>
    expect(ledgerChoiceOf(text)).toEqual(defaults),
  );
  test.each([
    ['{"columns":[]}', "no column"],
    ['{"columns":["nothing such"]}', "an unknown column"],
    ['{"columns":"processor"}', "columns that are no list"],
    ['{"columns":[1,2]}', "columns that are no texts"],
    ['{"where":[{"is":["x"]}]}', "a condition without a tag"],
    ['{"where":[{"tag":"site","is":"x"}]}', "values that are no list"],
    ['{"where":[{"tag":"site","like":5}]}', "a pattern that is no text"],
    ['{"where":[null]}', "a condition that is nothing"],
    ['{"group":5,"sort":{},"open":"hive"}', "other kinds"],
  ])("%s (%s) is the usual", (text) => expect(ledgerChoiceOf(text)).toEqual(defaults));
  test("of columns, those that are known stay in their order", () =>
    expect(ledgerChoiceOf('{"columns":["power","gone","memory"]}').columns).toEqual(["power", "memory"]));
});
