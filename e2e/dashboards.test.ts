import { By, Key, type WebDriver } from "selenium-webdriver";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { DashboardListed, DashboardView } from "../core/api/dashboards.ts";
import { type TestDatabase, testDatabase } from "../server/testing/test-database.ts";
import { axeFindings } from "./support/axe.mjs";
import { byCss, byText, chooseMore, eventually, openBrowser, press, setViewport } from "./support/browser.mjs";
import { makeOwner } from "./support/first-owner.mjs";
import { startServerProcess } from "./support/server-process.mjs";

// One dashboard, composed from nothing: each test goes on where the one before ended.
let db: TestDatabase;
let server: Awaited<ReturnType<typeof startServerProcess>>;
let browser: Awaited<ReturnType<typeof openBrowser>>;
let driver: WebDriver;
const ask = <T>(method: string, path: string, body?: unknown): Promise<T> =>
  driver.executeAsyncScript(
    "const [m, p, b, done] = arguments; fetch('/api' + p, { method: m, headers: { 'content-type': 'application/json' }, body: b ? JSON.stringify(b) : undefined }).then((r) => (r.status === 204 ? null : r.json())).then(done)",
    method,
    path,
    body ?? null,
  );
const saved = async () => {
  const [one] = await ask<DashboardListed[]>("GET", "/dashboards");
  return ask<DashboardView>("GET", `/dashboards/${one?.id}`);
};
const field = (label: string) => driver.findElement(By.xpath(`//label[contains(., ${JSON.stringify(label)})]//input`));
const tiles = async () =>
  Promise.all((await driver.findElements(By.css("[data-tile] h2"))).map((tile) => tile.getText()));
const count = (n: number) =>
  eventually(driver, async () => (await tiles()).length === n, 5000, `there are not ${n} tiles`);
const titled = (...titles: readonly string[]) =>
  eventually(
    driver,
    async () => (await tiles()).join() === titles.join(),
    5000,
    `the tiles are not ${titles.join(", ")}`,
  );
const button = (words: string) => driver.findElement(By.xpath(`//button[normalize-space(.)=${JSON.stringify(words)}]`));
const addCounter = async (words: string, choice: string) => {
  await press(driver, byCss(driver, '[aria-label^="add a tile"]'));
  await (await byCss(driver, "#tile-counter")).sendKeys(words);
  await press(driver, byText(driver, `button[normalize-space(.)=${JSON.stringify(choice)}]`, choice));
  await byCss(driver, "[data-tile-editor]");
};

beforeAll(async () => {
  db = await testDatabase({ migrated: false });
  server = await startServerProcess(db.url);
  browser = await openBrowser();
  driver = browser.driver;
  await makeOwner(driver, server);
  await byCss(driver, "[data-machine] [data-cell=memory]", 20_000);
});
afterAll(async () => {
  await browser?.close();
  await server?.stop();
  await db?.drop();
});

