import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { By, Key, type WebDriver } from "selenium-webdriver";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { batchOf } from "../core/series/batch.ts";
import { Store } from "../server/store/store.ts";
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
import { level, total } from "../server/testing/new-series.ts";

// Eight days of hive with the guests web and mail, and of stream with the container relay; hive draws 150 W, stream 40;
// the pool archive of vault fills by 1 % a day.
const day = 86_400_000;
const gib = 2 ** 30;
const until = Math.floor(Date.now() / 300_000) * 300_000;
const from = until - 8 * day;

let db: TestDatabase;
let folder: string;
let server: Awaited<ReturnType<typeof startServerProcess>>;
let browser: Awaited<ReturnType<typeof openBrowser>>;
let driver: WebDriver;

const open = (path: string) => driver.get(server.address + path);
const text = async (css: string) => (await byCss(driver, css)).getText();
const type = async (label: string, typed: string) => {
  const field = await byCss(driver, `input[aria-label="${label}"]`);
  await driver.executeScript("arguments[0].scrollIntoView({ block: 'center' })", field);
  await field.sendKeys(Key.chord(Key.CONTROL, "a"), typed);
};
const says = (css: string, words: RegExp) =>
  eventually(
    driver,
    async () => {
      const found = await driver.findElements(By.css(css));
      return found[0] !== undefined && words.test(await found[0].getText());
    },
    15_000,
    `${css} does not say ${words}`,
  );

async function writePast(): Promise<void> {
  const store = await Store.open(db.database);
  const lines: readonly (readonly [
    ReturnType<typeof total> | ReturnType<typeof level>,
    (seconds: number) => number,
  ])[] = [
    [total("guest.cpu.time", { machine: "hive", guest: "web" }), (s) => s],
    [total("guest.cpu.time", { machine: "hive", guest: "mail" }), (s) => 0.2 * s],
    [total("container.cpu.time", { machine: "stream", container: "relay", mode: "user" }), (s) => 0.5 * s],
    [total("system.cpu.time", { machine: "hive", mode: "user" }), (s) => 1.4 * s],
    [total("system.cpu.time", { machine: "hive", mode: "idle" }), (s) => 6.6 * s],
    [total("system.cpu.time", { machine: "stream", mode: "user" }), (s) => 0.6 * s],
    [total("system.cpu.time", { machine: "stream", mode: "idle" }), (s) => 3.4 * s],
    [level("guest.memory.usage", { machine: "hive", guest: "web" }), () => 4 * gib],
    [level("guest.memory.usage", { machine: "hive", guest: "mail" }), () => 2 * gib],
    [level("container.memory.usage", { machine: "stream", container: "relay" }), () => gib],
    [level("system.memory.usage", { machine: "hive", state: "used" }), () => 8 * gib],
    [level("system.memory.limit", { machine: "hive" }), () => 32 * gib],
    [level("system.memory.usage", { machine: "stream", state: "used" }), () => 2 * gib],
    [level("system.memory.limit", { machine: "stream" }), () => 8 * gib],
    [level("hw.host.power", { machine: "hive", sensor: "whole" }, "W"), () => 150],
    [level("hw.host.power", { machine: "stream", sensor: "whole" }, "W"), () => 40],
    [
      level("storage.pool.usage", { machine: "vault", pool: "archive", state: "used" }),
      (s) => 1e12 * (0.75 + s / 8_640_000),
    ],
    [level("storage.pool.limit", { machine: "vault", pool: "archive" }), () => 1e12],
  ];
  const ids = (await store.series.resolve(lines.map(([series]) => series))) as unknown as number[];
  for (let begin = from; begin < until; begin += day) {
    const rows: [number, number, number][] = [];
    for (let at = begin; at < begin + day; at += 300_000)
      lines.forEach(([, value], i) => {
        rows.push([ids[i] as number, at, value((at - from) / 1000)]);
      });
    await store.write(batchOf(rows));
  }
  await store.close();
}

beforeAll(async () => {
  db = await testDatabase();
  await writePast();
  folder = mkdtempSync(join(tmpdir(), "nubrel-planning-"));
  server = await startServerProcess(db.url, {
    env: { NUBREL_KEY_FILE: join(folder, "secrets.key"), NUBREL_MACHINE: "playout", NUBREL_GATHER_MS: "3600000" },
  });
  browser = await openBrowser();
  driver = browser.driver;
  await makeOwner(driver, server);
}, 90_000);
afterAll(async () => {
  await browser?.close();
  await server?.stop();
  rmSync(folder, { recursive: true, force: true });
  await db?.drop();
});

