import { chmodSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { By, Key } from "selenium-webdriver";
import { afterAll, beforeAll, expect, test } from "vitest";
import { startCluster } from "../scripts/cluster.mjs";
import { watchedValue } from "../core/rules/rule.ts";
import { inTransaction, openDatabase } from "../server/db/pool.ts";
import { openIncident } from "../server/rules/incident-rows.ts";
import { insertRule } from "../server/rules/rule-rows.ts";
import { axeFindings } from "./support/axe.mjs";
import { byText, eventually, openBrowser, press } from "./support/browser.mjs";
import { makeOwner } from "./support/first-owner.mjs";
import { startServerProcess } from "./support/server-process.mjs";

let folder: string;
let cluster: Awaited<ReturnType<typeof startCluster>>;
let server: Awaited<ReturnType<typeof startServerProcess>>;
let browser: Awaited<ReturnType<typeof openBrowser>>;

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), "nubrel-away-"));
  chmodSync(folder, 0o711);
  cluster = await startCluster(folder);
  server = await startServerProcess(cluster.url, { env: { NUBREL_GATHER_MS: "500", NUBREL_MACHINE: "vault" } });
  browser = await openBrowser();
});
afterAll(async () => {
  await browser?.close();
  await server?.stop();
  await cluster?.stop("immediate");
  rmSync(folder, { recursive: true, force: true });
});

async function raiseFive(): Promise<void> {
  const database = openDatabase(cluster.url);
  const rule = {
    name: "load",
    reading: { sentences: { load: { counter: "system.cpu.load_average" } } },
    watch: watchedValue,
    compare: "above",
    notice: null,
    urgent: { high: 4 },
    everySeconds: 0,
    mustLastSeconds: 0,
    staysRaisedSeconds: 0,
    noData: "hold",
    marginSeconds: null,
    place: null,
    advice: "",
  } as const;
  const { id } = await insertRule(database, rule, 1);
  for (let i = 1; i <= 5; i++)
    await inTransaction(database, (connection) =>
      openIncident(connection, { ...rule, id, on: false } as never, {
        tags: { machine: `m${i}` },
        unit: "1",
        limit: 4,
        effect: { kind: "raise", severity: "urgent", atMs: Date.now() - 60_000, value: 5 },
      }),
    );
  await database.query("update rule set is_on = false");
  await database.end();
}

const health = async () => (await fetch(`${server.address}/api/health`)).json();

test("while the database is away every page says so and what waits; when it is back all is stored and the page goes on by itself", async () => {
  const { driver } = browser;
  await makeOwner(driver, server);
  await driver.get(`${server.address}/sources/costs`);
  await byText(driver, "h2", "What it costs");
  // Five machines are raised, as rules had them before.
  await raiseFive();
  await driver.get(`${server.address}/alerts`);
  await byText(driver, "span", "5");
  await driver.get(`${server.address}/dashboards`);
  await byText(driver, "h1", "Dashboards");
  await eventually(
    driver,
    async () => (await driver.findElements(By.xpath("//*[. = 'reading …']"))).length === 0,
    10_000,
    "the list is not read",
  );
  await cluster.stop("fast");
  await byText(driver, "p", "The database has not answered since");
  expect(await health()).toMatchObject({ status: "degraded", database: "away" });
  await expect.poll(async () => (await health()).waitingSamples, { timeout: 15_000 }).toBeGreaterThan(100);
  // Other pages as well, and what is in memory can still be looked at.
  await driver.get(`${server.address}/machines/vault?last=300&every=5`);
  await byText(driver, "p", "The database has not answered since");
  await eventually(
    driver,
    async () => /\d/.test(await driver.findElement(By.css("[data-figure=memory]")).getText()),
    15_000,
    "no figure from memory",
  );
  // What was raised is told as it was known, never as nothing; and there is one notice, not a sentence in red at every
  // place.
  for (const path of ["/alerts", "/", "/dashboards", "/counters", "/sources/condition"]) {
    await driver.get(`${server.address}${path}`);
    await byText(driver, "p", "The database has not answered since");
    await eventually(
      driver,
      async () => (await driver.findElement(By.css("[data-raised-count]")).getText()) === "5",
      10_000,
      `what is raised is not told on ${path}`,
    );
    await eventually(
      driver,
      async () => (await driver.findElements(By.xpath("//*[. = 'reading …']"))).length === 0,
      10_000,
      `${path} shows nothing`,
    );
    expect(await driver.findElements(By.css("[role=alert]")), path).toEqual([]);
  }
  await driver.get(`${server.address}/alerts`);
  await byText(driver, "p", "5 were raised at");
  expect(await driver.findElements(By.css("[data-incident=open]"))).toHaveLength(5);
  await byText(driver, "p", "and lists as they were at");
  cluster = await startCluster(folder, { port: cluster.port });
  await eventually(
    driver,
    async () => (await driver.findElements(By.xpath("//p[contains(., 'has not answered')]"))).length === 0,
    20_000,
    "the notice stays",
  );
  await expect
    .poll(health, { timeout: 15_000 })
    .toMatchObject({ status: "ok", database: "ok", waitingSamples: 0, databaseSince: null });
});

test("how long things are kept is set under Sources; what cannot be is told, and nothing is changed", async () => {
  const { driver } = browser;
  await driver.get(`${server.address}/sources/costs`);
  const kept = async () => (await driver.findElement(By.css("[data-tier=raw] input"))).getAttribute("value");
  const type = async (days: string) =>
    driver.findElement(By.css("[data-tier=raw] input")).sendKeys(Key.chord(Key.CONTROL, "a"), days);
  await byText(driver, "caption", "How long it is kept");
  expect(await kept()).toBe("30");
  await type("500");
  await press(driver, byText(driver, "button", "Keep it so long"));
  await byText(driver, "p", "5 min buckets must be kept as long as raw samples at least");
  await type("10");
  await byText(driver, "p", "is dropped within ten minutes, for good");
  await press(driver, byText(driver, "button", "Keep it so long"));
  await eventually(
    driver,
    async () => (await driver.findElements(By.xpath("//button[. = 'Keep it so long']"))).length === 0,
    10_000,
    "it is not saved",
  );
  await driver.navigate().refresh();
  await byText(driver, "caption", "How long it is kept");
  expect(await kept()).toBe("10");
  expect(await axeFindings(driver)).toEqual([]);
});
