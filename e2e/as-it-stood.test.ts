import type { WebDriver } from "selenium-webdriver";
import { afterAll, beforeAll, expect, test } from "vitest";
import { freeTcpPort } from "../server/testing/free-port.ts";
import { type TestDatabase, testDatabase } from "../server/testing/test-database.ts";
import { byText, eventually, openBrowser, press } from "./support/browser.mjs";
import { makeOwner } from "./support/first-owner.mjs";
import { startServerProcess } from "./support/server-process.mjs";

// Pages as a browser keeps them, in order: each test goes on where the one before ended.
let db: TestDatabase;
let port: number;
let server: Awaited<ReturnType<typeof startServerProcess>>;
let browser: Awaited<ReturnType<typeof openBrowser>>;
let driver: WebDriver;

const start = () =>
  startServerProcess(db.url, { env: { NUBREL_MACHINE: "vault", NUBREL_GATHER_MS: "1000", NUBREL_PORT: String(port) } });
/** What the page as it stood says; undefined where none is shown. */
const kept = () =>
  driver.executeScript<string | null>("return document.getElementById('kept-page')?.shadowRoot.textContent ?? null");
const keptPaths = () =>
  driver.executeScript<string[]>(
    "return Object.keys(localStorage).filter((key) => key.startsWith('nubrel.kept.')).map((key) => key.slice(12)).sort()",
  );
const elsewhere = () => driver.get(`${server.address}/favicon.svg`);

beforeAll(async () => {
  db = await testDatabase({ migrated: false });
  port = await freeTcpPort();
  server = await start();
  browser = await openBrowser();
  driver = browser.driver;
  await makeOwner(driver, server);
  await byText(driver, "a", "vault");
});
afterAll(async () => {
  await browser?.close();
  await server?.stop();
  await db?.drop();
});

test("a page that is opened again shows how it stood until it is drawn anew", async () => {
  await elsewhere();
  expect(await keptPaths()).toEqual(["/"]);
  const command = driver as unknown as { sendDevToolsCommand(name: string, values: object): Promise<void> };
  await command.sendDevToolsCommand("Network.enable", {});
  const slow = { offline: false, latency: 700, downloadThroughput: -1, uploadThroughput: -1 };
  await command.sendDevToolsCommand("Network.emulateNetworkConditions", slow);
  void driver.get(`${server.address}/`).catch(() => {});
  await eventually(driver, async () => (await kept())?.includes("as it stood") ?? false, 20_000, "nothing is shown");
  expect(await kept()).toContain("vault");
  await command.sendDevToolsCommand("Network.emulateNetworkConditions", { ...slow, latency: 0 });
  await eventually(driver, async () => (await kept()) === null, 20_000, "it does not go");
  await byText(driver, "a", "vault");
});

test("while the server is away an address shows how it stood, and says so; one that was not kept names those that are", async () => {
  await driver.get(`${server.address}/machines/vault`);
  await byText(driver, "h2", "Processor");
  // The worker that opens pages then is at work.
  await driver.executeAsyncScript("navigator.serviceWorker.ready.then(arguments[arguments.length - 1])");
  await elsewhere();
  expect(await keptPaths()).toEqual(["/", "/machines/vault"]);
  await server.kill();
  await driver.get(`${server.address}/machines/vault`);
  const says = "Nubrel's server has not answered yet: this is how the page stood";
  await eventually(driver, async () => (await kept())?.includes(says) ?? false, 20_000, "it is not said");
  expect(await kept()).toContain("Processor");
  await driver.get(`${server.address}/planning/fit`);
  await byText(driver, "h2", "As they stood when this browser saw them last");
  expect(await (await byText(driver, "a", "vault")).getAttribute("href")).toBe(`${server.address}/machines/vault`);
  await (await byText(driver, "a", "Fleet")).click();
  await eventually(driver, async () => (await kept())?.includes("vault") ?? false, 20_000, "Fleet is not shown");
});

test("it goes on by itself once the server is back", async () => {
  server = await start();
  await eventually(driver, async () => (await kept()) === null, 30_000, "it stays as it stood");
  await byText(driver, "h1", "Fleet");
});

test("who signs out leaves nothing of what they saw", async () => {
  expect((await keptPaths()).length).toBeGreaterThan(0);
  await press(driver, byText(driver, "button", "Ines"));
  await press(driver, byText(driver, "button", "Sign out"));
  await byText(driver, "h1", "Sign in to Nubrel");
  expect(await keptPaths()).toEqual([]);
  await elsewhere();
  expect(await keptPaths()).toEqual([]);
});

test("nothing of it breaks the content security policy", async () => {
  const said = (await driver.manage().logs().get("browser")).map(({ message }) => message);
  expect(said.filter((message) => message.includes("Content Security Policy"))).toEqual([]);
});
