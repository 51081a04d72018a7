import { expect, test } from "vitest";
import type { CounterView } from "../../../../core/api/counters.ts";
import { insteadColumns } from "./instead-columns.ts";
import { ledgerColumns } from "./ledger-columns.ts";

const counter = (name: string, machines: readonly string[], kind: CounterView["kind"] = "level") =>
  ({ name, machines, kind, words: name, unit: "1", tags: [] }) as unknown as CounterView;
const chosen = ledgerColumns.filter(({ id }) => ["processor", "memory"].includes(id));

test("a machine without any of the columns shows what it has: what is known first, then its own levels, no totals", () => {
  const found = insteadColumns(chosen, [
    counter("system.cpu.time", ["hive"], "total"),
    counter("hw.temperature", ["hive", "ups"]),
    counter("hw.battery.charge", ["ups"]),
    counter("ups.load", ["ups"]),
    counter("ups.input.failures", ["ups"], "total"),
    counter("link_quality", ["mast"]),
    counter("nubrel.samples.taken", ["mast"]),
  ]);
  expect([...found].map(([machine, columns]) => [machine, columns.map(({ id }) => id)])).toEqual([
    ["ups", ["battery", "temperature", "counter ups.load"]],
    ["mast", ["counter link_quality"]],
  ]);
});

test("no machine has more than fit, and one with nothing at all has none", () => {
  const many = Array.from({ length: 30 }, (_, i) => counter(`mine.${i}`, ["mast"]));
  expect(insteadColumns(chosen, many).get("mast")).toHaveLength(5);
  expect(insteadColumns(chosen, [counter("x", ["mast"], "total")]).size).toBe(0);
});
