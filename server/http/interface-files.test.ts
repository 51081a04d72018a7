import { below } from "./below.ts";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import type { AddressInfo } from "node:net";
import { createServer } from "node:http";
import { tmpdir } from "node:os";
import { join } from "node:path";
import express from "express";
import { afterAll, beforeAll, expect, test } from "vitest";
import { interfacePage } from "./interface-files.ts";

const folder = mkdtempSync(join(tmpdir(), "nubrel-page-"));
const app = express();
app.use("/below", below("/nubrel"), interfacePage(folder, "/nubrel"));
app.use(interfacePage(folder));
const server = createServer(app);
let address = "";

beforeAll(async () => {
  writeFileSync(
    join(folder, "index.html"),
    '<!doctype html>\n<html lang="en">\n<head>\n    <link rel="stylesheet" href="./assets/a.css">\n    <link rel="preload" href="./api/me" as="fetch" crossorigin="">\n  </head>',
  );
  await new Promise<void>((done) => server.listen(0, "127.0.0.1", done));
  address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => {
  server.close();
  rmSync(folder, { recursive: true });
});

// HTML Living Standard, 4.6.7: what is preloaded and not used is fetched for nothing, which browsers warn of.
test.each([
  ["/", true],
  ["/machines/s", true],
  ["/sources", true],
  ["/invitation/abc", false],
  ["/s/abc", false],
])("the page at %s asks early who is signed in: %s", async (path, asks) => {
  const text = await (await fetch(address + path)).text();
  expect(text.includes("/api/me")).toBe(asks);
  expect(text).toContain('href="/assets/a.css"');
});

// RFC 3986, 5.2: what a page names without a slash before it would stand beside that page.
test("below a path everything that a page names stands below it, however deep the page is, and its script is told", async () => {
  const text = await (await fetch(`${address}/below/nubrel/machines/vault`)).text();
  expect(text).toContain('href="/nubrel/assets/a.css"');
  expect(text).toContain('href="/nubrel/api/me"');
  expect(text).toContain('<html data-base-path="/nubrel" lang="en">');
});

test.each([
  ["/below/nubrel", 308, "/nubrel/"],
  ["/below/nubrel?as=new", 308, "/nubrel/?as=new"],
  ["/below/", 308, "/nubrel/"],
  ["/below/nubrels/machines", 404, null],
  ["/below/nubrel/machines", 200, null],
])("asked for %s below /nubrel: %i", async (path, status, to) => {
  const answer = await fetch(address + path, { redirect: "manual" });
  expect([answer.status, answer.headers.get("location")]).toEqual([status, to]);
});
