import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { By, Key, type WebDriver } from "selenium-webdriver";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { RecordingView, RunListed } from "../core/api/recordings.ts";
import { type TestDatabase, testDatabase } from "../server/testing/test-database.ts";
import { axeFindings } from "./support/axe.mjs";
import {
  byCss,
  byText,
  choose,
  eventually,
  isWide,
  openBrowser,
  press,
  printedPdf,
  setViewport,
} from "./support/browser.mjs";
import { makeOwner } from "./support/first-owner.mjs";
import { startServerProcess } from "./support/server-process.mjs";

// This machine, gathered every 5 s, is recorded every second: each test goes on where the one before ended.
let db: TestDatabase;
let folder: string;
let server: Awaited<ReturnType<typeof startServerProcess>>;
let browser: Awaited<ReturnType<typeof openBrowser>>;
let driver: WebDriver;

const open = (path: string) => driver.get(server.address + path);
const ask = <T>(method: string, path: string, body?: unknown): Promise<T> =>
  driver.executeAsyncScript(
    "const [m, p, b, done] = arguments; fetch('/api' + p, { method: m, headers: { 'content-type': 'application/json' }, body: b ? JSON.stringify(b) : undefined }).then((r) => r.json()).then(done)",
    method,
    path,
    body ?? null,
  );
const text = async (css: string) => (await byCss(driver, css)).getText();
const runs = async (id: number) => await ask<RunListed[]>("GET", `/recordings/${id}/runs`);

beforeAll(async () => {
  db = await testDatabase({ migrated: false });
  folder = mkdtempSync(join(tmpdir(), "nubrel-recordings-"));
  server = await startServerProcess(db.url, {
    env: { NUBREL_KEY_FILE: join(folder, "secrets.key"), NUBREL_MACHINE: "playout", NUBREL_GATHER_MS: "5000" },
  });
  browser = await openBrowser();
  driver = browser.driver;
  await makeOwner(driver, server);
}, 60_000);
afterAll(async () => {
  await browser?.close();
  await server?.stop();
  rmSync(folder, { recursive: true, force: true });
  await db?.drop();
});

