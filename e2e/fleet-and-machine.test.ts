import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { By, Key, type Origin, type WebDriver, type WebElement } from "selenium-webdriver";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { DashboardListed } from "../core/api/dashboards.ts";
import type { MachineEvent } from "../core/events/machine-event.ts";
import type { DemoView } from "../core/api/demo.ts";
import type { ReadingAnswer, ReadingDocument } from "../core/reading/document.ts";
import { type TestDatabase, testDatabase } from "../server/testing/test-database.ts";
import { axeFindings } from "./support/axe.mjs";
import { byCss, byText, eventually, fill, openBrowser, press, setViewport } from "./support/browser.mjs";
import { startServerProcess } from "./support/server-process.mjs";

// Looking at the sample world with its month written: fleet, machine, counters, the sentence, the rail, notes.
let db: TestDatabase;
let folder: string;
let server: Awaited<ReturnType<typeof startServerProcess>>;
let browser: Awaited<ReturnType<typeof openBrowser>>;
let driver: WebDriver;

const open = (path: string) => driver.get(server.address + path);
const search = async () => new URL(await driver.getCurrentUrl()).searchParams;
const readingInAddress = async () =>
  JSON.parse((await search()).get("reading") ?? "null") as Omit<ReadingDocument, "window">;
/** A browser that takes commands of its development tools. */
interface ChromiumDriver {
  sendDevToolsCommand(command: string, values: object): Promise<void>;
}

const ask = <T>(method: string, path: string, body?: unknown): Promise<T> =>
  driver.executeAsyncScript(
    "const [m, p, b, done] = arguments; fetch('/api' + p, { method: m, headers: { 'content-type': 'application/json' }, body: b ? JSON.stringify(b) : undefined }).then((r) => r.json()).then(done)",
    method,
    path,
    body ?? null,
  );
const text = async (css: string) => (await byCss(driver, css)).getText();
const choose = async (label: string, value: string) => {
  const select = await byCss(driver, `select[aria-label="${label}"]`);
  await driver.executeScript("arguments[0].scrollIntoView({ block: 'center' })", select);
  await (await select.findElement(By.css(`option[value="${value}"]`))).click();
};
const part = (name: string) => byCss(driver, `[data-reading-editor] [aria-label^="${name}"]`);
const type = async (...keys: string[]) => {
  for (const key of keys) await (await driver.switchTo().activeElement()).sendKeys(key);
};
const drag = async (element: WebElement, fromX: number, toX: number, shift = false) => {
  const actions = driver.actions();
  if (shift) actions.keyDown(Key.SHIFT);
  actions
    .move({ origin: element as unknown as Origin, x: fromX, y: 0 })
    .press()
    .move({ origin: element as unknown as Origin, x: Math.round((fromX + toX) / 2), y: 0 })
    .move({ origin: element as unknown as Origin, x: toX, y: 0 })
    .release();
  if (shift) actions.keyUp(Key.SHIFT);
  await actions.perform();
};
/** The widths of the window in seconds. */
const windowSeconds = async () => {
  const parts = await search();
  return parts.has("last")
    ? Number(parts.get("last"))
    : (Date.parse(parts.get("to") ?? "") - Date.parse(parts.get("from") ?? "")) / 1000;
};

beforeAll(async () => {
  db = await testDatabase({ migrated: false });
  folder = mkdtempSync(join(tmpdir(), "nubrel-look-"));
  server = await startServerProcess(db.url, {
    demo: true,
    env: { NUBREL_DATA_FOLDER: folder, NUBREL_KEY_FILE: join(folder, "secrets.key") },
  });
  browser = await openBrowser();
  driver = browser.driver;
  await driver.get(server.address);
  await fill(driver, "Name", "Ines");
  await fill(driver, "Password", "kestrel on the quay");
  await press(driver, byText(driver, "button", "Sign in"));
  await byText(driver, "h1", "Fleet");
  await eventually(
    driver,
    async () => ((await (await fetch(`${server.address}/api/demo`)).json()) as DemoView).progress === 1,
    220_000,
    "the month is not written",
  );
}, 260_000);
afterAll(async () => {
  await browser?.close();
  await server?.stop();
  rmSync(folder, { recursive: true, force: true });
  await db?.drop();
});

