import { createServer, type RequestListener, type Server } from "node:http";
import { createServer as createHttps } from "node:https";
import type { AddressInfo } from "node:net";
import { By, Key, type WebDriver } from "selenium-webdriver";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { type TestDatabase, testDatabase } from "../server/testing/test-database.ts";
import { issueCertificate, makeAuthority } from "../server/transport/issue-certificate.ts";
import { axeFindings } from "./support/axe.mjs";
import { byCss, byText, eventually, openBrowser, press, setViewport } from "./support/browser.mjs";
import { makeOwner } from "./support/first-owner.mjs";
import { startServerProcess } from "./support/server-process.mjs";

// An evening of connecting machines, in order: each test goes on where the one before ended.
let db: TestDatabase;
let server: Awaited<ReturnType<typeof startServerProcess>>;
let browser: Awaited<ReturnType<typeof openBrowser>>;
let driver: WebDriver;
const opened: Server[] = [];
let behave: RequestListener;
const page: RequestListener = (_request, response) =>
  response.end(
    '# HELP lamp_lit Whether a lamp on the mast is lit.\n# TYPE lamp_lit gauge\nlamp_lit{lamp="north"} 1\nlamp_lit{lamp="south"} 0\nlamp_dim NaN\n',
  );

async function listening(one: Server): Promise<number> {
  opened.push(one);
  await new Promise<void>((resolve) => one.listen(0, "127.0.0.1", resolve));
  return (one.address() as AddressInfo).port;
}
const text = async (css: string) => (await byCss(driver, css)).getText();
const type = async (label: string, value: string) => {
  const field = await byCss(driver, `[aria-label="${label}"]`);
  await field.sendKeys(Key.chord(Key.CONTROL, "a"), value);
};
const choose = async (label: string, words: string) =>
  (await byCss(driver, `select[aria-label="${label}"]`))
    .findElement(By.xpath(`./option[normalize-space(.)=${JSON.stringify(words)}]`))
    .click();

beforeAll(async () => {
  behave = page;
  db = await testDatabase({ migrated: false });
  server = await startServerProcess(db.url, { env: { NUBREL_MACHINE: "vault", NUBREL_GATHER_MS: "1000" } });
  browser = await openBrowser();
  driver = browser.driver;
  await makeOwner(driver, server);
});
afterAll(async () => {
  await browser?.close();
  await server?.stop();
  for (const one of opened) {
    one.close();
    one.closeAllConnections();
  }
  await db?.drop();
});

