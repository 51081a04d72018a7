import { By, Key, type WebDriver } from "selenium-webdriver";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { DashboardListed, DashboardView } from "../core/api/dashboards.ts";
import type { SourceView } from "../core/api/sources.ts";
import { type Dashboard, emptyDashboard, type Tile } from "../core/dashboards/dashboard.ts";
import { present } from "../core/units/present.ts";
import { type TestDatabase, testDatabase } from "../server/testing/test-database.ts";
import { axeFindings } from "./support/axe.mjs";
import {
  byCss,
  byText,
  chooseMore,
  eventually,
  openBrowser,
  press,
  printedPdf,
  setViewport,
} from "./support/browser.mjs";
import { makeOwner } from "./support/first-owner.mjs";
import { startServerProcess } from "./support/server-process.mjs";

// Tiles of known samples of three buoys at two sites; the same samples stand in a plain table beside, for SQL to say
// what is right.
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
const end = Math.floor(Date.now() / 60_000) * 60_000;
const from = end - 30 * 60_000;
const windowSearch = `from=${new Date(from).toISOString()}&to=${new Date(end).toISOString()}`;
const buoys = [
  { machine: "north", site: "bay" },
  { machine: "south", site: "bay" },
  { machine: "far", site: "sea" },
];
const place = { x: 0, y: 0, width: 6, height: 6 };
const height = (more: object = {}) => ({
  sentences: { a: { counter: "wave_height_metres", lines: { per: ["machine"] }, ...more } },
});
const tile = (id: string, kind: Tile["kind"], more: Partial<Tile> = {}): Tile => ({
  id,
  title: id,
  kind,
  place,
  reading: height(),
  ...more,
});
const board = (title: string, tiles: readonly Tile[], more: Partial<Dashboard> = {}): Dashboard => ({
  ...emptyDashboard(title),
  tiles: tiles.map((one, i) => ({ ...one, place: { ...one.place, y: i * 6 } })),
  ...more,
});
const made = async (document: Dashboard, search = "") => {
  const saved = await ask<DashboardView>("POST", "/dashboards", { document });
  expect(saved.id, JSON.stringify(saved)).toBeDefined();
  await driver.get(`${server.address}/dashboards/${saved.id}?${windowSearch}${search}`);
  return saved.id;
};
/** In the present window, where this machine has values. */
const madeNow = async (document: Dashboard) => {
  const { id } = await ask<DashboardView>("POST", "/dashboards", { document });
  await driver.get(`${server.address}/dashboards/${id}?last=300&every=5`);
  return id;
};
const documentOf = async (id: number) => (await ask<DashboardView>("GET", `/dashboards/${id}`)).document;
const textOf = async (css: string) => (await byCss(driver, css)).getText();
const shows = (css: string, expected: RegExp) =>
  eventually(driver, async () => expected.test(await textOf(css)), 10_000, `${css} does not show ${expected}`);
const button = (words: string) => byText(driver, "button", words);
const editTile = async (id: number, title: string, search = windowSearch) => {
  await driver.get(`${server.address}/dashboards/${id}?${search}`);
  await press(
    driver,
    driver.findElement(By.xpath("//button[normalize-space(.)='edit']")).catch(() => button("edit")),
  );
  await press(driver, byCss(driver, `[aria-label="change ${title}"]`));
  await byCss(driver, "[data-tile-editor]");
};
const choose = async (label: string, words: string) => {
  const field = await byCss(driver, `[data-tile-editor] select[aria-label="${label}"]`);
  await driver.executeScript("arguments[0].scrollIntoView({ block: 'center' })", field);
  await field.sendKeys(words);
};
const save = async () => {
  await press(driver, driver.findElement(By.xpath("//button[normalize-space(.)='Save']")));
  await eventually(
    driver,
    async () => (await driver.findElements(By.css("[data-draft]"))).length === 0,
    5000,
    "it is still a draft",
  );
};
const inDialog = (words: string) =>
  eventually(
    driver,
    () => driver.findElement(By.xpath(`//*[@role='dialog']//button[normalize-space(.)='${words}']`)),
    5000,
    `no button ${words}`,
  );
const meters = async () =>
  Promise.all(
    (await driver.findElements(By.css('[data-alone] [role="meter"], [data-tile] [role="meter"]'))).map(
      async (meter) => `${await meter.getAttribute("aria-label")}: ${await meter.getAttribute("aria-valuetext")}`,
    ),
  );

