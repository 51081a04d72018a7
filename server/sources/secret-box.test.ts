import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, expect, test } from "vitest";
import { SealedError, SecretBox } from "./secret-box.ts";

let folder: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), "nubrel-box-"));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

test("the key is made once, for its owner alone, and opens what was sealed before a restart", () => {
  const file = join(folder, "secrets.key");
  const sealed = SecretBox.open(file).seal("kestrel ä€");
  const key = readFileSync(file, "utf8");
  expect(statSync(file).mode & 0o777).toBe(0o600);
  expect(SecretBox.open(file).unseal(sealed)).toBe("kestrel ä€");
  expect(readFileSync(file, "utf8")).toBe(key);
});
test("the same secret is sealed differently each time, and does not show", () => {
  const box = SecretBox.open(undefined);
  const [one, two] = [box.seal("on the quay"), box.seal("on the quay")];
  expect(one.equals(two)).toBe(false);
  expect(one.toString("latin1")).not.toContain("quay");
});
test("with another key, changed or cut short, nothing is opened, and the reader is told what to do", () => {
  const box = SecretBox.open(undefined);
  const sealed = box.seal("on the quay");
  expect(() => SecretBox.open(undefined).unseal(sealed)).toThrow(SealedError);
  for (let i = 0; i < sealed.length; i++) {
    const changed = Buffer.from(sealed);
    changed[i] = (changed[i] as number) ^ 1;
    expect(() => box.unseal(changed)).toThrow("Put back the key file of your backup, or enter the secret again.");
  }
  for (const length of [0, 5, 12, 20]) expect(() => box.unseal(sealed.subarray(0, length))).toThrow(SealedError);
});
test("a file that holds no key is not overwritten", () => {
  const file = join(folder, "broken.key");
  writeFileSync(file, "abc\n");
  expect(() => SecretBox.open(file)).toThrow("holds no key: 2 bytes, it should be 32");
  expect(readFileSync(file, "utf8")).toBe("abc\n");
});
