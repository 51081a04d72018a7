import type { WebDriver } from "selenium-webdriver";
import { afterAll, beforeAll, expect, test } from "vitest";
import { type TestDatabase, testDatabase } from "../server/testing/test-database.ts";
import { byCss, byText, eventually, openBrowser } from "./support/browser.mjs";
import { makeOwner } from "./support/first-owner.mjs";
import { startServerProcess } from "./support/server-process.mjs";

// A browser opens six connections to one server over HTTP/1.1 (common practice, no source), so that streams of six
// pages would leave none for anything else.
const pages = 8;
let db: TestDatabase;
let server: Awaited<ReturnType<typeof startServerProcess>>;
let browser: Awaited<ReturnType<typeof openBrowser>>;
let driver: WebDriver;

beforeAll(async () => {
  db = await testDatabase({ migrated: false });
  server = await startServerProcess(db.url, { env: { NUBREL_MACHINE: "vault" } });
  browser = await openBrowser();
  driver = browser.driver;
});
afterAll(async () => {
  await browser?.close();
  await server?.stop();
  await db?.drop();
});

test("eight visible pages are all told of what comes; signing out in one ends the streams of all", async () => {
  await makeOwner(driver, server);
  const windows: string[] = [await driver.getWindowHandle()];
  for (let i = 1; i < pages; i++) {
    await driver.switchTo().newWindow("window");
    windows.push(await driver.getWindowHandle());
    await driver.get(`${server.address}/machines/vault?last=300&every=5`);
    await eventually(
      driver,
      async () => /\d/.test(await (await byCss(driver, "[data-figure=memory]")).getText()),
      10_000,
      `page ${i + 1} shows no figure`,
    );
    expect(await driver.executeScript("return document.visibilityState")).toBe("visible");
  }
  await driver.executeScript(
    "window.reads = 0; const ask = window.fetch; window.fetch = (...all) => (window.reads++, ask(...all));",
  );
  await eventually(
    driver,
    async () => Number(await driver.executeScript("return window.reads")) > 0,
    15_000,
    "the last page hears of nothing new",
  );
  // The pages hold no stream of their own: the browser's one belongs to its shared worker.
  for (const window of windows) {
    await driver.switchTo().window(window);
    expect(
      await driver.executeScript(
        "return performance.getEntriesByType('resource').filter(({ name }) => name.endsWith('/api/live')).length",
      ),
    ).toBe(0);
  }
  await driver.executeAsyncScript(
    "const done = arguments[0]; fetch('/api/session', { method: 'DELETE' }).then(() => done())",
  );
  for (const window of windows) {
    await driver.switchTo().window(window);
    await byText(driver, "button", "Sign in", 15_000);
  }
});