beforeAll(async () => {
  db = await testDatabase({ migrated: false });
  server = await startServerProcess(db.url);
  browser = await openBrowser();
  driver = browser.driver;
  await makeOwner(driver, server);
  await byCss(driver, "[data-machine] [data-cell=memory]", 20_000);
  await db.database.query("create table known (machine text, site text, ts timestamptz, value float8)");
  for (const { machine, site } of buoys) {
    const { source } = await ask<{ source: SourceView }>("POST", "/sources", {
      name: machine,
      kind: "push",
      machine,
      tags: { site },
      intervalMs: 60_000,
    }).then((answer) => ("source" in (answer as object) ? answer : { source: answer as unknown as SourceView }));
    const { token } = await ask<{ token: string }>("POST", "/tokens", {
      name: machine,
      scope: "write",
      sourceId: source.id,
    });
    const samples = Array.from({ length: 30 }, (_, i) => ({
      at: from + i * 60_000,
      value: Math.round(1000 * (1 + machine.length / 4 + Math.sin(i + machine.length))) / 1000,
    }));
    const body = `time,wave_height_metres\n${samples.map(({ at, value }) => `${new Date(at).toISOString()},${value}`).join("\n")}\n`;
    const answer = await fetch(`${server.address}/api/push/csv`, {
      method: "POST",
      headers: { authorization: `Bearer ${token}`, "content-type": "text/csv" },
      body,
    });
    expect(answer.status, await answer.clone().text()).toBe(200);
    for (const { at, value } of samples)
      await db.database.query(
        "insert into known values ($1::text, $2::text, to_timestamp($3::float8 / 1000), $4::float8)",
        [machine, site, at, value],
      );
  }
});
afterAll(async () => {
  await browser?.close();
  await server?.stop();
  await db?.drop();
});

describe("figures on tiles", () => {
  test("are those that SQL finds over the same samples: highest, lowest, mean and last of each line", async () => {
    const { rows } = await db.database.query<{ machine: string; max: number; min: number; mean: number; last: number }>(
      "select machine, max(value), min(value), avg(value) as mean, (array_agg(value order by ts desc))[1] as last from known group by machine order by machine",
    );
    const one = { ...height(), step: 60 };
    await made(
      board("Figures", [
        tile("table", "table", { reading: one }),
        tile("highest", "meter", { reading: one, shows: "max", meter: { max: 5, order: "name" } }),
        tile("mean", "top", { reading: one, shows: "mean" }),
      ]),
    );
    await shows('[data-tile="table"]', /north/);
    const text = await textOf('[data-tile="table"]');
    for (const { machine, max, min, mean, last } of rows)
      expect(text).toContain([machine, ...[last, min, mean, max].map((value) => present(value, "1").text)].join(" "));
    await eventually(driver, async () => (await meters()).length === 3, 10_000, "there are not three meters");
    expect(await meters()).toEqual(rows.map(({ machine, max }) => `${machine}: ${present(max, "1").text}`));
    const means = await textOf('[data-tile="mean"]');
    for (const { machine, mean } of rows)
      expect(means.replaceAll("\n", " ")).toMatch(
        new RegExp(`${machine} ${present(mean, "1").text.replace(".", "\\.")}`),
      );
    expect(await axeFindings(driver)).toEqual([]);
  });
  test("one value alone asks for the ends of its scale, and has one when they are given in its editor, by keyboard", async () => {
    const id = await madeNow(
      board("Alone", [
        tile("one", "meter", {
          reading: { sentences: { a: { counter: "system.memory.limit", lines: "together", combine: "max" } } },
        }),
      ]),
    );
    await shows('[data-tile="one"]', /One value alone has no scale/);
    await editTile(id, "one", "last=300&every=5");
    await choose("where the scale ends", "a number");
    await (await byCss(driver, '[aria-label="where the scale ends, a number"]')).sendKeys(
      Key.chord(Key.CONTROL, "a"),
      "8",
      Key.TAB,
    );
    await choose("orientation", "lying");
    await choose("filled", "by the value");
    await press(driver, button("set a limit"));
    await (await byCss(driver, '[aria-label="limit 1, at"]')).sendKeys(Key.chord(Key.CONTROL, "a"), "0.5", Key.TAB);
    await eventually(
      driver,
      async () => /past its limit, notice/.test((await meters()).join()),
      5000,
      "the limit is not passed",
    );
    expect(await axeFindings(driver)).toEqual([]);
    await save();
    expect((await documentOf(id)).tiles[0]).toMatchObject({
      meter: { max: 8, orientation: "lying", fill: "value" },
      limits: [{ at: 0.5, compare: "above", severity: "notice" }],
    });
    await byCss(driver, '[data-meters="lying"]');
    await shows('[data-tile="one"]', /scale 0 to 8 B, as it was set/);
  });
});