describe("a page of counters", () => {
  let port = 0;
  test("is tried before it is saved: a diagnosis with what to do, then what it gives", async () => {
    port = await listening(createServer((request, response) => behave(request, response)));
    await driver.get(`${server.address}/sources`);
    await press(driver, byText(driver, "a", "Connect a machine"));
    await press(driver, byText(driver, "button", "something that serves a page of counters"));
    await type("name or address", "127.0.0.1");
    await type("port", "1");
    await press(driver, byText(driver, "button", "Try it"));
    expect(await text("[data-diagnosis='nothing listens']")).toContain("Look whether the program runs there");
    await type("port", String(port));
    await press(driver, byText(driver, "button", "Try it"));
    expect(await text("[data-tried]")).toContain("Found 3, taking 2; 1 left out: no number (NaN).");
    expect(await axeFindings(driver)).toEqual([]);
  });
  test("is connected under a name, reports, and has its machine's page with what it says about itself", async () => {
    const name = await driver.findElement(By.css("form[aria-label='Its name'] input"));
    await name.sendKeys(Key.chord(Key.CONTROL, "a"), "mast");
    await choose("interval", "1 s");
    await byText(driver, "span", "1 s is for minutes");
    await press(driver, byText(driver, "button", "Connect it"));
    await eventually(
      driver,
      async () => (await text("[data-source-state]")) === "reporting",
      15_000,
      "it does not report",
    );
    await press(driver, byText(driver, "a", "mast"));
    await byText(driver, "h1", "mast");
    expect(await text("[data-counter=lamp_lit]")).toContain("Whether a lamp on the mast is lit.");
    await eventually(
      driver,
      async () => (await driver.findElements(By.css("[data-counter=lamp_lit] canvas"))).length > 0,
      10_000,
      "no chart",
    );
  });
  test("gets a friendly name and tags, which stand in the fleet", async () => {
    await press(driver, byText(driver, "button", "name and tags"));
    const form = await byCss(driver, "form[aria-label='Name and tags']");
    await (await form.findElement(By.css("input"))).sendKeys("The transmitter");
    await type("new tag", "site");
    await type("value of the new tag", "hill");
    await press(driver, form.findElement(By.xpath(".//button[.='add']")));
    await press(driver, byText(driver, "button", "Keep it so"));
    await byText(driver, "h1", "The transmitter");
    await eventually(
      driver,
      async () => (await text("[data-identity]")).includes("mast · site hill"),
      5000,
      "no identity",
    );
    await driver.get(server.address);
    await byText(driver, "a", "The transmitter");
  });
  test("a rule is tried on the text received last before it is kept", async () => {
    await driver.get(`${server.address}/sources`);
    await press(driver, byText(driver, "a", "mast"));
    await press(driver, byText(driver, "button", "Add a rule"));
    await type("counters by name", "lamp_*");
    await type("a tag", "lamp");
    await type("its value", "south");
    await eventually(
      driver,
      async () => (await text("[data-tried]")).includes("taking 1; 2 left out: 1 no number (NaN), 1 left by a rule."),
      8000,
      "no preview",
    );
    await press(driver, byText(driver, "button", "Take it so"));
    await eventually(
      driver,
      async () => (await driver.findElement(By.css("dl")).getText()).includes("took 1 of 3 found"),
      10_000,
      "the rule does not hold",
    );
    await press(driver, byText(driver, "button", "show the text as received"));
    expect(await text("[data-raw]")).toContain('lamp_lit{lamp="north"} 1');
    expect(await axeFindings(driver)).toEqual([]);
  });
  test("a failure is told on its page, in the list, and on the machine's page; paused it is not asked", async () => {
    behave = (_request, response) => void response.writeHead(401).end();
    await byCss(driver, "[data-diagnosis='credentials wanted']", 15_000);
    await driver.get(`${server.address}/sources`);
    await eventually(
      driver,
      async () => (await text("[data-source=mast]")).includes("wants to know who asks"),
      8000,
      "the list says nothing",
    );
    await eventually(driver, async () => (await text("[data-source=mast]")).includes("silent"), 20_000, "not silent");
    await eventually(
      driver,
      async () => Number(await text("[data-raised-count]")) === 1,
      15_000,
      "silence is no incident",
    );
    await driver.get(`${server.address}/machines/mast`);
    await byText(driver, "p", "did not answer at the last try");
    behave = page;
    await driver.get(`${server.address}/sources`);
    await press(driver, byText(driver, "a", "mast"));
    await press(driver, byText(driver, "button", "Pause …"));
    await driver.findElement(By.xpath("//label[starts-with(., 'Why')]//input")).sendKeys("a new mast");
    await press(driver, byText(driver, "button", "4 h"));
    await eventually(
      driver,
      async () => /^paused until .* by Ines: a new mast$/.test(await text("[data-source-state]")),
      8000,
      "not paused",
    );
    await driver.get(`${server.address}/machines/mast`);
    await eventually(
      driver,
      async () => (await text("[data-paused]")).includes("by Ines: a new mast"),
      8000,
      "the machine says nothing of it",
    );
    await driver.get(`${server.address}/alerts/quiet`);
    await eventually(
      driver,
      async () => (await text("[data-paused=mast]")).includes("a new mast"),
      8000,
      "not among quiet times",
    );
    await press(driver, byText(driver, "a", "mast"));
  });
  test("removing offers undo", async () => {
    await press(driver, byText(driver, "button", "Remove …"));
    await press(driver, byText(driver, "button", "Remove it"));
    await byText(driver, "p", "mast was removed. What was gathered stays.");
    await eventually(
      driver,
      async () => (await driver.findElements(By.css("[data-source=mast]"))).length === 0,
      8000,
      "it is still there",
    );
    await press(driver, byText(driver, "button", "Undo"));
    await byCss(driver, "[data-source=mast]");
  });
});

