import { expect, test } from "vitest";
import { findFigures, namedFigures } from "./named-figures.ts";

const all = namedFigures(
  [
    "system.cpu.time",
    "system.cpu.logical.count",
    "system.memory.usage",
    "system.memory.limit",
    "system.cpu.load_average",
  ].map((name) => ({ name })),
);

test("figures are of all machines, a line each, and only of what is gathered", () => {
  expect(all.map(({ id }) => id)).toEqual(expect.arrayContaining(["processor", "memory", "load"]));
  expect(all.map(({ id }) => id)).not.toContain("network");
  for (const { reading } of all)
    for (const { where = [], lines } of Object.values(reading.sentences)) {
      expect(where.some(({ tag }) => tag === "machine")).toBe(false);
      expect(JSON.stringify(lines)).toContain("machine");
    }
  expect(namedFigures([])).toEqual([]);
});

test.each([
  ["busy processor", "processor"],
  ["cpu", "processor"],
  ["ram", "memory"],
])("%j finds %s", (typed, id) => expect(findFigures(all, typed).map((one) => one.id)).toContain(id));
