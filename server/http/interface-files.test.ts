import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import type { AddressInfo } from "node:net";
import { createServer } from "node:http";
import { tmpdir } from "node:os";
import { join } from "node:path";
import express from "express";
import { afterAll, beforeAll, expect, test } from "vitest";
import { interfacePage } from "./interface-files.ts";

const folder = mkdtempSync(join(tmpdir(), "nubrel-page-"));
const server = createServer(express().use(interfacePage(folder)));
let address = "";

beforeAll(async () => {
  writeFileSync(
    join(folder, "index.html"),
    '<head>\n    <link rel="stylesheet" href="/assets/a.css">\n    <link rel="preload" href="/api/me" as="fetch" crossorigin="">\n  </head>',
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
  expect(text).toContain("/assets/a.css");
});