describe("composing", () => {
  test("an empty list says what will stand there; a dashboard is made by its name", async () => {
    await driver.get(`${server.address}/dashboards`);
    await byText(driver, "p", "Here your dashboards will stand");
    expect(await axeFindings(driver)).toEqual([]);
    await (await field("A new one, called")).sendKeys("On air", Key.ENTER);
    await byText(driver, "h1", "On air");
    await byText(driver, "p", "Edit it, and add the first");
  });
  test("a counter is added, titled, and drawn in the way chosen among miniatures of its own data", async () => {
    await press(driver, byText(driver, "button", "edit"));
    await addCounter("memory", "Memory".toLowerCase());
    const title = await field("Title");
    await (await driver.findElement(By.css("[data-tile-editor] input"))).sendKeys(
      Key.chord(Key.CONTROL, "a"),
      "What memory is used for",
    );
    expect(await title.isDisplayed()).toBe(true);
    await eventually(
      driver,
      async () => (await driver.findElements(By.css("[data-tile-editor] canvas"))).length >= 3,
      15_000,
      "no miniatures",
    );
    expect(await axeFindings(driver)).toEqual([]);
    await press(driver, byText(driver, "button", "where …"));
    await press(driver, driver.findElement(By.xpath("//*[@data-tile-editor]//button[contains(., 'is anything')]")));
    await press(driver, byCss(driver, '[role=dialog][aria-label="condition"] input[type=checkbox]'));
    await eventually(
      driver,
      async () =>
        /where\s+\w+ is (?!anything)\w+/.test(
          await (await byCss(driver, "[data-tile-editor] [data-sentence]")).getText(),
        ),
      5000,
      "the condition is not said",
    );
    await (await driver.switchTo().activeElement()).sendKeys(Key.ESCAPE);
    await press(driver, driver.findElement(By.xpath("//label[contains(., 'table')]/span/input")));
    await press(driver, byText(driver, "button", "Back to all tiles"));
    await eventually(
      driver,
      async () => /iB/.test(await (await byCss(driver, '[data-tile="tile-1"]')).getText()),
      10_000,
      "no table",
    );
  });
  test("more tiles: a note, events; copied, moved and resized by keys, undone and done again", async () => {
    await press(driver, byCss(driver, '[aria-label^="add a tile"]'));
    await press(driver, byText(driver, "button", "a note"));
    await (await byCss(driver, "[data-tile-editor] textarea")).sendKeys("Call Bo before the second show.");
    await press(driver, byText(driver, "button", "Back to all tiles"));
    await titled("What memory is used for", "Note");
    await press(driver, byCss(driver, '[aria-label="copy Note"]'));
    await count(3);
    await press(driver, button("undo"));
    await count(2);
    await press(driver, button("redo"));
    await count(3);
    await press(driver, byCss(driver, '[data-tile="tile-3"] [aria-label="remove Note"]'));
    const handle = () => byCss(driver, '[aria-label^="move Note"]');
    const left = async () => await (await byCss(driver, '[data-tile="tile-2"]')).getRect();
    const before = await left();
    await (await handle()).sendKeys(Key.ARROW_RIGHT);
    await eventually(driver, async () => (await left()).x > before.x + 50, 5000, "it does not move");
    await (await handle()).sendKeys(Key.chord(Key.SHIFT, Key.ARROW_DOWN));
    await eventually(driver, async () => (await left()).height > before.height + 20, 5000, "it does not grow");
    expect(await axeFindings(driver)).toEqual([]);
  });
  test("by pointer: dragged by its handle, resized at its corner", async () => {
    const rect = async () => (await byCss(driver, '[data-tile="tile-2"]')).getRect();
    const before = await rect();
    const handle = await byCss(driver, '[aria-label^="move Note"]');
    await driver.executeScript("arguments[0].scrollIntoView({ block: 'center' })", handle);
    await driver
      .actions()
      .move({ origin: handle })
      .press()
      .move({ origin: handle, x: -60, y: 20 })
      .move({ origin: handle, x: -130, y: 40 })
      .release()
      .perform();
    await eventually(driver, async () => (await rect()).x < before.x - 50, 5000, "it was not dragged");
    const corner = await driver.findElement(
      By.xpath(
        "//*[@data-tile='tile-2']/ancestor::*[contains(@class, 'react-grid-item')]//*[contains(@class, 'react-resizable-handle')]",
      ),
    );
    await driver.executeScript("arguments[0].scrollIntoView({ block: 'center' })", corner);
    const wide = (await rect()).width;
    await driver.actions().move({ origin: corner }).press().move({ origin: corner, x: 150, y: 10 }).release().perform();
    await eventually(driver, async () => (await rect()).width > wide + 60, 5000, "it was not resized");
  });
  test("left without saving, the draft is found again; saved, it stands for everybody", async () => {
    expect((await saved()).document.tiles).toHaveLength(0);
    await driver.get(`${server.address}/alerts`);
    await byText(driver, "h1", "Alerts");
    await driver.get(`${server.address}/dashboards/${(await saved()).id}`);
    await byCss(driver, "[data-draft]");
    await titled("What memory is used for", "Note");
    await press(driver, button("Save"));
    await eventually(
      driver,
      async () => (await driver.findElements(By.css("[data-draft]"))).length === 0,
      5000,
      "it is still a draft",
    );
    const { document, revision, changedBy } = await saved();
    expect([document.tiles.map(({ kind }) => kind), revision, changedBy]).toEqual([["table", "note"], 2, "Ines"]);
    expect(await axeFindings(driver)).toEqual([]);
  });
  test("a draft can be dropped; nothing of it stays", async () => {
    await press(driver, button("edit"));
    await press(driver, byCss(driver, '[aria-label="remove Note"]'));
    await titled("What memory is used for");
    await press(driver, button("Drop the draft"));
    await eventually(driver, async () => (await tiles()).length === 2, 5000, "the note is gone");
    expect((await saved()).document.tiles).toHaveLength(2);
    // Dropped by mistake: it is taken back as it was, and waits in the list until it is dropped for good.
    await press(driver, byText(driver, "button", "Take it back"));
    await byCss(driver, "[data-draft]");
    await titled("What memory is used for");
    await press(driver, byText(driver, "a", "Dashboards"));
    await byText(driver, "span", "a draft of yours waits");
    await driver.navigate().back();
    await press(driver, byText(driver, "button", "Drop the draft"));
    await eventually(driver, async () => (await tiles()).length === 2, 5000, "the note is gone");
  });
  test("of two people who edit, the second is told before anything is overwritten", async () => {
    await press(driver, button("edit"));
    const { id, document, revision } = await saved();
    await ask("PUT", `/dashboards/${id}`, { document: { ...document, title: "On air, by Bo" }, revision });
    await press(driver, byCss(driver, '[aria-label="copy Note"]'));
    await press(driver, button("Save"));
    await byText(driver, "p", "has saved version 3");
    expect((await saved()).document.title).toBe("On air, by Bo");
    await press(driver, button("Save as another"));
    await eventually(
      driver,
      async () => (await ask<DashboardListed[]>("GET", "/dashboards")).length === 2,
      5000,
      "there is no second one",
    );
    await eventually(driver, async () => (await tiles()).length === 3, 5000, "the copy has not all tiles");
  });
});