test("a certificate that nobody knows is shown, and believed by its fingerprint", async () => {
  const day = 86_400_000;
  const pair = await issueCertificate(
    await makeAuthority("Kestrel Quay", new Date(Date.now() - day), new Date(Date.now() + day)),
    ["127.0.0.1"],
    new Date(Date.now() - day),
    new Date(Date.now() + day),
  );
  const port = await listening(createHttps({ cert: pair.certificatePem, key: pair.keyPem }, page) as unknown as Server);
  await driver.get(`${server.address}/sources/connect?what=page`);
  await choose("http or https", "https");
  await type("name or address", "127.0.0.1");
  await type("port", String(port));
  await press(driver, byText(driver, "button", "Try it"));
  expect(await text("[data-diagnosis='unknown issuer']")).toMatch(/([0-9A-F]{2}:){31}[0-9A-F]{2}/);
  await press(driver, byText(driver, "button", "Believe this one certificate"));
  expect(await text("[data-tried]")).toContain("Found 3");
});

test("a machine that sends: its token stands in the text to paste, and the page says when it is heard", async () => {
  await driver.get(`${server.address}/sources/connect?what=script`);
  await (await byCss(driver, "[placeholder=vault]")).sendKeys("backup");
  await press(driver, byText(driver, "button", "Make its token"));
  await (await byCss(driver, `[data-reached-at] option[value="${server.address}"]`)).click();
  const command = await text("pre");
  const token = /Bearer (nub_[\w-]+)/.exec(command)?.[1] as string;
  expect(command).toContain(`${server.address}/api/push/openmetrics`);
  expect(await text("[data-heard]")).toContain("Nothing has come yet");
  expect(
    (
      await fetch(`${server.address}/api/push/openmetrics`, {
        method: "POST",
        body: 'backup_size_bytes{pool="archive"} 123456\n',
        headers: { authorization: `Bearer ${token}` },
      })
    ).status,
  ).toBe(200);
  await eventually(
    driver,
    async () => (await text("[data-heard]")).includes("Heard: 1 values taken"),
    10_000,
    "it is not told",
  );
  await driver.get(`${server.address}/sources/tokens`);
  await byCss(driver, "[data-token=backup]");
  expect(await driver.getPageSource()).not.toContain(token);
  await press(driver, byText(driver, "button", "revoke"));
  await byText(driver, "span", "revoked");
  expect(
    (
      await fetch(`${server.address}/api/push/openmetrics`, {
        method: "POST",
        body: "a 1\n",
        headers: { authorization: `Bearer ${token}` },
      })
    ).status,
  ).toBe(401);
});

test.each([
  "/sources",
  "/sources/connect",
  "/sources/connect?what=linux",
  "/sources/tokens",
  "/sources/sent-on",
  "/sources/transport",
])("axe finds nothing on %s, by day and by night, and it fits a phone", async (path) => {
  for (const theme of ["day", "night"]) {
    await driver.executeScript("localStorage.setItem('nubrel.theme', arguments[0])", theme);
    await driver.get(server.address + path);
    await byText(driver, "h1", "Sources");
    await eventually(
      driver,
      async () => (await driver.findElements(By.xpath("//p[contains(., 'reading …')]"))).length === 0,
      8000,
      "still reading",
    );
    expect(await axeFindings(driver)).toEqual([]);
  }
  await setViewport(driver, 390, 844);
  expect(await driver.executeScript("return document.documentElement.scrollWidth")).toBeLessThanOrEqual(390);
  await setViewport(driver, 1280, 800);
});
