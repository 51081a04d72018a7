import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, describe, expect, test } from "vitest";
import {
  backupsStand,
  certificate,
  clocksApart,
  databaseSettings,
  findingWords,
  kept,
  oldSenders,
  secret,
  space,
  versions,
} from "./doctor.mjs";

const folder = mkdtempSync(join(tmpdir(), "nubrel-doctor-"));
afterAll(() => rmSync(folder, { recursive: true }));
const day = 86_400_000;
const isWell = (finding: object) => !("todo" in finding);

test.each([
  ["20.19.0", true],
  ["20.18.9", false],
  ["18.20.4", false],
  ["22.0.0", true],
])("Node.js %s: %s", (node, well) => expect(isWell(versions(node))).toBe(well));

test.each([
  [100e9, 1000e9, true],
  [99e9, 1000e9, false],
  [0.9e9, 2e9, false],
  [1.1e9, 2e9, true],
])("%d free of %d bytes: %s", (free, all, well) =>
  expect(isWell(space("/srv", { bavail: free / 4096, blocks: all / 4096, bsize: 4096 }))).toBe(well),
);

test.each([
  [0o100600, true],
  [0o100400, true],
  [0o100640, false],
  [0o100604, false],
])("a secret with rights %o: %s", (mode, well) => expect(isWell(secret("/srv/key", mode))).toBe(well));

test("a clock that nobody keeps is told, one of which nothing is known is not judged", () => {
  expect([kept("yes"), kept("no"), kept("")].map(isWell)).toEqual([true, false, true]);
  expect([clocksApart(1999), clocksApart(-1999)]).toEqual([[], []]);
  expect(clocksApart(-90_000)[0]?.found).toBe("the database's machine is 90.0 s behind");
});

test("settings that can lose what was stored are told, each with what to do", () => {
  const safe = { fsync: "on", full_page_writes: "on", autovacuum: "on", data_checksums: "on", max_connections: "100" };
  expect(databaseSettings(safe).every(isWell)).toBe(true);
  const told = databaseSettings({ ...safe, fsync: "off", data_checksums: "off", max_connections: "10" });
  expect(told.map(({ found }) => found)).toEqual(["fsync is off", "data_checksums is off", "max_connections is 10"]);
  expect(told.some(isWell)).toBe(false);
});

test("a certificate's end, by one that openssl made for thirty days", () => {
  const file = join(folder, "c.pem");
  execFileSync(
    "openssl",
    [
      ...["req", "-x509", "-newkey", "ec", "-pkeyopt", "ec_paramgen_curve:prime256v1", "-nodes", "-subj", "/CN=quay"],
      ...["-days", "30", "-keyout", join(folder, "k.pem"), "-out", file],
    ],
    { stdio: "ignore" },
  );
  const pem = readFileSync(file);
  const made = Date.now();
  expect(certificate(file, pem, made + day)).toEqual({ what: "certificate", found: `${file} ends in 28 days` });
  expect(isWell(certificate(file, pem, made + 12 * day))).toBe(false);
  expect(certificate(file, pem, made + 40 * day).found).toMatch(/ended 1[01] days ago$/);
  expect(certificate(file, Buffer.from("no certificate"), made).found).toBe(`${file} cannot be read`);
});

test("backups: none, fresh, old", () => {
  const now = Date.UTC(2026, 4, 9);
  expect([undefined, now - day, now - 3 * day].map((at) => isWell(backupsStand("/b", at, now)))).toEqual([
    false,
    true,
    false,
  ]);
});

test("each finding is a line, what to do stands beneath it", () => {
  expect(
    findingWords([
      { what: "disk", found: "1.0 GB free" },
      { what: "rights", found: "key is 0644", todo: "chmod 600 key" },
    ]),
  ).toBe("  disk    1.0 GB free\n! rights  key is 0644\n          chmod 600 key");
});

describe("what sends", () => {
  const senders = [
    { name: "vault", kind: "collector", version: "0.2.0" },
    { name: "hive", kind: "collector", version: "0.1.0" },
    { name: "attic", kind: "collector", version: null },
    { name: "mast", kind: "relay", version: "0.1.0" },
  ];
  test("is told where it is of another version, or tells none", () => {
    expect(oldSenders(senders, "0.2.0").map(({ what, found }) => `${what}: ${found}`)).toEqual([
      "collector: hive is of version 0.1.0; this is 0.2.0",
      "collector: attic has told no version; this is 0.2.0",
      "relay: mast is of version 0.1.0; this is 0.2.0",
    ]);
    for (const found of oldSenders(senders, "0.2.0")) expect(found).toHaveProperty("todo");
  });
  test("is well where all are of this one, and nothing is said where there is none", () => {
    expect(oldSenders(senders.slice(0, 1), "0.2.0")).toEqual([
      { what: "collectors", found: "all 1 are of version 0.2.0" },
    ]);
    expect(oldSenders([], "0.2.0")).toEqual([]);
  });
});