describe("a recording", () => {
  test("is made of sentences, with its cost told before", async () => {
    await press(driver, byText(driver, "a", "Recordings"));
    await byText(driver, "p", "Nothing is recorded yet");
    await press(driver, byText(driver, "a", "Make the first one"));
    await (await byCss(driver, "[data-recording-form] label input")).sendKeys("before the new drives");
    await choose(driver, "subject", "Memory");
    await press(driver, byText(driver, "button", "add them"));
    await eventually(
      driver,
      async () => (await driver.findElements(By.css("[data-sentence-list] li"))).length > 3,
      5000,
      "the subject was not taken apart",
    );
    await eventually(
      driver,
      async () => /\d+ lines every 1 s for 4 min/.test(await text("[data-forecast]")),
      10_000,
      "",
    );
    expect(await text("[data-forecast]")).toMatch(/it was asked 9 times just now/);
    await choose(driver, "interval", "3600");
    await eventually(
      driver,
      async () => /every 1 s shows what happens/.test(await text("[data-forecast]")),
      10_000,
      "",
    );
    await press(driver, byText(driver, "button", "take 1 s"));
    expect(await axeFindings(driver)).toEqual([]);
    await press(driver, byText(driver, "button", "Make it"));
    await byText(driver, "h1", "before the new drives");
  });

  test("runs, stands on every page while it does, and is ended by keys", async () => {
    const [recording] = await ask<RecordingView[]>("GET", "/recordings");
    const id = recording?.id as number;
    await (await byCss(driver, '[aria-label="Record now: before the new drives"]')).sendKeys(Key.ENTER);
    await byCss(driver, "[data-running]");
    await open("/");
    expect(await text("[data-running]")).toMatch(/Recording before the new drives every 1 s, 3 min \d+ s left/);
    await eventually(
      driver,
      async () => /[1-9]\d+ samples/.test(await text("[data-running]")),
      15_000,
      "it takes nothing",
    );
    await eventually(
      driver,
      async () => /of a core here/.test(await text("[data-running]")),
      15_000,
      "it costs nothing",
    );
    await (await byText(driver, "button", "end it")).sendKeys(Key.SPACE);
    await eventually(
      driver,
      async () => (await driver.findElements(By.css("[data-running]"))).length === 0,
      10_000,
      "it is still on",
    );
    expect(await runs(id)).toMatchObject([{ endedBecause: "by hand", origin: "person" }]);
    // A second one, ended by its length.
    await ask("POST", `/recordings/${id}/runs`, { forSeconds: 6 });
    await eventually(driver, async () => (await runs(id))[0]?.endedBecause === "length", 20_000, "it does not end");
  });

  test("has a report with all its lines: hidden and raised beside the chart, noted, on paper", async () => {
    const [recording] = await ask<RecordingView[]>("GET", "/recordings");
    await open(`/recordings/${recording?.id}`);
    await press(driver, await byCss(driver, '[aria-label="Runs"] li a'));
    await byCss(driver, "[data-run] [data-chart] canvas");
    const rows = await driver.findElements(By.css("[data-numbers] tbody tr"));
    expect(rows.length).toBeGreaterThan(8);
    expect(await rows[0]?.getText()).toMatch(/hide raise/);
    await press(driver, (rows[0] as (typeof rows)[0]).findElement(By.css("button")));
    await eventually(driver, async () => /show raise/.test((await rows[0]?.getText()) ?? ""), 5000, "it is not hidden");
    await (await byCss(driver, '[aria-label="note"]')).sendKeys("after the new drives", Key.ENTER);
    await byText(driver, "p", "after the new drives (Ines)");
    expect(await axeFindings(driver)).toEqual([]);
    const pdf = Buffer.from(await printedPdf(driver), "base64").toString("latin1");
    expect(pdf).toMatch(/\/MediaBox \[0 0 59[45][\d.]* 84[12][\d.]*\]/); // A4 upright, in points (ISO 216)
  });

  test("two runs lie beside each other, with the difference in words", async () => {
    const [recording] = await ask<RecordingView[]>("GET", "/recordings");
    await open(`/recordings/${recording?.id}`);
    const boxes = await eventually(
      driver,
      async () => {
        const found = await driver.findElements(By.css('[aria-label="Runs"] input[type=checkbox]'));
        return found.length === 2 && found;
      },
      10_000,
      "there are not two runs",
    );
    for (const box of boxes as { sendKeys(key: string): Promise<void> }[]) await box.sendKeys(Key.SPACE);
    await press(driver, byText(driver, "a", "lay these two beside each other"));
    await byCss(driver, "[data-chart] canvas");
    expect(await text("[data-beside]")).toMatch(/about as in the run before/);
    expect(await axeFindings(driver)).toEqual([]);
  });

  test("a run goes out as a file and comes in again; what is none is refused in words", async () => {
    const [recording] = await ask<RecordingView[]>("GET", "/recordings");
    const [run] = await runs(recording?.id as number);
    const path = `/api/recordings/${recording?.id}/runs/${run?.id}/file?format=nubrel`;
    const content = await driver.executeAsyncScript<string>(
      "const [p, done] = arguments; fetch(p).then((r) => r.text()).then(done)",
      path,
    );
    const [file, wrong] = [join(folder, "opened elsewhere.nubrel-run.json"), join(folder, "letter.txt")];
    writeFileSync(file, content.replace('"name":"before the new drives"', '"name":"from elsewhere"'));
    writeFileSync(wrong, "Dear Bo,\nhow are you?\n");
    await open("/recordings");
    await (await byCss(driver, 'input[type="file"]')).sendKeys(wrong);
    await byText(driver, "span", "no counter log, no table with a column of times, and no OpenMetrics");
    await press(driver, byText(driver, "button", "close"));
    await (await byCss(driver, 'input[type="file"]')).sendKeys(file);
    await byText(driver, "h1", "from elsewhere");
    await byCss(driver, "[data-run] [data-chart] canvas");
    expect(readFileSync(file, "utf8")).toContain('"nubrelRun":1');
  });

  test("at 390 px and by night nothing is lost", async () => {
    const [recording] = await ask<RecordingView[]>("GET", "/recordings");
    const [run] = await runs(recording?.id as number);
    await driver.executeScript("localStorage.setItem('nubrel.theme', 'night')");
    await setViewport(driver, 390, 844);
    for (const path of ["/recordings", "/recordings/new", `/recordings/${recording?.id}/runs/${run?.id}`]) {
      await open(path);
      await byCss(driver, "h1");
      await eventually(driver, async () => !(await isWide(driver)), 5000, `${path} is wider than the screen`);
      expect(await axeFindings(driver)).toEqual([]);
    }
    await setViewport(driver, 1280, 800);
  });

  test("the browser reported no error and no breach of the content security policy", async () => {
    const said = (await driver.manage().logs().get("browser"))
      .filter(({ level }) => level.name === "SEVERE")
      .map(({ message }) => message);
    expect(said.filter((message) => !/\/api\/(me|live) .*401|422/.test(message))).toEqual([]);
  });
});
