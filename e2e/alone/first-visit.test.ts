import { type ChildProcess, spawn } from "node:child_process";
import { readFileSync } from "node:fs";
import { createServer } from "node:net";
import { hostname } from "node:os";
import { By, Key, type WebDriver } from "selenium-webdriver";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { type TestDatabase, testDatabase } from "../../server/testing/test-database.ts";
import { axeFindings } from "../support/axe.mjs";
import { byCss, byText, eventually, fill, openBrowser, press, setViewport } from "../support/browser.mjs";
import { makeOwner, owner } from "../support/first-owner.mjs";
import { startServerProcess } from "../support/server-process.mjs";

// One person's first evening, in order: each test goes on where the one before ended.
const machine = hostname();
let db: TestDatabase;
let port: number;
let server: Awaited<ReturnType<typeof startServerProcess>>;
let browser: Awaited<ReturnType<typeof openBrowser>>;
let driver: WebDriver;
const burners: ChildProcess[] = [];

const start = () => startServerProcess(db.url, { env: { NUBREL_PORT: String(port) } });
const text = async (css: string) => (await byCss(driver, css)).getText();
const query = async () => new URL(await driver.getCurrentUrl()).searchParams;

beforeAll(async () => {
  port = await freePort();
  db = await testDatabase({ migrated: false });
  server = await start();
  browser = await openBrowser();
  driver = browser.driver;
});
afterAll(async () => {
  for (const burner of burners) burner.kill("SIGKILL");
  await browser?.close();
  await server?.stop();
  await db?.drop();
});

describe("the first visit", () => {
  test("a wrong code and a weak password are told at their fields", async () => {
    await driver.get(server.address);
    await fill(driver, "Set-up code", "wrong");
    await fill(driver, "Name", owner.name);
    await fill(driver, "Password", owner.password);
    await press(driver, byText(driver, "button", "Make the account"));
    await byText(driver, "p", "not the code that the start command printed");
    await fill(driver, "Set-up code", server.setupCode as string);
    await fill(driver, "Password", "password1234");
    await press(driver, byText(driver, "button", "Make the account"));
    await byText(driver, "p", "among the most common ones");
  });
  test("the owner is made and sees this machine in the fleet within ten seconds, without doing anything", async () => {
    await makeOwner(driver, server);
    const row = await byCss(driver, `[data-machine="${machine}"]`, 10_000);
    await eventually(
      driver,
      async () => /\d/.test(await row.findElement(By.css("[data-cell=memory]")).getText()),
      10_000,
      "no memory figure",
    );
    expect(await row.getText()).toContain("reporting");
  });
  test("signing out closes the door, signing in opens it; a wrong password is told", async () => {
    await press(driver, byText(driver, "button", owner.name));
    await press(driver, byText(driver, "button", "Sign out"));
    await byText(driver, "h1", "Sign in to Nubrel");
    await fill(driver, "Name", owner.name);
    await fill(driver, "Password", "not this one at all");
    await press(driver, byText(driver, "button", "Sign in"));
    await byText(driver, "p", "No account has this name with this password");
    await fill(driver, "Password", owner.password);
    await press(driver, byText(driver, "button", "Sign in"));
    await byText(driver, "h1", "Fleet");
  });
});