describe("the fleet", () => {
  test("begins with a briefing; a sentence leads to the view and the window that show it", async () => {
    await open("/?last=21600&every=60");
    const sentence = (await eventually(
      driver,
      async () =>
        (
          await driver.findElements(By.xpath("//*[@data-briefing]//a[contains(., 'the pool archive is at')]"))
        )[0],
      90_000,
      "no sentence about the archive",
    )) as WebElement;
    expect(await sentence.getText()).toMatch(
      /^vault: the pool archive is at 7\d(\.\d)? %, full in \d+( to \d+)? days at this rate\.$/,
    );
    await press(driver, sentence);
    await byText(driver, "h1", "vault");
    expect(new URL(await driver.getCurrentUrl()).hash).toBe("#pools");
    expect(await windowSeconds()).toBe(14 * 86_400);
  });
  test("its figures stay while newer ones are asked for", async () => {
    await open("/?last=86400&every=5");
    const cell = '[data-machine="playout"] [data-cell=memory]';
    await eventually(driver, async () => /\d/.test(await (await byCss(driver, cell)).getText()), 20_000, "no figure");
    await driver.executeScript(
      "window.blanks = []; window.asked = 0; const ask = window.fetch; window.fetch = (url, options) => (/readings/.test(url) && window.asked++, ask(url, options)); window.look = new MutationObserver(() => { const text = document.querySelector(arguments[0])?.innerText ?? 'gone'; if (!/\\d/.test(text)) window.blanks.push(text); }); window.look.observe(document.body, { subtree: true, childList: true, characterData: true });",
      cell,
    );
    await eventually(
      driver,
      async () => Number(await driver.executeScript("return window.asked")) >= 3,
      30_000,
      "nothing is asked again",
    );
    expect(await driver.executeScript("window.look.disconnect(); return window.blanks")).toEqual([]);
  });
  test("what it shows first is asked for before it is drawn, and once", async () => {
    const devTools = driver as unknown as ChromiumDriver;
    await devTools.sendDevToolsCommand("Page.enable", {});
    await devTools.sendDevToolsCommand("Page.addScriptToEvaluateOnNewDocument", {
      source:
        "window.askedFirst = []; const ask = window.fetch; window.fetch = (url, options) => { if (/api\\/readings/.test(url)) window.askedFirst.push([document.querySelector('h1') !== null, ...[JSON.parse(options.body)].flatMap((body) => body.readings ?? [body]).map((one) => JSON.stringify(one))]); return ask(url, options); };",
    });
    await open("/?last=3600&every=300");
    await eventually(
      driver,
      async () => /\d/.test(await text('tr[data-machine="vault"] [data-cell=memory]')),
      20_000,
      "no figure",
    );
    const asked = await driver.executeScript<[drawn: boolean, ...readings: string[]][]>("return window.askedFirst");
    const [drawn, ...ahead] = asked[0] ?? [true];
    expect(drawn).toBe(false);
    expect(ahead.length).toBeGreaterThan(3);
    const all = asked.flatMap(([, ...readings]) => readings);
    expect(new Set(all).size).toBe(all.length);
  });
  test("what runs on a machine folds out beneath it, and is there after a reload", async () => {
    await open("/?last=21600&every=60");
    await press(driver, byCss(driver, '[aria-label="fold out 5 guests of hive"]'));
    await byCss(driver, "[data-part=transcode]");
    await driver.navigate().refresh();
    await eventually(
      driver,
      async () => /\d/.test(await (await byCss(driver, "[data-part=transcode] [data-cell=memory]")).getText()),
      20_000,
      "a guest has no memory figure",
    );
  });
  test("is sorted by a column, grouped by a tag, narrowed down with is and is not; columns are chosen", async () => {
    const names = async () =>
      Promise.all(
        (await driver.findElements(By.css("tr[data-machine]"))).map((row) => row.getAttribute("data-machine")),
      );
    await press(driver, byText(driver, "button", "Fullest volume"));
    await eventually(driver, async () => (await names())[0] === "vault", 10_000, "the fullest does not stand first");
    await choose("group by", "site");
    await byCss(driver, '[data-group="rack"]');
    await press(driver, byText(driver, "button", "where …"));
    await press(driver, byText(driver, "button", "is anything"));
    await choose("tag", "role");
    await choose("how it is compared", "not");
    await press(driver, byText(driver, "label", "storage"));
    await eventually(driver, async () => !(await names()).includes("vault"), 10_000, "vault is still there");
    await type(Key.ESCAPE);
    await press(driver, byCss(driver, '[aria-label^="columns:"]'));
    await press(driver, byText(driver, "label", "Battery"));
    await eventually(
      driver,
      async () => /\d/.test(await (await byCss(driver, "tr[data-machine=ups] [data-cell=battery]")).getText()),
      15_000,
      "no battery",
    );
    await press(driver, byCss(driver, '[aria-label="Battery to the left"]'));
    const heads = async () =>
      Promise.all((await driver.findElements(By.css("thead th"))).map((head) => head.getText()));
    await expect
      .poll(async () => (await heads()).slice(-2).map((head) => head.split(" ")[0]), { timeout: 5000 })
      .toEqual(["Battery", "Fullest"]);
    await type(Key.ESCAPE);
    expect(await axeFindings(driver)).toEqual([]);
    await driver.executeScript("localStorage.removeItem('nubrel.fleet')");
  });
  test("a machine that stops reporting stays in its row as silent, and is told of first", async () => {
    const source = await ask<{ id: number }>("POST", "/sources", {
      kind: "push",
      name: "buoy",
      machine: "buoy",
      intervalMs: 1000,
    });
    const { token } = await ask<{ token: string }>("POST", "/tokens", {
      name: "buoy",
      scope: "write",
      sourceId: source.id,
    });
    await fetch(`${server.address}/api/push/openmetrics`, {
      method: "POST",
      headers: { authorization: `Bearer ${token}`, "content-type": "text/plain" },
      body: "# TYPE wave_height_metres gauge\nwave_height_metres 1.2\n# EOF\n",
    });
    await open("/?last=900&every=5");
    await eventually(
      driver,
      async () => /silent since/.test(await text('tr[data-machine="buoy"]')),
      60_000,
      "buoy is not silent",
    );
    await eventually(
      driver,
      async () => /^buoy has been silent for/.test(await text("[data-briefing] li")),
      60_000,
      "the briefing does not say so",
    );
    await driver.executeAsyncScript(
      "const done = arguments[1]; fetch('/api/sources/' + arguments[0], { method: 'DELETE' }).then(() => done())",
      source.id,
    );
  });
});

