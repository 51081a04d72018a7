import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { readBackup } from "../scripts/backup-file.mjs";
import { takeBackup, withPasswordFile } from "../scripts/backups.mjs";
import { findPostgres } from "../scripts/debian-packages.mjs";
import { projectRoot } from "./project-root.ts";
import { HttpClient } from "./testing/http-client.ts";
import { ownedServer, serverOn } from "./testing/owned-server.ts";
import { testDatabase } from "./testing/test-database.ts";
import { contentOf, fillVersion } from "./testing/version-content.ts";
import { version } from "./version.ts";

// Each released version left a backup of a small Nubrel, made by itself, and what it answered of it: this version opens
// every one of them and answers the same. With NUBREL_KEEP_VERSION=1 this version leaves its own (docs/recipes.md).
const kept = join(import.meta.dirname, "testing/versions");
const versions = readdirSync(kept).flatMap((name) =>
  name.endsWith(".backup") ? [name.slice(0, -".backup".length)] : [],
);
const password = "kestrel on the quay";

let folder: string;
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), "nubrel-version-"));
  mkdirSync(join(folder, "own"));
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

test.skipIf(process.env["NUBREL_KEEP_VERSION"] === undefined)(
  "this version leaves what later ones are held to",
  async () => {
    const made = await ownedServer({ NUBREL_KEY_FILE: join(folder, "own/secrets.key") });
    await fillVersion(made.owner, made.server.address);
    const content = await contentOf(made.owner);
    await made.server.close();
    const file = join(kept, `${version}.backup`);
    rmSync(file, { force: true });
    await takeBackup(file, { folder, url: made.db.url, bin: findPostgres() as string });
    writeFileSync(join(kept, `${version}.json`), `${JSON.stringify(content, null, 2)}\n`);
    await made.db.drop();
  },
);

test("every version that the changelog tells of has left one", () => {
  const told = [...readFileSync(join(projectRoot, "CHANGELOG.md"), "utf8").matchAll(/^## (\d+\.\d+\.\d+)/gm)];
  expect(versions.sort()).toEqual(told.map(([, one]) => one).sort());
});

test.each(versions)("what %s left is opened, and everything in it is as it was", async (one) => {
  const db = await testDatabase({ migrated: false });
  const code = await withPasswordFile(db.url, (bare: string, env: NodeJS.ProcessEnv) =>
    readBackup(
      join(kept, `${one}.backup`),
      folder,
      join(findPostgres() as string, "pg_restore"),
      ["--exit-on-error", "--no-owner", "--no-privileges", `--dbname=${bare}`],
      env,
    ),
  );
  expect(code).toBe(0);
  expect(existsSync(join(folder, "own/secrets.key"))).toBe(true);
  const server = await serverOn(db, { NUBREL_KEY_FILE: join(folder, "own/secrets.key") });
  try {
    const owner = new HttpClient(server.address);
    expect((await owner.ask("POST", "/api/session", { name: "Ines", password })).status).toBe(200);
    const before = JSON.parse(readFileSync(join(kept, `${one}.json`), "utf8"));
    expect(await contentOf(owner)).toEqual(before);
    expect(before.levels[0].values).not.toContain(null);
  } finally {
    await server.close();
    await db.drop();
  }
});