describe("a machine's page", () => {
  test("draws its real processor use: the mean over a window agrees with /proc/stat read by this test", async () => {
    await press(driver, byText(driver, "a", machine));
    await byText(driver, "h1", machine);
    // The server gathers at whole multiples of five seconds: read at nearly the same moments, both see the same
    // stretch.
    // One processor is kept busy before, during and after it, so that a reading that comes late sees the same as well.
    burners.push(spawn(process.execPath, ["-e", "for (;;) {}"], { stdio: "ignore" }));
    const fromMs = await nextFiveSeconds();
    const before = procStat();
    await new Promise((done) => setTimeout(done, 12_000));
    const toMs = await nextFiveSeconds();
    const after = procStat();
    await new Promise((done) => setTimeout(done, 1500));
    for (const burner of burners.splice(0)) burner.kill("SIGKILL");
    const busy = (100 * (after.busy - before.busy)) / (after.all - before.all);
    await driver.get(
      `${server.address}/machines/${machine}?from=${new Date(fromMs).toISOString()}&to=${new Date(toMs).toISOString()}`,
    );
    await choose("What Processor shows", "together");
    await press(driver, byCss(driver, '[aria-label^="figures of processor busy"]'));
    const mean = await eventually(
      driver,
      async () => Number(await text("#processor table tbody td:nth-of-type(3)")),
      10_000,
      "no mean",
    );
    expect(busy).toBeGreaterThan(20);
    expect(Math.abs(mean - busy)).toBeLessThan(8);
  });
  test("has every band that this machine's data allows", async () => {
    for (const title of ["Processor", "Memory", "Load", "Disks", "Network", "Processes"])
      await byText(driver, "h2", title);
  });
  test("lines are hidden and raised from the figures", async () => {
    await choose("What Processor shows", "one line per core");
    await eventually(
      driver,
      async () => (await driver.findElements(By.css('#processor [aria-label="hide core 0"]'))).length === 0,
      5000,
      "figures are open",
    );
    await press(driver, byCss(driver, '[aria-label^="figures of processor busy"]'));
    await press(driver, byCss(driver, '#processor [aria-label="hide core 0"]'));
    await byCss(driver, '#processor [aria-label="show core 0"]');
    await press(driver, byCss(driver, '#processor [aria-label="raise core 1"]'));
    await byCss(driver, '#processor [aria-label="lower core 1"][aria-pressed="true"]');
  });
  test("brushing a chart chooses a window that lives in the address; undo takes it back; lengths, steps and keys work", async () => {
    await press(driver, byText(driver, "footer//button", "15 min"));
    await eventually(driver, async () => (await query()).get("last") === "900", 5000, "15 min is not followed");
    const plot = await byCss(driver, "#memory [data-plot]");
    await driver.executeScript("arguments[0].scrollIntoView({ block: 'center' })", plot);
    await driver
      .actions()
      .move({ origin: plot, x: -100, y: 0 })
      .press()
      .move({ origin: plot, x: 0, y: 5 })
      .move({ origin: plot, x: 100, y: 5 })
      .release()
      .perform();
    await eventually(driver, async () => (await query()).has("from"), 5000, "no window was chosen");
    await byText(driver, "footer//button", "follow now");
    const brushed = (await query()).get("from");
    await press(driver, byText(driver, "footer//button", "back"));
    await eventually(driver, async () => (await query()).get("from") !== brushed, 5000, "back did nothing");
    await press(driver, byText(driver, "footer//button", "undo"));
    await eventually(driver, async () => (await query()).get("from") === brushed, 5000, "undo did not come back");
    await (await byCss(driver, '[aria-label="Start of the window"]')).sendKeys(Key.ARROW_LEFT);
    await eventually(
      driver,
      async () => ((await query()).get("from") ?? "") < (brushed as string),
      5000,
      "the bracket did not move",
    );
    await press(driver, byText(driver, "footer//button", "follow now"));
    await byText(driver, "label", "following now");
  });
  test("the hair shows one moment in all charts", async () => {
    const plot = await byCss(driver, "#memory [data-plot]");
    await driver.actions().move({ origin: plot, x: 40, y: 0 }).perform();
    await eventually(
      driver,
      async () => (await driver.findElements(By.css("[data-plot] .border-ink"))).length >= 5,
      5000,
      "no hair in the other charts",
    );
  });
  test("find leads to a band", async () => {
    await driver.actions().sendKeys("/").perform();
    await driver.switchTo().activeElement().sendKeys(`${machine}: net`);
    await byCss(driver, "[cmdk-item][data-selected=true]");
    await driver.switchTo().activeElement().sendKeys(Key.ENTER);
    await eventually(driver, async () => (await driver.getCurrentUrl()).endsWith("#network"), 5000, "not at the band");
  });
});

describe("a limit from a chart", () => {
  test("three steps make a rule", async () => {
    await press(driver, byCss(driver, '[aria-label="Tell me when processor busy passes a limit"]'));
    const limit = await byCss(driver, '[aria-label="limit in %"]');
    await limit.clear();
    await limit.sendKeys("92");
    const stays = await byCss(driver, '[aria-label="seconds it stays raised"]');
    await stays.clear();
    await stays.sendKeys("10");
    await choose("severity", "urgent");
    await press(driver, byText(driver, "button", "Watch it"));
    await byCss(driver, "#processor [data-rule-state]");
  });
  test("a burst of real load raises it: notice, count, state at the band, mark on the chart, row under Alerts", async () => {
    await eventually(
      driver,
      async () => (await text("#processor [data-rule-state]")).startsWith("quiet"),
      20_000,
      "the rule is not quiet before the load",
    );
    for (let i = 0; i < 4; i++) burners.push(spawn(process.execPath, ["-e", "for (;;) {}"], { stdio: "ignore" }));
    await byCss(driver, "[data-toast]", 40_000);
    expect(await text("[data-toast]")).toMatch(
      /processor busy of .* above 92 %: raised at \d+(\.\d+)? %, the limit is 92 %/,
    );
    await eventually(
      driver,
      async () => (await text("[data-raised-count]")) === "1",
      10_000,
      "the masthead does not count it",
    );
    await byCss(driver, '#processor [data-rule-state="raised"]');
    await byCss(driver, '#processor [data-mark="raised"]', 20_000);
    await press(driver, byText(driver, "a", "Alerts"));
    const row = await byCss(driver, "[data-incident=open]");
    expect(await row.getText()).toMatch(/above 92 ?%[\s\S]*still raised/);
  });
  test("it stays raised over a restart of the server, while the page says that the server is away and then goes on by itself", async () => {
    const before = (await driver.findElements(By.css("[data-incident]"))).length;
    await server.kill("SIGKILL");
    await byText(driver, "p", "has not answered since", 15_000);
    await byCss(driver, "[data-incident=open]");
    server = await start();
    await eventually(
      driver,
      async () => !(await driver.findElement(By.css("body")).getText()).includes("has not answered since"),
      20_000,
      "the page did not come back",
    );
    await byCss(driver, "[data-incident=open]");
    expect(await driver.findElements(By.css("[data-incident]"))).toHaveLength(before);
  });
  test("when the load ends it clears: notice, row with duration, second mark", async () => {
    for (const burner of burners.splice(0)) burner.kill("SIGKILL");
    await eventually(
      driver,
      async () => (await text("[data-raised-count]")) === "0",
      60_000,
      "the masthead still counts it",
    );
    await eventually(
      driver,
      async () => (await driver.findElements(By.css("[data-incident=open]"))).length === 0,
      10_000,
      "the row is still open",
    );
    await byCss(driver, "[data-incident=cleared]");
    await byText(driver, "span", "cleared after");
    await press(driver, byText(driver, "a", "Fleet"));
    await press(driver, byText(driver, "a", machine));
    await byCss(driver, '#processor [data-mark="cleared"]', 20_000);
  });
  test("it is switched off, removed and put back", async () => {
    await press(driver, byText(driver, "a", "Alerts"));
    await closeNotices();
    await press(driver, byText(driver, "button", "switch off"));
    await byText(driver, "span", "switched off");
    await press(driver, byText(driver, "button", "remove"));
    await byText(driver, "p", "No rule yet");
    await press(driver, byText(driver, "button", "Put it back"));
    await byCss(driver, "[data-rule]");
  });
});