describe("the time rail", () => {
  test("keys change the window: lengths, steps, wider, narrower, undo, follow now", async () => {
    await open("/?last=3600&every=5");
    await byCss(driver, "[data-rail]");
    const body = await byCss(driver, "body");
    await body.sendKeys("5");
    expect(await windowSeconds()).toBe(86_400);
    await body.sendKeys("[");
    const from = Date.parse((await search()).get("from") ?? "");
    expect(Math.abs(Date.now() - 2 * 86_400_000 - from)).toBeLessThan(60_000);
    await body.sendKeys("e");
    expect(await windowSeconds()).toBe(43_200);
    await body.sendKeys("w");
    expect(await windowSeconds()).toBe(86_400);
    await body.sendKeys("u", "u");
    expect(Date.parse((await search()).get("from") ?? "")).toBe(from);
    await body.sendKeys("n");
    expect((await search()).get("last")).toBe("86400");
  });
  test("the rail itself is zoomed from an hour to years, by its choice, by keys and by the wheel, and moved", async () => {
    const shown = async () =>
      Number(await (await byCss(driver, '[aria-label="How much the rail shows"]')).getAttribute("value")) / 86_400_000;
    expect(await shown()).toBe(30);
    await choose("How much the rail shows", String(1098 * 86_400_000));
    expect(await shown()).toBe(1098);
    const body = await byCss(driver, "body");
    await body.sendKeys("+");
    expect(await shown()).toBe(366);
    const rail = await byCss(driver, "[data-rail]");
    await driver.executeScript(
      "arguments[0].dispatchEvent(new WheelEvent('wheel', { deltaY: -120, clientX: 600, bubbles: true, cancelable: true }))",
      rail,
    );
    await eventually(driver, async () => (await shown()) === 90, 5000, "the wheel does not zoom");
    const label = async () => (await byCss(driver, "[data-rail] svg")).getAttribute("aria-label");
    const before = await label();
    await body.sendKeys("<");
    await eventually(driver, async () => (await label()) !== before, 5000, "the rail does not move");
    await body.sendKeys(">", "-", "-");
    expect(await shown()).toBe(1098);
  });
  test("an event is told at its tick, and choosing it goes there; a bracket is moved by the arrow keys and by dragging", async () => {
    await open("/machines/ups?last=86400&every=60");
    const tick = await byCss(driver, '[data-event][aria-label*="The mains were away"]', 20_000);
    const events = await ask<MachineEvent[]>("GET", `/events?from=${Date.now() - 30 * 86_400_000}&to=${Date.now()}`);
    const cut = events.find(({ kind }) => kind === "power loss") as MachineEvent;
    await press(driver, tick);
    expect(await windowSeconds()).toBe(86_400);
    const parts = await search();
    expect(Date.parse(parts.get("from") ?? "")).toBeLessThan(cut.fromMs);
    expect(Date.parse(parts.get("to") ?? "")).toBeGreaterThan(cut.toMs);
    await byCss(driver, '#battery [data-plot-event][title*="The mains were away"]', 20_000);
    const start = await byCss(driver, '[aria-label="Start of the window"]');
    await start.sendKeys(Key.ARROW_RIGHT);
    expect(await windowSeconds()).toBeCloseTo(86_400 * 0.9, 0);
    await choose("How much the rail shows", String(90 * 86_400_000));
    const length = await windowSeconds();
    await drag(await byCss(driver, '[aria-label="Start of the window"]'), 0, -100);
    expect(await windowSeconds()).toBeGreaterThan(length + 5 * 86_400);
  });
});

