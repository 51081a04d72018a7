import { expect, test } from "vitest";
import type { UpkeepView } from "../../../../core/api/condition.ts";
import { warningsOf } from "./upkeep-part.tsx";

const inOrder: UpkeepView = {
  tables: [{ name: "chunk", parts: 30, sizeBytes: 5e9, rows: 1e6, deadRows: 1e5, cleanedAtMs: null }],
  ageShare: 0.2,
  isAutovacuumOn: true,
  mostWalBytes: 512e6,
  keptWalBytes: 100e6,
  mostKeptWalBytes: 8e9,
  lostSlots: [],
  tempBytes: 0,
  tempFiles: 0,
  mostTempBytes: 4e9,
};
test.each([
  ["all is in order", {}, []],
  ["autovacuum is off", { isAutovacuumOn: false }, ["Autovacuum is off"]],
  ["transactions are old", { ageShare: 0.95 }, ["Its transactions are nearly"]],
  ["a standby is away", { keptWalBytes: 2e9 }, ["before so much is kept that no more is"]],
  ["a standby is away for good", { keptWalBytes: 2e9, mostKeptWalBytes: null }, ["until the disk is full"]],
  ["a standby was given up", { lostSlots: ["beside"] }, ["pg_drop_replication_slot('beside')"]],
  [
    "rows are left behind in a large table, and in a small one",
    {
      tables: [
        { name: "chunk", parts: 1, sizeBytes: 5e9, rows: 10, deadRows: 11, cleanedAtMs: null },
        { name: "journal", parts: 1, sizeBytes: 5e9, rows: 10, deadRows: 90, cleanedAtMs: 99.5 * 86_400_000 },
        { name: "rule", parts: 1, sizeBytes: 1e6, rows: 1, deadRows: 9, cleanedAtMs: null },
      ],
    },
    ["More than half of the rows in chunk"],
  ],
])("what is told where %s", (_, change, warnings) => {
  const told = warningsOf({ ...inOrder, ...change }, 100 * 86_400_000);
  expect(told.length).toBe(warnings.length);
  for (const [i, warning] of warnings.entries()) expect(told[i]).toContain(warning);
});
