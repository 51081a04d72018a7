import { copyFileSync, existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { SecretBox } from "../sources/secret-box.ts";
import { startOidcIssuer } from "../testing/oidc-issuer.ts";
import { ownedServer } from "../testing/owned-server.ts";
import { changeKey, nextOf, settleKey } from "./change-key.ts";

// Everything that a person can have Nubrel keep secret, sealed by the server itself; then every value of every table is
// tried with the key before and the key after.
let owned: Awaited<ReturnType<typeof ownedServer>>;
let folder: string;
let file: string;

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), "nubrel-keys-"));
  file = join(folder, "secrets.key");
  owned = await ownedServer({ NUBREL_KEY_FILE: file });
  const { owner } = owned;
  const issuer = await startOidcIssuer([]);
  const mail = {
    host: "127.0.0.1",
    port: 25,
    security: "none",
    user: "ines",
    from: "a@quay.example",
    to: ["b@quay.example"],
  };
  const made = [
    await owner.ask("POST", "/api/sources", {
      ...{ kind: "pull", name: "lamp", machine: "lamp", intervalMs: 60_000, address: { host: "127.0.0.1", port: 9 } },
      credentials: { kind: "basic", user: "ines", password: "secret of a source" },
    }),
    await owner.ask("POST", "/api/recipients", { name: "Ines", kind: "email", mail, secret: "secret of a recipient" }),
    await owner.ask("PUT", "/api/alerting", { heartbeatUrl: "http://127.0.0.1:9/secret" }),
    await owner.ask("POST", "/api/me/codes/begin"),
    await owner.ask("PUT", "/api/issuer", {
      ...{
        url: issuer.url,
        clientId: "nubrel",
        secret: "secret of an issuer",
        name: "the harbour",
        roles: { claim: "groups" },
      },
    }),
  ];
  await issuer.close();
  expect(made.map(({ status, body }) => (status < 300 ? "made" : body))).toEqual(made.map(() => "made"));
  await owned.db.database.query("update account set code_secret = code_pending");
});
afterAll(async () => {
  await owned.close();
  rmSync(folder, { recursive: true });
});

/** Every text, number of bytes and part of a document of every table that a key opens. */
async function openedBy(keyFile: string): Promise<readonly string[]> {
  const { database } = owned.db;
  const box = SecretBox.open(keyFile);
  const { rows: columns } = await database.query<{ table: string; column: string; type: string }>(
    `select table_name as table, column_name as column, data_type as type
     from information_schema.columns
     where table_schema = 'public' and data_type in ('text', 'bytea', 'jsonb')`,
  );
  const found: string[] = [];
  const attempt = (value: unknown): void => {
    if (typeof value === "string") attempt(Buffer.from(value, "base64"));
    else if (Buffer.isBuffer(value)) {
      try {
        found.push(box.unseal(value));
      } catch {
        // not sealed, or with another key
      }
    } else if (typeof value === "object" && value !== null) Object.values(value).forEach(attempt);
  };
  for (const { table, column } of columns) {
    const { rows } = await database.query<{ value: unknown }>(`select "${column}" as value from "${table}"`);
    for (const { value } of rows) attempt(value);
  }
  return found.sort();
}

describe("a change of the key", () => {
  let before: string;
  let kept: readonly string[];

  test("seals everything that was sealed, and nothing opens with the key before", async () => {
    before = join(folder, "before.key");
    copyFileSync(file, before);
    kept = await openedBy(file);
    expect(kept).toHaveLength(6);
    expect(await changeKey(owned.db.database, file)).toEqual({ changed: 6, lost: [] });
    expect(await openedBy(file)).toEqual(kept);
    expect(await openedBy(before)).toEqual([]);
    expect(existsSync(nextOf(file))).toBe(false);
  });

  test("tells whose cannot be opened, and leaves these", async () => {
    await owned.db.database.query("update issuer set secret = $1", [
      SecretBox.open(before).seal("of another key").toString("base64"),
    ]);
    expect(await changeKey(owned.db.database, file)).toEqual({ changed: 5, lost: ["the issuer"] });
    expect(await openedBy(before)).toEqual(["of another key"]);
  });

  test("cut short before everything was sealed, the key before stays", async () => {
    const own = readFileSync(file, "utf8");
    SecretBox.open(nextOf(file));
    await settleKey(owned.db.database, file);
    expect([readFileSync(file, "utf8") === own, existsSync(nextOf(file))]).toEqual([true, false]);
    writeFileSync(nextOf(file), "half of a ke");
    await settleKey(owned.db.database, file);
    expect([readFileSync(file, "utf8") === own, existsSync(nextOf(file))]).toEqual([true, false]);
  });

  test("cut short after everything was sealed, the next key holds", async () => {
    const own = join(folder, "own.key");
    copyFileSync(file, own);
    await changeKey(owned.db.database, file);
    copyFileSync(file, nextOf(file));
    copyFileSync(own, file);
    await settleKey(owned.db.database, file);
    expect((await openedBy(file)).length).toBe(5);
    expect(existsSync(nextOf(file))).toBe(false);
  });
});
