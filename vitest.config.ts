import { defineConfig } from "vitest/config";

/** What every project shares: files of one worker share what they import, which is a third of the time of many. */
const shared = { isolate: false, setupFiles: ["core/testing/seeded-properties.ts"] };

export default defineConfig({
  test: {
    projects: [
      {
        test: {
          ...shared,
          name: "unit",
          include: [
            "core/**/*.test.ts",
            "server/**/*.test.ts",
            "standins/**/*.test.ts",
            "web/src/**/*.test.{ts,tsx}",
            "scripts/**/*.test.ts",
          ],
          exclude: ["**/*.db.test.ts", "node_modules/**"],
          testTimeout: 30_000,
          maxWorkers: 2,
        },
      },
      {
        test: {
          ...shared,
          name: "database",
          include: ["server/**/*.db.test.ts"],
          testTimeout: 30_000,
          hookTimeout: 30_000,
          maxWorkers: 2,
        },
      },
      {
        test: {
          ...shared,
          name: "browser",
          include: ["e2e/*.test.ts"],
          testTimeout: 120_000,
          hookTimeout: 120_000,
          maxWorkers: 2,
        },
      },
      {
        test: {
          ...shared,
          name: "package",
          include: ["packaging/*.test.ts"],
          fileParallelism: false,
        },
      },
      {
        test: {
          // What looks at this machine's own load must be alone on it.
          ...shared,
          name: "browser-alone",
          include: ["e2e/alone/*.test.ts"],
          testTimeout: 120_000,
          hookTimeout: 120_000,
          fileParallelism: false,
        },
      },
    ],
  },
});
