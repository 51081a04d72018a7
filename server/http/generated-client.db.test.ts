import { execFile } from "node:child_process";
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { promisify } from "node:util";
import openapiTS, { astToString } from "openapi-typescript";
import { afterAll, beforeAll, expect, test } from "vitest";
import { projectRoot } from "../project-root.ts";
import { type OwnedServer, ownedServer } from "../testing/owned-server.ts";

// A client that a standard generator makes of /api/openapi.json: it compiles, finds a wrong question when it is
// compiled, and reads.
let here: OwnedServer;
let folder: string;
let token: string;
beforeAll(async () => {
  here = await ownedServer({ NUBREL_MACHINE: "playout", NUBREL_GATHER_MS: "1000" });
  token = (await here.owner.ask("POST", "/api/tokens", { name: "a client", scope: "read" })).body.token;
  mkdirSync(join(projectRoot, ".cache"), { recursive: true });
  folder = mkdtempSync(join(projectRoot, ".cache/client-"));
  const { body } = await here.owner.ask("GET", "/api/openapi.json");
  writeFileSync(join(folder, "api.ts"), astToString(await openapiTS(body)));
});
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true });
  await here.close();
});

const client = (counter: string) => `import createClient from "openapi-fetch";
import type { paths } from "./api.ts";

export async function read(baseUrl: string, token: string, from: number, to: number): Promise<readonly number[]> {
  const client = createClient<paths>({ baseUrl, headers: { Authorization: \`Bearer \${token}\` } });
  const { data, error } = await client.POST("/api/readings", {
    body: { window: { from, to }, step: 1, sentences: { memory: { counter: ${counter}, lines: "together" } } },
  });
  if (error) throw new Error(error.detail);
  return data.lines.flatMap(({ values }) => values.filter((value) => value !== null));
}
`;
const compile = (file: string) =>
  promisify(execFile)(join(projectRoot, "node_modules/typescript-native/bin/tsc"), [
    ...["--ignoreConfig", "--noEmit", "--strict", "--skipLibCheck", "--target", "es2022", "--module", "nodenext"],
    ...["--allowImportingTsExtensions", "--lib", "es2023,dom", join(folder, file)],
  ]);

test("it compiles, and reads what was gathered", async () => {
  writeFileSync(join(folder, "client.ts"), client('"system.memory.usage"'));
  await compile("client.ts").catch((error: { stdout: string }) => expect(error.stdout).toBe(""));
  const { read } = (await import(join(folder, "client.ts"))) as {
    read(base: string, token: string, from: number, to: number): Promise<readonly number[]>;
  };
  await expect
    .poll(() => read(here.server.address, token, Date.now() - 30_000, Date.now()), { timeout: 15_000 })
    .toContainEqual(expect.any(Number));
  await expect(read(here.server.address, token, 2, 1)).rejects.toThrow("must");
}, 60_000);

test("a question of another form does not compile", async () => {
  writeFileSync(join(folder, "wrong.ts"), client("7"));
  await expect(compile("wrong.ts")).rejects.toThrow();
}, 60_000);