describe.each(["day", "night"])("axe-core finds nothing by %s", (theme) => {
  test.each([
    ["fleet", "/", "[data-cell=memory]"],
    ["machine", `/machines/${machine}`, "[data-figure=memory]"],
    ["alerts", "/alerts?last=3600", "[data-incident]"],
    ["a machine that is none", "/machines/none", "h1"],
  ])("%s", async (_name, path, ready) => {
    await driver.executeScript("localStorage.setItem('nubrel.theme', arguments[0])", theme);
    await driver.get(server.address + path);
    await byCss(driver, ready);
    expect(await axeFindings(driver)).toEqual([]);
  });
});

test("on a phone nothing is wider than the screen", async () => {
  await setViewport(driver, 390, 844);
  for (const path of ["/", `/machines/${machine}`, "/alerts?last=3600"]) {
    await driver.get(server.address + path);
    await byCss(driver, "h1");
    expect(await driver.executeScript("return document.documentElement.scrollWidth")).toBe(390);
  }
  await setViewport(driver, 1280, 800);
});

test("the browser reported no error and no breach of the content security policy", async () => {
  const entries = await driver.manage().logs().get("browser");
  const unexpected = entries
    .map(({ message }) => message)
    .filter(
      (message) =>
        !/ERR_CONNECTION_REFUSED|ERR_INCOMPLETE_CHUNKED_ENCODING|ERR_EMPTY_RESPONSE|ERR_CONNECTION_RESET|ERR_SOCKET_NOT_CONNECTED|status of (401|403|422|404)|icon from the Manifest|\/api\/live/.test(
          message,
        ),
    );
  expect(unexpected).toEqual([]);
});

test("the sign-in page, by axe-core", async () => {
  await driver.manage().deleteAllCookies();
  await driver.get(server.address);
  await byText(driver, "h1", "Sign in to Nubrel");
  expect(await axeFindings(driver)).toEqual([]);
});

/** Closes what lies over the page's lower right corner. */
async function closeNotices(): Promise<void> {
  await driver.executeScript(
    "document.querySelectorAll('[data-toast] button').forEach((button) => button.textContent === 'Close' && button.click())",
  );
  await eventually(
    driver,
    async () => (await driver.findElements(By.css("[data-toast]"))).length === 0,
    5000,
    "notices stay",
  );
}

async function choose(label: string, words: string): Promise<void> {
  const select = await byCss(driver, `select[aria-label="${label}"]`);
  await select.findElement(By.xpath(`./option[contains(., ${JSON.stringify(words)})]`)).click();
}

/** Waits for the next whole multiple of five seconds, and gives it. */
async function nextFiveSeconds(): Promise<number> {
  const next = Math.ceil(Date.now() / 5000) * 5000;
  await new Promise((done) => setTimeout(done, next - Date.now() + 5));
  return next;
}

/** Busy and all ticks since the start of the machine, columns as in proc(5). */
function procStat(): { readonly busy: number; readonly all: number } {
  const ticks = (readFileSync("/proc/stat", "utf8").split("\n")[0] as string).split(/\s+/).slice(1, 9).map(Number);
  const all = ticks.reduce((sum, n) => sum + n, 0);
  return { all, busy: all - (ticks[3] as number) - (ticks[4] as number) };
}

function freePort(): Promise<number> {
  return new Promise((resolve) => {
    const probe = createServer().listen(0, "127.0.0.1", () => {
      const { port } = probe.address() as { port: number };
      probe.close(() => resolve(port));
    });
  });
}