describe("a machine", () => {
  test("has its users beside its bands; a container's page is one click away and has the same grammar", async () => {
    await open("/machines/stream?last=604800&every=60");
    await press(driver, byText(driver, "a", "Containers"));
    const chat = await eventually(
      driver,
      async () => (await driver.findElements(By.xpath("//*[@id='containers']//*[@data-top]//a[.='chat']")))[0],
      20_000,
      "chat is not among the users of memory",
    );
    await press(driver, chat as WebElement);
    await byText(driver, "h1", "chat");
    await eventually(driver, async () => /\d/.test(await text("[data-figure=memory]")), 15_000, "no memory");
    await byCss(driver, '#memory [data-plot-event][title*="restarted"]', 15_000);
    expect(await axeFindings(driver)).toEqual([]);
  });
  test("its Windows has bands; another machine keeps the band and the window", async () => {
    await open("/machines/desk?last=3600&every=60#windows-network");
    await eventually(driver, async () => /\d/.test(await text('[data-figure="windows-network"]')), 15_000, "no figure");
    const look = await driver.findElement(By.xpath("//label[contains(., 'look at')]/select"));
    await look.findElement(By.xpath("./option[.='vault']")).click();
    await byText(driver, "h1", "vault");
    expect((await search()).get("last")).toBe("3600");
  });
  test("any chart can be opened as the sentence that made it, saved as numbers, and its lines hidden, coloured and made wider", async () => {
    await open("/machines/vault?last=86400&every=60");
    await press(driver, byCss(driver, '#network [aria-label^="figures of"]'));
    await press(driver, byCss(driver, '#network [aria-label^="hide"]'));
    await byCss(driver, '#network [aria-label^="show "]');
    await press(driver, byCss(driver, '#network [aria-label^="colour 4 for"]'));
    expect(await (await byCss(driver, '#network [aria-label^="colour 4 for"]')).getAttribute("aria-pressed")).toBe(
      "true",
    );
    await (await byCss(driver, '#network [aria-label^="width of"] option[value="4"]')).click();
    await driver.navigate().refresh();
    await press(driver, byCss(driver, '#network [aria-label^="figures of"]'));
    await byCss(driver, '#network [aria-label^="show "]');
    await driver.executeScript(
      "window.saved = []; const make = URL.createObjectURL; URL.createObjectURL = (blob) => { blob.text().then((text) => window.saved.push(text)); return make(blob); }",
    );
    await press(driver, byCss(driver, '#network [aria-label^="more about"]'));
    await press(driver, byText(driver, "*[@role='menuitem']", "Save numbers (CSV)"));
    const csv = (await eventually(
      driver,
      () => driver.executeScript("return window.saved[0]"),
      5000,
      "nothing was saved",
    )) as string;
    expect(csv.split("\r\n")[0]).toBe("time,enp2s0 received (bit/s),enp2s0 sent (bit/s)");
    expect(csv.trim().split("\r\n").length).toBeGreaterThan(200);
    await driver.executeScript(
      "window.pictures = []; const make = URL.createObjectURL; URL.createObjectURL = (blob) => { window.pictures.push([blob.type, blob.size]); return make(blob); }",
    );
    await press(driver, byCss(driver, '#network [aria-label^="more about"]'));
    await press(driver, byText(driver, "*[@role='menuitem']", "Save as picture"));
    const [kind, size] = (await eventually(
      driver,
      () => driver.executeScript("return window.pictures[0]"),
      5000,
      "no picture",
    )) as [string, number];
    expect(kind).toBe("image/png");
    expect(size).toBeGreaterThan(5000);
    await press(driver, byCss(driver, '#network [aria-label^="more about"]'));
    await press(driver, byText(driver, "*[@role='menuitem']", "How was this made"));
    await byCss(driver, "[data-reading-editor]");
    expect(await readingInAddress()).toEqual({
      sentences: { value: { counter: "system.network.io", where: [{ tag: "machine", is: ["vault"] }] } },
      figure: "value * 8",
      unit: "bit/s",
    });
    expect(await text("[data-sentence]")).toMatch(/^Show\s+network traffic\s+of\s+vault/);
  });
});

describe("counters", () => {
  test("are found by words, names, tags and machines; the first is chosen with Enter and explained", async () => {
    await open("/counters?last=86400&every=60");
    const field = await byCss(driver, "#counter-search");
    await field.sendKeys("archive space");
    await eventually(
      driver,
      async () => (await driver.findElements(By.css("[data-counter-choice]"))).length === 1,
      10_000,
      "not one counter",
    );
    await field.sendKeys(Key.ENTER);
    const facts = await text("[data-counter-facts]");
    expect(facts).toMatch(
      /pool space[\s\S]*storage\.pool\.usage[\s\S]*bytes[\s\S]*a level[\s\S]*vault[\s\S]*4 series[\s\S]*samples a day/,
    );
    expect(await axeFindings(driver)).toEqual([]);
  });
  test("the same is there as a table and as samples as they are stored", async () => {
    await press(driver, byText(driver, "button", "table"));
    await eventually(
      driver,
      async () => (await driver.findElements(By.css("[data-steps-table] tbody tr"))).length > 100,
      10_000,
      "no table",
    );
    await press(driver, byText(driver, "button", "raw samples"));
    await eventually(
      driver,
      async () => (await driver.findElements(By.css("[data-raw-samples] tbody tr"))).length > 50,
      15_000,
      "no samples",
    );
    expect(await axeFindings(driver)).toEqual([]);
  });
});