describe("energy", () => {
  test("of each machine, and a tariff typed as a sentence gives it a price", async () => {
    await press(driver, byText(driver, "a", "Planning"));
    await says("[data-energy=hive]", /150 W/);
    expect(await text("[data-energy=stream]")).toMatch(/21\.1 %/);
    await press(driver, byText(driver, "button", "Add a tariff"));
    await type("name of the tariff", "rack");
    await type("price a kWh", "0.25");
    await type("budget a month", "20");
    await press(driver, byText(driver, "button", "Save it"));
    await says("[data-tariffs]", /rack: 0\.25 EUR a kWh/);
    await says("[data-energy=hive]", /EUR [\d.]+/);
    await says(
      "[data-energy-words]",
      /rack: this month cost EUR [\d.]+ so far and will cost about EUR [\d.]+, EUR [\d.]+ more than its budget/,
    );
  });
  test("a figure opens how it was made, by keys; a column tells its day by arrows", async () => {
    const line = await byCss(driver, "[data-energy=hive] button");
    await line.sendKeys(Key.ENTER);
    await byText(driver, "dd", "its power, added up over time");
    expect(await text("[data-energy-table]")).toMatch(/kWh × 0\.25 EUR\/kWh = EUR/);
    const columns = await byCss(driver, '[aria-label="energy of each day"]');
    await driver.executeScript("arguments[0].focus()", columns);
    await driver.actions().sendKeys(Key.ARROW_LEFT).perform();
    await says("[data-step-told]", /4\.56 kWh, EUR 1\.14/);
  });
  test("what is wrong is told beside it", async () => {
    await press(driver, byText(driver, "button", "Change rack"));
    await press(driver, byText(driver, "button", "Other hours cost something else"));
    await type("from", "29:00");
    await press(driver, byText(driver, "button", "Save it"));
    await says("[data-tariff-form] [role=alert]", /22:00/);
    await press(driver, byText(driver, "button", "Leave it"));
  });
});

test("space: what is full when, and what if it grew twice as fast", async () => {
  await press(driver, byText(driver, "a", "Space"));
  await says("[data-space-words]", /vault: pool archive is full in 1\d( to \d+)? days/);
  await press(driver, byCss(driver, '[data-space="vault pool archive"] button'));
  await type("how many times as fast", "2");
  await says("[data-then]", /It would be full in (8|9)( to \d+)? days/);
});

test("fit: one machine can be off, a guest is moved by hand, and one that stays keeps its host on", async () => {
  await press(driver, byText(driver, "a", "Fit"));
  await says("[data-fit-words]", /stream can be switched off: everything fits on 1 of 2 hosts/);
  expect(await text("[data-fit-words]")).toMatch(/EUR \d+\.\d\d a year saved/);
  await choose(driver, "host of hive mail", "stream");
  await says("[data-host=stream]", /1 guest/);
  await press(driver, byText(driver, "button", "Let it be searched again"));
  await says("[data-host=stream]", /could be off/);
  await press(driver, byCss(driver, '[data-guest="stream relay"] input[type=checkbox]'));
  await says("[data-fit-words]", /everything fits on 2 of 2 hosts/);
});

test("the month stands on one page, on the screen and on A4", async () => {
  await press(driver, byText(driver, "a", "The month"));
  await says("[data-month-words]", /No incident was raised/);
  await says("[data-month-words]", /hive used most/);
  const pdf = Buffer.from(await printedPdf(driver), "base64").toString("latin1");
  expect(pdf).toMatch(/\/MediaBox \[0 0 59[45][\d.]* 84[12][\d.]*\]/); // A4 upright, in points (ISO 216)
  expect(pdf.match(/\/Type \/Page\b(?!s)/g)).toHaveLength(1);
});

test("what watching costs", async () => {
  await press(driver, byText(driver, "a", "What watching costs"));
  await says("[data-watching-words]", /samples a day/);
  await byCss(driver, "[data-watched]");
});

describe.each([
  [1280, "day"],
  [390, "night"],
] as const)("at %i px, %s", (width, theme) => {
  test.each(["/planning", "/planning/space", "/planning/fit", "/planning/month", "/planning/watching"])(
    "%s is no wider than the screen, and axe finds nothing",
    async (path) => {
      await setViewport(driver, width, 844);
      await driver.executeScript(`localStorage.setItem("nubrel.theme", "${theme}")`);
      await open(path);
      await byCss(driver, "h1");
      await eventually(
        driver,
        async () => !(await (await byCss(driver, "main")).getText()).match(/reading …|searching …/),
        10_000,
        "it still reads",
      );
      expect(await isWide(driver)).toBe(false);
      expect(await axeFindings(driver)).toEqual([]);
    },
  );
});