describe("the list", () => {
  test("stars, removes and puts back", async () => {
    await driver.get(`${server.address}/dashboards`);
    await press(driver, byCss(driver, '[aria-label="star On air, by Bo"]'));
    await byCss(driver, '[aria-label="starred: take the star off On air, by Bo"]');
    await press(driver, byCss(driver, '[aria-label="remove On air"]'));
    await eventually(
      driver,
      async () => (await driver.findElements(By.css('[data-dashboard="On air"]'))).length === 0,
      5000,
      "it is still there",
    );
    await press(driver, byText(driver, "button", "Put it back"));
    await byCss(driver, '[data-dashboard="On air"]');
    expect(await axeFindings(driver)).toEqual([]);
  });
  test("versions are looked at and made the newest again", async () => {
    await press(driver, byText(driver, "a", "On air, by Bo"));
    await chooseMore(driver, "versions");
    await press(driver, byCss(driver, '[aria-label="look at it, version 1"]'));
    await byText(driver, "p", "This is version 1, as it was");
    await byText(driver, "p", "Here tiles will stand");
    await press(driver, byCss(driver, '[aria-label="make it the newest, version 2"]'));
    await eventually(
      driver,
      async () => (await tiles()).length === 2 && (await (await byCss(driver, "h1")).getText()) === "On air",
      5000,
      "version 2 is not the newest",
    );
    expect(await axeFindings(driver)).toEqual([]);
    await press(driver, byCss(driver, '[aria-label="make it the newest, version 3"]'));
    await byText(driver, "h1", "On air, by Bo");
  });
  test("as a file it is taken again, with what is missing here told before; a file that is none is refused", async () => {
    const [one] = (await ask<DashboardListed[]>("GET", "/dashboards")).filter(({ title }) => title === "On air, by Bo");
    const { document } = await ask<DashboardView>("GET", `/dashboards/${one?.id}`);
    await driver.get(`${server.address}/dashboards`);
    await press(driver, byText(driver, "button", "From a file"));
    const area = await byCss(driver, "[data-import] textarea");
    await area.sendKeys("no dashboard");
    await byText(driver, "p", "This is not JSON");
    const other = {
      ...document,
      title: "From the mast",
      tiles: document.tiles.map((tile) => ({
        ...tile,
        ...(tile.reading && { reading: { sentences: { a: { counter: "mast.lamp" } } } }),
      })),
    };
    await driver.executeScript(
      "const set = Object.getOwnPropertyDescriptor(HTMLTextAreaElement.prototype, 'value').set; set.call(arguments[0], arguments[1]); arguments[0].dispatchEvent(new Event('input', { bubbles: true }))",
      area,
      JSON.stringify(other),
    );
    expect(await (await byCss(driver, "[data-preview]")).getText()).toMatch(
      /From the mast, 2 tiles\.\nNothing here reports mast\.lamp \(What memory is used for\):/,
    );
    expect(await axeFindings(driver)).toEqual([]);
    await press(driver, byText(driver, "button", "Take it"));
    await byText(driver, "h1", "From the mast");
    await byText(driver, "p", "nothing here reports");
    await driver.get(`${server.address}/dashboards`);
  });
  test("on a phone the tiles stand in one column in reading order, and nothing is wider than the screen", async () => {
    await setViewport(driver, 390, 844);
    await press(driver, byText(driver, "a", "On air, by Bo"));
    await byCss(driver, "[data-tile]");
    const places = () =>
      driver.executeScript<number[]>(
        "return [...document.querySelectorAll('[data-tile]')].map((tile) => Math.round(tile.getBoundingClientRect().x))",
      );
    await eventually(driver, async () => new Set(await places()).size === 1, 10_000, "more than one column");
    expect(await driver.executeScript("return document.documentElement.scrollWidth")).toBeLessThanOrEqual(390);
    await setViewport(driver, 1280, 800);
  });
  test("the browser reported no error and no breach of the content security policy", async () => {
    const said = (await driver.manage().logs().get("browser"))
      .filter(({ level }) => level.name === "SEVERE")
      .map(({ message }) => message);
    expect(said.filter((message) => !/status of (401|409|404)|\/api\/live/.test(message))).toEqual([]);
  });
});