describe("the sentence", () => {
  const lines = async () => (await driver.findElements(By.css("[data-chart] table tbody tr th"))).length;
  test("is set part by part, by keyboard: machines, a condition, the unit, one line per machine, the highest two", async () => {
    await open("/counters?last=3600&every=60");
    await press(driver, byCss(driver, '[data-counter-choice="system.network.io"]'));
    await (await part("machines:")).sendKeys(Key.ENTER);
    for (const machine of ["gate", "stream", "vault"])
      await driver.findElement(By.xpath(`//label[.//*[.='${machine}']]/input`)).sendKeys(Key.SPACE);
    await type(Key.ESCAPE);
    await choose("how it is presented", "bits per second");
    await (await part("lines:")).sendKeys(Key.ENTER);
    await driver.findElement(By.xpath("//label[normalize-space(.)='machine']/input")).sendKeys(Key.SPACE);
    await type(Key.ESCAPE);
    await eventually(driver, async () => (await lines()) === 3, 10_000, "not three lines");
    await (await part("how many lines:")).sendKeys(Key.ENTER);
    await choose("which end", "highest");
    const count = await byCss(driver, '[aria-label="how many"]');
    await count.sendKeys(Key.chord(Key.CONTROL, "a"), "2");
    await type(Key.ESCAPE);
    await eventually(driver, async () => (await lines()) === 2, 10_000, "not two lines");
    expect(await readingInAddress()).toEqual({
      sentences: {
        a: {
          counter: "system.network.io",
          where: [{ tag: "machine", is: ["gate", "stream", "vault"] }],
          keep: { highest: 2, by: "mean" },
          lines: { per: ["machine"] },
          combine: "sum",
        },
      },
      figure: "a * 8",
      unit: "bit/s",
    });
  });
  test("regrouped, all together by the most: it is the greatest of the machines' own lines, step by step", async () => {
    await (await part("lines:")).sendKeys(Key.ENTER);
    await press(driver, driver.findElement(By.xpath("//label[contains(., 'all in one line')]/input")));
    await type(Key.ESCAPE);
    await choose("how they are joined", "max");
    await eventually(driver, async () => (await lines()) === 1, 10_000, "not one line");
    const reading = await readingInAddress();
    const window = { from: Date.now() - 3_600_000, to: Date.now() - 60_000 };
    const together = await ask<ReadingAnswer>("POST", "/readings", { ...reading, window, step: 60 });
    const { keep: _, ...sentence } = reading.sentences["a"] as ReadingDocument["sentences"][string];
    const each = await ask<ReadingAnswer>("POST", "/readings", {
      ...reading,
      window,
      step: 60,
      sentences: { a: { ...sentence, lines: "each" } },
    });
    const greatest = together.lines[0]?.values.map((_, i) =>
      Math.max(...each.lines.map(({ values }) => values[i] ?? 0)),
    );
    expect(each.lines.length).toBeGreaterThan(5);
    expect(together.lines[0]?.values.map((value) => value ?? 0)).toEqual(greatest);
  });
  test("stands beside a week earlier, and is drawn as areas and as bars", async () => {
    await choose("beside an earlier time", "7d");
    await eventually(driver, async () => /a week earlier/.test(await text("[data-chart]")), 10_000, "no earlier line");
    for (const drawn of ["stacked", "bars", "horizon", "heat", "lines"]) await choose("drawn as", drawn);
    expect((await search()).has("drawn")).toBe(false);
  });
  test("several sentences have names; arithmetic between them that is wrong points at the place, and works when it is right", async () => {
    await press(driver, byText(driver, "button", "another sentence beside it"));
    const figure = await eventually(
      driver,
      async () => (await driver.findElements(By.xpath("//label[contains(., 'and draw')]/input")))[0],
      5000,
      "no place for arithmetic",
    );
    await figure.sendKeys("a / (b + c)");
    const fault = await byCss(driver, '[data-figure-fault="9"]');
    expect(await fault.getText()).toMatch(/a \/ \(b \+ c\)\n\s+\^\n"c" at character 10 is not the name of a sentence/);
    await figure.sendKeys(Key.chord(Key.CONTROL, "a"), "a / b");
    await eventually(
      driver,
      async () =>
        (await driver.findElements(By.css("[data-figure-fault]"))).length === 0 &&
        (await readingInAddress()).figure === "a / b",
      5000,
      "the fault stays",
    );
    const name = await byCss(driver, '[aria-label="name of the sentence b"]');
    await name.sendKeys(Key.chord(Key.CONTROL, "a"), "all", Key.ENTER);
    await eventually(
      driver,
      async () => (await readingInAddress()).figure === "a / all",
      5000,
      "the arithmetic keeps the old name",
    );
    expect(await axeFindings(driver)).toEqual([]);
  });
  test("the document behind it is there, and another is pasted back; what is wrong with one is said", async () => {
    await press(driver, byText(driver, "button", "its document"));
    const area = await byCss(driver, "[data-reading-editor] textarea");
    expect(JSON.parse((await area.getAttribute("value")) ?? "")).toEqual(await readingInAddress());
    const paste = async (document: string) => {
      await area.sendKeys(Key.chord(Key.CONTROL, "a"), document);
      await press(driver, byText(driver, "button", "Draw this"));
    };
    await paste('{"sentences": {"a": {}}}');
    await byText(driver, "p", "sentences.a.counter");
    await paste(
      '{"sentences": {"battery": {"counter": "hw.battery.charge", "of_every": "min"}}, "window": {"from": 1, "to": 2}}',
    );
    await eventually(
      driver,
      async () =>
        JSON.stringify(await readingInAddress()) ===
        '{"sentences":{"battery":{"counter":"hw.battery.charge","of_every":"min"}}}',
      5000,
      "it is not drawn",
    );
    expect(await text('[data-sentence] [aria-label^="counter:"]')).toBe("battery charge");
    expect(await (await byCss(driver, 'select[aria-label="what is kept of a step"]')).getAttribute("value")).toBe(
      "min",
    );
  });
  test("a distribution is a heat map at first, and its 95th percentile a line in seconds", async () => {
    await open("/counters?last=86400&every=60");
    await press(driver, byCss(driver, '[data-counter-choice="link_round_trip_seconds"]'));
    await eventually(
      driver,
      async () => /up to 20 ms[\s\S]*beyond|beyond[\s\S]*up to 20 ms/.test(await text("[data-chart]")),
      10_000,
      "no buckets",
    );
    expect((await search()).get("drawn")).toBe("heat");
    await choose("drawn as", "lines");
    await choose("what is kept of a step", "p95");
    await eventually(driver, async () => (await lines()) === 1, 10_000, "not one line");
    const answer = await ask<ReadingAnswer>("POST", "/readings", {
      ...(await readingInAddress()),
      window: { from: Date.now() - 86_400_000, to: Date.now() },
    });
    expect(answer.lines[0]).toMatchObject({ unit: "s" });
    expect(answer.lines[0]?.max).toBeGreaterThan(answer.lines[0]?.min ?? 1);
  });
});

