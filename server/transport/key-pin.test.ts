import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { createServer, type Server } from "node:https";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { Agent, request } from "undici";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { pinnedToKey } from "./key-pin.ts";

// Keys and pins are made by Debian's openssl, the pin by the recipe of curl's manual (CURLOPT_PINNEDPUBLICKEY).

const folder = mkdtempSync(join(tmpdir(), "nubrel-pin-"));
let server: Server;

const shell = (line: string) =>
  execFileSync("/bin/sh", ["-c", line], { cwd: folder, encoding: "utf8", stdio: "pipe" }).trim();
const certificateOf = (key: string, name: string, days: number) =>
  shell(`openssl req -new -x509 -key ${key} -subj /CN=${name} -days ${days} -out ${name}.crt`);
const pinOf = (key: string) =>
  `sha256//${shell(`openssl pkey -in ${key} -pubout -outform der | openssl dgst -sha256 -binary | openssl enc -base64`)}`;

beforeAll(async () => {
  shell("openssl ecparam -name prime256v1 -genkey -noout -out ec.key");
  shell("openssl genrsa -out rsa.key 2048");
  certificateOf("ec.key", "one", 10);
  certificateOf("ec.key", "renewed", 20);
  certificateOf("rsa.key", "other", 10);
  server = createServer((_request, response) => response.end("here"));
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
});
afterAll(() => {
  server.close();
  rmSync(folder, { recursive: true, force: true });
});

async function ask(pin: string): Promise<string> {
  const agent = new Agent({ connect: pinnedToKey(pin, 5000) });
  try {
    const { port } = server.address() as AddressInfo;
    return await (await request(`https://127.0.0.1:${port}/`, { dispatcher: agent })).body.text();
  } finally {
    await agent.destroy();
  }
}
const shows = (key: string, name: string) =>
  server.setSecureContext({ key: readFileSync(join(folder, key)), cert: readFileSync(join(folder, `${name}.crt`)) });

describe("a pinned key", () => {
  test.each([
    ["ec.key", "one"],
    ["ec.key", "renewed"],
    ["rsa.key", "other"],
  ])("%s is believed with the certificate %s, whose name and issuer nobody knows", async (key, name) => {
    shows(key, name);
    expect(await ask(pinOf(key))).toBe("here");
  });
  test("another key is refused before anything is asked", async () => {
    shows("rsa.key", "other");
    await expect(ask(pinOf("ec.key"))).rejects.toThrow("another key");
  });
});
