import { defineConfig } from "rolldown";

// The server as plain modules beside their packages: packages stay outside, so that native parts and worker files are
// found.
export default defineConfig({
  input: {
    start: "server/start.ts",
    demo: "bin/demo.ts",
    "world-worker": "bin/world-worker.ts",
    "past-worker": "bin/past-worker.ts",
    command: "server/command.ts",
    migrate: "server/migrate.ts",
    worker: "server/worker.ts",
    relay: "server/relay-main.ts",
  },
  platform: "node",
  external: [/^node:/, /^[^./]/],
  output: { dir: "dist/server", format: "esm", sourcemap: true, cleanDir: true },
});