describe("notes", () => {
  test("a span is brushed on a chart with Shift and noted; it stands on every chart of the machine and on the rail, for everybody", async () => {
    await open("/machines/vault?last=3600&every=60");
    const plot = await byCss(driver, "#processor [data-plot]");
    // The page moves its charts as what stands above them arrives.
    await eventually(driver, async () => /\d/.test(await text("[data-figure=processor]")), 20_000, "no figure");
    await drag(plot, -80, 40, true);
    const what = await byCss(driver, 'form[aria-label="A note"] input');
    await what.sendKeys("changed the third drive", Key.ENTER);
    await byCss(driver, '#memory [data-plot-event][title*="changed the third drive"]', 10_000);
    await byCss(driver, '[data-event][title*="changed the third drive"]', 10_000);
    const [note] = (await ask<MachineEvent[]>("GET", `/events?from=${Date.now() - 3_600_000}&to=${Date.now()}`)).filter(
      ({ kind }) => kind === "note",
    );
    expect(note).toMatchObject({ machine: "vault", text: "changed the third drive", tags: { by: "Ines" } });
    expect((note?.toMs ?? 0) - (note?.fromMs ?? 0)).toBeGreaterThan(120_000);
    expect((await search()).get("last")).toBe("3600");
  });
  test("by keyboard from the chart's menu; the last moment shown belongs to what is shown", async () => {
    await (await byCss(driver, '#memory [aria-label^="more about"]')).sendKeys(Key.ENTER);
    await eventually(
      driver,
      async () => (await driver.findElements(By.css("[role=menuitem]"))).length === 5,
      5000,
      "no menu",
    );
    await type(Key.END, Key.ENTER);
    await byCss(driver, 'form[aria-label="A note"] input');
    await eventually(
      driver,
      async () => (await (await driver.switchTo().activeElement()).getTagName()) === "input",
      5000,
      "the note has no focus",
    );
    await type("more memory ordered", Key.ENTER);
    await eventually(
      driver,
      async () => (await driver.findElements(By.css('[data-event][title*="more memory ordered"]'))).length > 0,
      10_000,
      "no tick",
    );
    await byCss(driver, '#memory button[aria-label*="more memory ordered"]', 5000);
  });
  test("one is taken away at its mark, and put back", async () => {
    await press(driver, byCss(driver, '#processor button[aria-label*="more memory ordered"]'));
    const there = async () =>
      (await driver.findElements(By.css('#processor [data-plot-event][title*="more memory ordered"]'))).length > 0;
    const told = await byText(driver, "p", "more memory ordered");
    await press(driver, told.findElement(By.xpath(".//button[.='take it away']")));
    await eventually(driver, async () => !(await there()), 5000, "it is still there");
    await press(driver, byText(driver, "button", "Put it back"));
    await eventually(driver, there, 5000, "it is not back");
  });
});

