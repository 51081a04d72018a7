import { createECDH, randomBytes } from "node:crypto";
import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { HttpClient } from "../testing/http-client.ts";
import { type OwnedServer, ownedServer, serverOn } from "../testing/owned-server.ts";

let owned: OwnedServer;
let service: Server;
let took = 0;
let answer = 201;
const folder = mkdtempSync(join(tmpdir(), "nubrel-devices-"));
const env = { NUBREL_KEY_FILE: join(folder, "secrets.key") };

beforeAll(async () => {
  owned = await ownedServer(env);
  service = createServer((request, response) => {
    took++;
    request.resume().on("end", () => response.writeHead(answer).end());
  });
  await new Promise<void>((resolve) => service.listen(0, "127.0.0.1", resolve));
});
afterAll(async () => {
  service.close();
  await owned.close();
  rmSync(folder, { recursive: true, force: true });
});

const origin = () => `http://127.0.0.1:${(service.address() as AddressInfo).port}`;
const subscription = (at = origin()) => {
  const browser = createECDH("prime256v1");
  return JSON.stringify({
    endpoint: `${at}/push/kestrel`,
    keys: { p256dh: browser.generateKeys("base64url"), auth: randomBytes(16).toString("base64url") },
  });
};
const wish = (more: object = {}) => ({
  ...{ name: "Ines' telephone", kind: "device", device: { service: origin() }, secret: subscription() },
  ...more,
});

test("the key by which the server is known stays the same, also after a restart, and is no secret's", async () => {
  const { body } = await owned.owner.ask("GET", "/api/push-key");
  // An uncompressed point of P-256 (SEC 1, 2.3.3): 65 bytes from 4 on.
  const point = Buffer.from(body.key, "base64url");
  expect([point.length, point[0]]).toEqual([65, 4]);
  await owned.server.close();
  const next = await serverOn(owned.db, env);
  const owner = new HttpClient(next.address);
  owner.cookie = owned.owner.cookie;
  const close = async () => {
    await next.close();
    await owned.db.drop();
  };
  owned = { ...owned, server: next, owner, close };
  expect((await owner.ask("GET", "/api/push-key")).body).toEqual(body);
  const { rows } = await owned.db.database.query("select value::text as text from setting where name = 'push keys'");
  expect(rows[0].text).not.toContain(body.key);
});

describe("a browser as a recipient", () => {
  let id = 0;
  test("adds itself by its subscription, which is never shown", async () => {
    const made = await owned.owner.ask("POST", "/api/recipients", wish(), { "user-agent": "kestrel/1.0" });
    expect(made).toMatchObject({
      status: 201,
      body: { kind: "device", device: { service: origin(), words: "kestrel/1.0" }, hasSecret: true },
    });
    id = made.body.id;
    const listed = JSON.stringify((await owned.owner.ask("GET", "/api/recipients")).body);
    expect(listed).not.toContain("/push/kestrel");
    const { rows } = await owned.db.database.query("select settings::text as text, secret from recipient");
    expect(rows[0].text + String(rows[0].secret)).not.toContain("/push/kestrel");
  });
  test("is tried, changed in its name alone, and tried again", async () => {
    const { body } = await owned.owner.ask("GET", "/api/recipients");
    const { id: _, hasSecret, failingSinceMs, failure, ...settings } = body[0];
    expect([hasSecret, failingSinceMs, failure]).toEqual([true, null, null]);
    const tried = await owned.owner.ask("POST", "/api/recipients/try", { ...settings, id });
    expect(tried.body).toEqual({ worked: true, answer: "HTTP 201" });
    expect(took).toBe(1);
    const renamed = await owned.owner.ask("PUT", `/api/recipients/${id}`, { ...settings, name: "telephone" });
    expect(renamed.body).toMatchObject({ name: "telephone", hasSecret: true, device: { words: "kestrel/1.0" } });
    answer = 410;
    const gone = await owned.owner.ask("POST", "/api/recipients/try", { ...settings, id });
    expect(gone.body).toMatchObject({ worked: false, answer: expect.stringContaining("takes no more") });
  });
});

test.each([
  [() => ({ secret: "hello" }), "secret"],
  [() => ({ secret: subscription("http://elsewhere.example") }), "secret"],
  [() => ({ device: { service: "nowhere" } }), "device.service"],
  [() => ({ device: null }), "device"],
  [() => ({ kind: "webhook", webhook: { url: origin() } }), "device"],
])("what is no browser's is told at its field (%#)", async (more, path) => {
  const { status, body } = await owned.owner.ask("POST", "/api/recipients", wish(more()));
  expect(status).toBe(422);
  expect(body.errors.map((error: { path: string }) => error.path)).toContain(path);
});