describe("tables", () => {
  test("pasted, confirmed as understood, changed in place; columns that are bounds are not drawn as values", async () => {
    const id = await made(board("Table", []));
    await press(driver, button("edit"));
    await press(driver, byCss(driver, '[aria-label^="add a tile"]'));
    await press(driver, button("a table of your own"));
    const area = await byCss(driver, "[data-own-table] textarea");
    await area.sendKeys("volume;used;size\narchive;91,5;100\nwork;10\n");
    await byText(driver, "p", "Line 3: 2 fields, the first row has 3.");
    await area.sendKeys(Key.chord(Key.CONTROL, "a"), "volume;used;size\narchive;91,5;100\nwork;10;40\n");
    await shows("[data-understood]", /Understood as 2 rows/);
    expect(await axeFindings(driver)).toEqual([]);
    await press(driver, button("Use this table"));
    await choose("where the scale ends", "each one's size");
    await eventually(
      driver,
      async () => (await meters()).filter((said) => said === "archive: 91.5").length > 0,
      5000,
      "archive has no meter",
    );
    const cell = await byCss(driver, '[aria-label="used, row 2"]');
    await cell.sendKeys(Key.chord(Key.CONTROL, "a"), "many");
    expect(await cell.getAttribute("aria-invalid")).toBe("true");
    await cell.sendKeys(Key.chord(Key.CONTROL, "a"), "20", Key.TAB);
    await save();
    const { tiles } = await documentOf(id);
    expect(tiles[0]).toMatchObject({
      kind: "meter",
      meter: { max: { column: "size" } },
      table: {
        rows: [
          ["archive", 91.5, 100],
          ["work", 20, 40],
        ],
      },
    });
    await eventually(driver, async () => (await meters()).join() === "archive: 91.5,work: 20", 5000, "other meters");
  });
  test("the present values of sentences become a table", async () => {
    const id = await made(board("Frozen", [tile("now", "meter", { reading: { ...height(), step: 60 } })]));
    await editTile(id, "now");
    await press(driver, button("a table of their present values"));
    await byCss(driver, '[aria-label="line, row 1"]');
    await save();
    const [one] = (await documentOf(id)).tiles;
    expect([one?.reading, one?.table?.rows.map(([name]) => name).sort()]).toEqual([
      undefined,
      ["far", "north", "south"],
    ]);
  });
});

describe("pickers", () => {
  const pickers: Dashboard["pickers"] = [
    { id: "site", tag: "site", choose: "several" },
    { id: "machine", tag: "machine", choose: "several" },
  ];
  test("are made in the draft, offer what there is, depend on each other, and live in the address", async () => {
    const id = await made(board("Picked", [tile("waves", "table")]));
    await press(driver, button("edit"));
    await press(driver, button("pickers"));
    for (const tag of ["site", "machine"]) {
      await press(driver, byCss(driver, '[aria-label^="add a picker"]'));
      await press(driver, inDialog(tag));
      await byCss(driver, `[aria-label="how many of ${tag} are picked"]`);
    }
    expect(await axeFindings(driver)).toEqual([]);
    await save();
    expect((await documentOf(id)).pickers).toEqual(pickers);
    const open = async (picker: string) => press(driver, byCss(driver, `[data-picker="${picker}"] button`));
    await open("site");
    const bay = await driver.findElement(By.xpath("//*[@role='dialog']//label[contains(., 'bay')]//input"));
    await bay.sendKeys(Key.SPACE, Key.ESCAPE);
    await eventually(
      driver,
      async () => /pick\.site=bay/.test(await driver.getCurrentUrl()),
      5000,
      "the address does not say it",
    );
    await eventually(
      driver,
      async () => !/far/.test(await textOf('[data-tile="waves"]')),
      10_000,
      "far is still there",
    );
    await open("machine");
    expect((await driver.findElement(By.css("[role=dialog]")).getText()).split("\n")).toEqual([
      "all",
      "north",
      "south",
    ]);
    expect(await axeFindings(driver)).toEqual([]);
  });
  test("a pick that leaves nothing over is named by the empty tile, which takes it back", async () => {
    await made(board("Empty", [tile("waves", "lines")], { pickers }), "&pick.site=sea&pick.machine=north");
    await shows("[data-excluded]", /Nothing here is of .*(sea|north)/);
    await press(driver, byText(driver, "button", "Pick all of site"));
    await byCss(driver, '[data-tile="waves"] canvas');
    expect(await driver.getCurrentUrl()).not.toContain("pick.site");
  });
  test("a tile repeats for each picked value; its own start is kept with the dashboard", async () => {
    await made(
      board("Each", [tile("waves", "number", { repeat: "machine" })], {
        pickers: [{ id: "machine", tag: "machine", choose: "several", start: ["north", "far"] }],
      }),
    );
    await eventually(
      driver,
      async () => (await driver.findElements(By.css("[data-tile] [data-number]"))).length === 2,
      10_000,
      "it does not stand twice",
    );
    expect(
      await Promise.all((await driver.findElements(By.css("[data-tile] h2"))).map((head) => head.getText())),
    ).toEqual(["waves, north", "waves, far"]);
    expect(await driver.getCurrentUrl()).not.toContain("pick.");
  });
});