test("an address that is none says so, and offers what is near it", async () => {
  await open("/dashbords/3");
  await byText(driver, "h1", "Nothing stands here");
  await press(driver, byText(driver, "main//a", "Dashboards"));
  await byText(driver, "h1", "Dashboards");
});

test("on a phone the rail is one line until it is opened; pages that show no time have none", async () => {
  await setViewport(driver, 390, 844);
  await open("/?last=3600&every=60");
  const rail = await byCss(driver, "footer");
  expect((await rail.getRect()).height).toBeLessThan(48);
  await press(driver, byText(driver, "footer//button", "other times"));
  await eventually(driver, async () => (await rail.getRect()).height > 100, 5000, "it does not open");
  await open("/sources/tokens");
  await byText(driver, "h1", "Sources");
  expect(await driver.findElements(By.css("footer"))).toEqual([]);
  await setViewport(driver, 1280, 800);
});

describe("ease, counted: each fails when one more action is needed", () => {
  let actions = 0;
  const act = async (element: Promise<WebElement>) => {
    actions++;
    await press(driver, element);
  };
  const begin = async (path: string) => {
    await open(path);
    actions = 0;
  };
  test("which container uses most memory, and since when: three", async () => {
    await begin("/?last=604800&every=60");
    await act(byCss(driver, '[data-machine="stream"] th a'));
    await act(byText(driver, "a", "Containers"));
    const first = await eventually(
      driver,
      async () => (await driver.findElements(By.xpath("//*[@id='containers']//*[@data-top]//a")))[0],
      20_000,
      "no containers by their memory",
    );
    expect(await (first as WebElement).getText()).toBe("chat");
    await act(Promise.resolve(first as WebElement));
    await byText(driver, "h1", "chat");
    await eventually(driver, async () => /\d/.test(await text("[data-figure=memory]")), 15_000, "no memory");
    expect(actions).toBeLessThanOrEqual(3);
  });
  test("a chart to an alert that is saved: three", async () => {
    await begin("/machines/vault?last=3600&every=60");
    await act(byCss(driver, '#memory [aria-label^="Tell me when"]'));
    const limit = await byCss(driver, '#memory [aria-label^="limit in"]');
    actions++;
    await limit.sendKeys(Key.chord(Key.CONTROL, "a"), "175");
    await byCss(driver, "#memory [data-limit-doubt]");
    await limit.sendKeys(Key.chord(Key.CONTROL, "a"), "95");
    await act(byText(driver, "button", "Watch it"));
    await byCss(driver, "#memory [data-rule-state]");
    expect(actions).toBeLessThanOrEqual(3);
    await press(driver, byCss(driver, "#memory [data-rule-state] a"));
    await eventually(
      driver,
      async () => /^\/alerts\/rules\/\d+$/.test(new URL(await driver.getCurrentUrl()).pathname),
      10_000,
      "its state does not lead to it",
    );
    const rules = await ask<{ id: number }[]>("GET", "/rules");
    const id = Number((await driver.getCurrentUrl()).match(/rules\/(\d+)/)?.[1]);
    expect(rules.map((rule) => rule.id)).toContain(id);
  });
  test("a Linux machine is connected: three here, and one line to paste there", async () => {
    await begin("/sources/connect");
    await act(byText(driver, "button", "a Linux machine"));
    actions++;
    await (await byCss(driver, '[aria-label="Its name"] input')).sendKeys("cellar");
    await act(byText(driver, "button", "Make its token"));
    const line = await (await byCss(driver, "figure pre")).getText();
    expect(line.split("\n")).toHaveLength(1);
    expect(line).toMatch(/curl|wget/);
    expect(actions).toBeLessThanOrEqual(3);
  });
  test("a dashboard of four tiles from what is on screen: ten", async () => {
    await begin("/machines/vault?last=3600&every=60");
    await eventually(driver, async () => /\d/.test(await text("[data-figure=processor]")), 20_000, "no figure");
    const listed = () => ask<DashboardListed[]>("GET", "/dashboards");
    const before = new Set((await listed()).map(({ id }) => id));
    const made = async () => (await listed()).find(({ id }) => !before.has(id));
    const keep = async (band: string, tiles: number) => {
      await act(byCss(driver, `#${band} [aria-label^="keep "]`));
      const title = (await made())?.title;
      await act(byText(driver, "button", title ?? "a new dashboard"));
      await eventually(driver, async () => (await made())?.tiles === tiles, 10_000, `not ${tiles} tiles`);
    };
    for (const [i, band] of ["processor", "memory", "disks", "network"].entries()) await keep(band, i + 1);
    expect(actions).toBeLessThanOrEqual(10);
  });
});

