import { mkdtempSync, readFileSync, rmSync, statSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { relaySettings } from "./relay.mjs";

let folder: string;
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), "nubrel-relay-"));
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

const pin = `sha256//${"A".repeat(43)}=`;

describe("what a relay is started with", () => {
  test("a pasted line is kept for this account alone, and the next start needs none", () => {
    const first = relaySettings(folder, "https://nubrel.example:8970/at/home/", { token: "t-1", pin });
    expect(first).toEqual({ to: "https://nubrel.example:8970/at/home", token: "t-1", pin, folder, mostBytes: 2 ** 30 });
    expect(relaySettings(folder, undefined, {})).toEqual(first);
    expect(statSync(join(folder, "link.json")).mode & 0o777).toBe(0o600);
  });
  test("a new line takes the place of the one before, its pin too: another server has another key", () => {
    relaySettings(folder, "https://one.example", { token: "t-1", pin, room: "20M" });
    const second = relaySettings(folder, "https://two.example", { token: "t-2" });
    expect(second).toEqual({
      to: "https://two.example",
      token: "t-2",
      pin: undefined,
      folder,
      mostBytes: 20 * 2 ** 20,
    });
    expect(readFileSync(join(folder, "link.json"), "utf8")).not.toContain("t-1");
  });
  test.each([
    [undefined, {}, "paste the line"],
    ["nubrel.example", { token: "t" }, "no address"],
    ["ftp://nubrel.example", { token: "t" }, "no address"],
    ["https://nubrel.example", {}, "wants its token"],
    ["https://nubrel.example", { token: "t", pin: "sha256//abc" }, "no pin"],
    ["https://nubrel.example", { token: "t", room: "much" }, "no size"],
    ["https://nubrel.example", { token: "t", room: "0M" }, "no size"],
  ] as const)("%s %j: %s", (address, said, words) => {
    expect(() => relaySettings(folder, address, said)).toThrow(words);
    expect(() => statSync(join(folder, "link.json"))).toThrow();
  });
});
