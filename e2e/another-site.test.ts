import { type ChildProcess, spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { By, Key, type WebDriver } from "selenium-webdriver";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { projectRoot } from "../server/project-root.ts";
import { type TestDatabase, testDatabase } from "../server/testing/test-database.ts";
import { axeFindings } from "./support/axe.mjs";
import { byCss, byText, eventually, openBrowser, press } from "./support/browser.mjs";
import { makeOwner } from "./support/first-owner.mjs";
import { startServerProcess } from "./support/server-process.mjs";

// A site that the server does not reach, and a receiver elsewhere, in order: each test goes on where the one before ended.
let db: TestDatabase;
let server: Awaited<ReturnType<typeof startServerProcess>>;
let browser: Awaited<ReturnType<typeof openBrowser>>;
let driver: WebDriver;
let relay: ChildProcess | undefined;
const opened: Server[] = [];
const folder = mkdtempSync(join(tmpdir(), "nubrel-site-"));

const text = async (css: string) => (await byCss(driver, css)).getText();
const fill = async (css: string, value: string) =>
  (await byCss(driver, css)).sendKeys(Key.chord(Key.CONTROL, "a"), value);
const choose = async (css: string, words: string) =>
  (await byCss(driver, css)).findElement(By.xpath(`./option[normalize-space(.)=${JSON.stringify(words)}]`)).click();
const tells = (css: string, words: string, ms = 15_000) =>
  eventually(driver, async () => (await text(css)).includes(words), ms, `"${words}" does not stand in ${css}`);

async function listening(one: Server): Promise<number> {
  opened.push(one);
  await new Promise<void>((resolve) => one.listen(0, "127.0.0.1", resolve));
  return (one.address() as AddressInfo).port;
}

beforeAll(async () => {
  db = await testDatabase({ migrated: false });
  server = await startServerProcess(db.url, { env: { NUBREL_MACHINE: "vault", NUBREL_GATHER_MS: "1000" } });
  browser = await openBrowser();
  driver = browser.driver;
  await makeOwner(driver, server);
});
afterAll(async () => {
  if (relay?.exitCode === null) {
    const ended = new Promise((resolve) => relay?.once("exit", resolve));
    relay.kill("SIGTERM");
    await ended;
  }
  await browser?.close();
  await server?.stop();
  for (const one of opened) {
    one.close();
    one.closeAllConnections();
  }
  await db?.drop();
  rmSync(folder, { recursive: true, force: true });
});

describe("another site", () => {
  test("is connected by the one line that is shown, pasted as it stands", async () => {
    await driver.get(`${server.address}/sources/connect`);
    await press(driver, byText(driver, "button", "another site, which this server does not reach"));
    await fill("form[aria-label='Its name'] input[name=name]", "mast");
    await press(driver, byText(driver, "button", "Make its token"));
    await (await byCss(driver, `[data-reached-at] option[value="${server.address}"]`)).click();
    const line = await text("pre");
    expect(line).toMatch(/^nubrel relay http:\/\/\S+ --token nub_\S+$/);
    expect(await axeFindings(driver)).toEqual([]);
    relay = spawn("/bin/sh", ["-c", `exec ${line}`], {
      env: { ...process.env, PATH: `${join(projectRoot, "bin")}:${process.env["PATH"]}`, NUBREL_DATA: folder },
      stdio: "ignore",
    });
    await tells("[data-heard]", "Heard:", 40_000);
  });

  test("its page says how it stands, and that nothing else is asked from there yet", async () => {
    await press(driver, byText(driver, "a", "Its page"));
    await tells("[data-relay]", "Nothing waits there");
    expect(await text("[data-relay]")).toContain("Nothing but its own machine");
    expect(await axeFindings(driver)).toEqual([]);
  });

  test("something there is tried from there before it is kept, and asked from there", async () => {
    const port = await listening(
      createServer((_request, response) => response.end("# TYPE lamp_lit gauge\nlamp_lit 1\n")),
    );
    await press(driver, byText(driver, "a", "Connect something"));
    await press(driver, byText(driver, "button", "something that serves a page of counters"));
    await choose("select[name=askedFrom]", "mast");
    await fill("[aria-label='name or address']", "127.0.0.1");
    await fill("[aria-label=port]", "1");
    await press(driver, byText(driver, "button", "Try it"));
    await tells("[data-diagnosis='nothing listens']", "Nothing listens");
    await fill("[aria-label=port]", String(port));
    await press(driver, byText(driver, "button", "Try it"));
    await tells("[data-tried]", "Found 1, taking 1");
    await fill("form[aria-label='Its name'] input", "lamp");
    await choose("select[aria-label=interval]", "1 s");
    await press(driver, byText(driver, "button", "Connect it"));
    await tells("main", ", from mast", 20_000);
    await tells("main", "took 1 of 1 found", 20_000);
    await press(driver, byText(driver, "a", "mast"));
    await tells("[data-relay]", "Asked from there: lamp.");
  });

  test("it does not go while something is asked from it, and says what", async () => {
    await press(driver, byText(driver, "button", "Remove …"));
    await press(driver, byText(driver, "button", "Remove it"));
    await tells("main", "lamp: asked from mast.");
  });
});

describe("a receiver elsewhere", () => {
  test("is sent what was chosen, by a form that tells what is wrong at its field", async () => {
    let asked = 0;
    const port = await listening(
      createServer((request, response) => {
        asked++;
        request.resume().on("end", () => response.end());
      }),
    );
    await driver.get(`${server.address}/sources/sent-on`);
    await byText(driver, "p", "Nothing is sent on.");
    await press(driver, byText(driver, "button", "to a receiver …"));
    await fill("input[name=name]", "station");
    await fill("input[name=url]", "ftp://127.0.0.1/");
    await press(driver, byText(driver, "button", "Send it on"));
    await tells("form[aria-label='What is sent on']", "begins with https:// or http://");
    await fill("input[name=url]", `http://127.0.0.1:${port}/v1/metrics`);
    await fill("input[name=counters]", "system.cpu.* lamp_*");
    await choose("select[name=everySeconds]", "5 s");
    expect(await axeFindings(driver)).toEqual([]);
    await press(driver, byText(driver, "button", "Send it on"));
    await byCss(driver, "[data-forward=station]");
    await eventually(driver, async () => asked > 0, 20_000, "nothing was sent");
    await eventually(
      driver,
      async () => / [1-9][\d,]* values since/.test(await text("[data-forward=station]")),
      20_000,
      "it is not told",
    );
  });

  test("is stopped, goes on, and is removed after a second word", async () => {
    await press(driver, byText(driver, "button", "stop it"));
    await tells("[data-forward=station]", "stopped at");
    await press(driver, byText(driver, "button", "go on"));
    await tells("[data-forward=station]", "taken there up to");
    await press(driver, byText(driver, "button", "remove …"));
    await press(driver, byText(driver, "button", "remove it"));
    await byText(driver, "p", "Nothing is sent on.");
  });
});