describe("everywhere", () => {
  test("find knows counters, guests and actions", async () => {
    await open("/?last=900&every=5");
    await byCss(driver, "[data-machine]");
    await (await byCss(driver, "body")).sendKeys(Key.chord(Key.CONTROL, "k"));
    await type("transcode", Key.ENTER);
    await byText(driver, "h1", "transcode");
    await (await byCss(driver, "body")).sendKeys("/");
    await type("battery charge", Key.ENTER);
    await byText(driver, "h1", "battery charge");
    await (await byCss(driver, "body")).sendKeys("/");
    await type("connect a machine", Key.ENTER);
    await eventually(
      driver,
      async () => new URL(await driver.getCurrentUrl()).pathname === "/sources/connect",
      5000,
      "not there",
    );
  });
  test("? lists all keys", async () => {
    await open("/?last=900&every=5");
    await byCss(driver, "[data-machine]");
    await (await byCss(driver, "body")).sendKeys("?");
    const sheet = await byCss(driver, "dialog[open]");
    for (const words of ["find machines", "a window back", "follow now", "the rail shows less"])
      expect(await sheet.getText()).toContain(words);
    expect(await axeFindings(driver)).toEqual([]);
    await type(Key.ESCAPE);
    await eventually(
      driver,
      async () => (await driver.findElements(By.css("dialog[open]"))).length === 0,
      5000,
      "it stays",
    );
  });
  test.each(["/", "/machines/vault?last=3600&every=60", "/alerts?last=2592000&every=60", "/planning/month"])(
    "on paper as wide as A4 nothing of %s is cut off",
    async (path) => {
      await setViewport(driver, 718, 1000);
      await open(path);
      await byCss(driver, "main h1");
      await eventually(
        driver,
        async () => !/reading …/.test(await (await byCss(driver, "main")).getText()),
        20_000,
        "it reads on",
      );
      await (driver as unknown as ChromiumDriver).sendDevToolsCommand("Emulation.setEmulatedMedia", { media: "print" });
      const cut = await driver.executeScript<string[]>(
        "return [...document.querySelectorAll('main table, main [data-chart] canvas')].filter((one) => { const box = one.getBoundingClientRect(); const clip = one.closest('.overflow-x-auto, .overflow-auto'); return box.right > innerWidth + 1 || (clip && clip.scrollWidth > clip.clientWidth + 1); }).map((one) => one.outerHTML.slice(0, 100))",
      );
      await (driver as unknown as ChromiumDriver).sendDevToolsCommand("Emulation.setEmulatedMedia", { media: "" });
      await setViewport(driver, 1280, 800);
      expect(cut).toEqual([]);
    },
  );
  test.each([
    "/",
    "/machines/hive",
    "/machines/hive/guests/web",
    '/counters?reading={"sentences":{"a":{"counter":"system.network.io"}}}',
    "/alerts",
    "/sources",
  ])("by night axe finds nothing on %s", async (path) => {
    await driver.executeScript("localStorage.setItem('nubrel.theme', 'night')");
    await open(path);
    await byCss(driver, "h1");
    await eventually(
      driver,
      async () => !/reading …/.test(await (await byCss(driver, "main")).getText()),
      20_000,
      "it does not come",
    );
    expect(await axeFindings(driver)).toEqual([]);
    await driver.executeScript("localStorage.setItem('nubrel.theme', 'day')");
  });
  test.each([
    [360, 740],
    [1280, 800],
    [2560, 1400],
  ])("nothing is wider than a page of %d px", async (width, height) => {
    await setViewport(driver, width, height);
    for (const path of [
      "/",
      "/machines/stream",
      '/counters?reading={"sentences":{"a":{"counter":"system.network.io","keep":{"highest":8}}}}',
    ]) {
      await open(path);
      await byCss(driver, "h1");
      await byCss(driver, "canvas, [data-cell]", 20_000);
      expect(await driver.executeScript("return document.documentElement.scrollWidth"), path).toBeLessThanOrEqual(
        width,
      );
    }
    await setViewport(driver, 1280, 800);
  });
  test("paper has every chart, also those that no screen has shown yet", async () => {
    await open("/machines/stream?last=3600&every=60");
    await eventually(
      driver,
      async () => (await driver.findElements(By.css("[data-chart]"))).length > 5,
      10_000,
      "no charts",
    );
    const missing = () =>
      driver.executeScript(
        "return [...document.querySelectorAll('[data-chart]')].filter((chart) => !chart.querySelector('canvas')).length",
      );
    await driver.executeScript("dispatchEvent(new Event('beforeprint'))");
    await eventually(
      driver,
      async () => {
        await driver.executeScript("dispatchEvent(new Event('beforeprint'))");
        return (await missing()) === 0;
      },
      10_000,
      "charts are missing on paper",
    );
  });
  test("the browser reported no error and no breach of the content security policy", async () => {
    const said = (await driver.manage().logs().get("browser"))
      .filter(({ level }) => level.name === "SEVERE")
      .map(({ message }) => message);
    expect(said.filter((message) => !/\/api\/(me|live) .*401|422/.test(message))).toEqual([]);
  });
});