describe("from a tile to its data", () => {
  test("alone it tells its sentence, arithmetic, numbers and document; a copy goes to another dashboard", async () => {
    const id = await made(
      board("Made", [tile("double", "lines", { reading: { ...height(), step: 60, figure: "a * 2", unit: "m" } })]),
    );
    await press(driver, byCss(driver, '[aria-label^="open double alone"]'));
    await shows("[data-how-made]", /Show .* of every machine, mean of every 1 min, one line per machine/);
    const { rows } = await db.database.query<{ last: number }>(
      "select 2 * (array_agg(value order by ts desc))[1] as last from known where machine = 'far'",
    );
    expect(await textOf("[data-how-made]")).toMatch(new RegExp(`far ${present(rows[0]?.last ?? 0, "1").text}`));
    await shows("[data-how-made]", /a \* 2/);
    expect(await axeFindings(driver)).toEqual([]);
    await press(driver, byCss(driver, '[aria-label^="copy double to a dashboard"]'));
    await press(driver, inDialog("Alone"));
    await shows("[data-toast]", /"double" stands on "Alone" now/);
    const other = (await ask<DashboardListed[]>("GET", "/dashboards")).find(({ title }) => title === "Alone");
    expect((await documentOf(other?.id ?? 0)).tiles.map(({ title }) => title)).toEqual(["one", "double"]);
    expect((await documentOf(id)).tiles).toHaveLength(1);
  });
  test("a tile is moved to another dashboard from the draft", async () => {
    const id = await made(board("From", [tile("goes", "number"), tile("stays", "number")]));
    await press(driver, button("edit"));
    await press(driver, byCss(driver, '[aria-label^="move goes to another dashboard"]'));
    await press(driver, inDialog("a new dashboard"));
    await eventually(
      driver,
      async () => (await driver.findElements(By.css("[data-tile]"))).length === 1,
      5000,
      "it is still in the draft",
    );
    await save();
    expect((await documentOf(id)).tiles.map(({ title }) => title)).toEqual(["stays"]);
    expect((await ask<DashboardListed[]>("GET", "/dashboards")).map(({ title }) => title)).toContain("goes");
  });
});

test("a note's Markdown can run nothing; its live figures are those of its sentence", async () => {
  const text =
    '# Waves\n\n<img src=x onerror="window.hacked = 1"><script>window.hacked = 1</script>\n\n[go](javascript:window.hacked=1) highest **{a highest}**, {b}';
  await made(
    board("Noted", [
      tile("note", "note", { text, reading: { ...height({ lines: "together", combine: "max" }), step: 60 } }),
    ]),
  );
  const { rows } = await db.database.query<{ max: number }>("select max(value) from known");
  await eventually(
    driver,
    async () => (await textOf('[data-live-figure="a"]')).startsWith(present(rows[0]?.max ?? 0, "1").text),
    10_000,
    "the figure is another",
  );
  await shows("[data-note]", /\{b\?\}/);
  expect(
    await driver.executeScript(
      "document.querySelector('[data-note] a')?.click(); return [window.hacked ?? null, document.querySelectorAll('[data-note] script, [data-note] img').length, document.querySelector('[data-note] a')?.getAttribute('href') ?? '']",
    ),
  ).toEqual([null, 0, ""]);
});

describe("elsewhere than on this screen", () => {
  test("on a wall: in turn, held and moved on by keys, large, left by Escape", async () => {
    const titled = (title: string) => byCss(driver, `[data-wall="${title}"]`);
    const [alone, noted] = await Promise.all(
      ["Alone", "Noted"].map(
        async (title) => (await ask<DashboardListed[]>("GET", "/dashboards")).find((one) => one.title === title)?.id,
      ),
    );
    await setViewport(driver, 1920, 1080);
    await driver.get(`${server.address}/wall?show=${alone}&show=${noted}&turn=3600&night=0-23`);
    await titled("Alone");
    expect(
      await driver.executeScript(
        "return [document.documentElement.scrollHeight <= 1080 + 6, getComputedStyle(document.querySelector('main')).zoom, document.querySelectorAll('footer, nav').length]",
      ),
    ).toEqual([true, "1.5", 0]);
    expect(await axeFindings(driver)).toEqual([]);
    const page = await driver.findElement(By.css("body"));
    await page.sendKeys(Key.ARROW_RIGHT);
    await titled("Noted");
    await page.sendKeys(Key.ARROW_RIGHT);
    await titled("Alone");
    await page.sendKeys(" ");
    await byText(driver, "p", "held");
    await page.sendKeys(Key.ESCAPE);
    await byText(driver, "h1", "Dashboards");
    await setViewport(driver, 1280, 800);
  });
  test("on paper: pages by day with everything on them, and the screen again after it", async () => {
    await made(board("Printed", [tile("a", "lines"), tile("b", "table"), tile("c", "number")]));
    await byCss(driver, '[data-tile="a"] canvas');
    await driver.executeScript(
      "window.print = () => { window.printed = [document.querySelector('[data-paper]')?.dataset.paper, document.querySelectorAll('.paper-page canvas').length, document.documentElement.dataset.theme]; dispatchEvent(new Event('afterprint')); }; localStorage.setItem('nubrel.theme', 'night')",
    );
    await chooseMore(driver, "on paper");
    await eventually(
      driver,
      async () => (await driver.executeScript("return window.printed ?? null")) !== null,
      10_000,
      "it was not printed",
    );
    expect(await driver.executeScript("return window.printed")).toEqual(["2", 1, "day"]);
    await driver.executeScript("localStorage.removeItem('nubrel.theme')");
    await byText(driver, "button", "edit");
    const data = await printedPdf(driver);
    expect(
      Buffer.from(data, "base64")
        .toString("latin1")
        .match(/\/Type\s*\/Page\b/g),
    ).toHaveLength(2);
  });
  test("the list has miniatures, and folders by tag", async () => {
    const { document, revision, id } = await ask<DashboardView>(
      "GET",
      `/dashboards/${(await ask<DashboardListed[]>("GET", "/dashboards")).find(({ title }) => title === "Printed")?.id}`,
    );
    await ask("PUT", `/dashboards/${id}`, { document: { ...document, tags: ["paper"] }, revision });
    await driver.get(`${server.address}/dashboards?${windowSearch}`);
    await byCss(driver, "[data-dashboard] [data-miniature] [data-tile]");
    await press(
      driver,
      driver
        .findElement(By.xpath("//*[@data-folders]//button[starts-with(., 'paper')]"))
        .catch(() => byText(driver, "button", "paper")),
    );
    const listed = async () =>
      await Promise.all(
        (await driver.findElements(By.css("[data-dashboard]"))).map((row) => row.getAttribute("data-dashboard")),
      );
    await eventually(driver, async () => (await listed()).join() === "Printed", 10_000, "other folders are shown too");
    expect(await axeFindings(driver)).toEqual([]);
  });
});

test("the browser reported no error and no breach of the content security policy", async () => {
  const said = (await driver.manage().logs().get("browser"))
    .filter(({ level }) => level.name === "SEVERE")
    .map(({ message }) => message);
  expect(said.filter((message) => !/status of (401|409|404)|\/api\/live/.test(message))).toEqual([]);
});
