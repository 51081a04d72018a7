import { spawn } from "node:child_process";
import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { availableParallelism } from "node:os";
import { By, Key, type WebDriver } from "selenium-webdriver";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { DashboardView } from "../../core/api/dashboards.ts";
import type { RuleView } from "../../core/api/rules.ts";
import { emptyDashboard } from "../../core/dashboards/dashboard.ts";
import type { IncidentView } from "../../core/rules/rule.ts";
import { type TestDatabase, testDatabase } from "../../server/testing/test-database.ts";
import { axeFindings } from "../support/axe.mjs";
import { byCss, byText, eventually, openBrowser, press, setViewport } from "../support/browser.mjs";
import { makeOwner } from "../support/first-owner.mjs";
import { startServerProcess } from "../support/server-process.mjs";

// The whole way: a chart, a rule, a real load, a notice, a message, an incident that is acknowledged and clears.
let db: TestDatabase;
let server: Awaited<ReturnType<typeof startServerProcess>>;
let browser: Awaited<ReturnType<typeof openBrowser>>;
let driver: WebDriver;
let receiver: Server;
const heard: {
  readonly kind: string;
  readonly incidents: readonly { readonly links: { readonly tile: string | null; readonly incident: string } }[];
}[] = [];
const ask = <T>(method: string, path: string, body?: unknown): Promise<T> =>
  driver.executeAsyncScript(
    "const [m, p, b, done] = arguments; fetch('/api' + p, { method: m, headers: { 'content-type': 'application/json' }, body: b ? JSON.stringify(b) : undefined }).then((r) => (r.status === 204 ? null : r.json())).then(done)",
    method,
    path,
    body ?? null,
  );
const button = (words: string) => byText(driver, "button", words);
const textOf = async (css: string) => (await byCss(driver, css)).getText();
const shows = (css: string, expected: RegExp, timeoutMs = 10_000) =>
  eventually(driver, async () => expected.test(await textOf(css)), timeoutMs, `${css} does not show ${expected}`);
const processor = {
  sentences: {
    busy: {
      counter: "system.cpu.time",
      where: [{ tag: "mode", not: ["idle", "iowait"] }],
      lines: { per: ["machine"] },
      combine: "sum",
    },
  },
};
const typeInto = async (label: string, text: string) => {
  const field = await byCss(driver, `[aria-label="${label}"]`);
  await driver.executeScript("arguments[0].scrollIntoView({ block: 'center' })", field);
  await field.sendKeys(Key.chord(Key.CONTROL, "a"), text, Key.TAB);
};
const incidents = () => ask<IncidentView[]>("GET", `/incidents?from=0&to=${Date.now() + 1000}`);
/** All processors but a little, for so long: a browser alone does not reach that, on a slow machine either. */
const busyLimit = availableParallelism() * 0.8;
const busySeconds = 10;
/** Keeps every processor busy until it is told to end. */
const load = () => {
  const all = Array.from({ length: availableParallelism() }, () => spawn(process.execPath, ["-e", "for (;;);"]));
  return () => {
    for (const one of all) one.kill("SIGKILL");
  };
};

beforeAll(async () => {
  db = await testDatabase({ migrated: false });
  server = await startServerProcess(db.url, { env: { NUBREL_GATHER_MS: "1000" } });
  browser = await openBrowser();
  driver = browser.driver;
  await makeOwner(driver, server);
  await byCss(driver, "[data-machine] [data-cell=memory]", 20_000);
  receiver = createServer((request, response) => {
    let body = "";
    request.on("data", (part) => (body += part));
    request.on("end", () => {
      heard.push(JSON.parse(body));
      response.end("ok");
    });
  });
  await new Promise<void>((done) => receiver.listen(0, "127.0.0.1", done));
});
afterAll(async () => {
  await browser?.close();
  await server?.stop();
  receiver?.close();
  await db?.drop();
});

describe("the whole way", () => {
  let dashboard = 0;
  test("a recipient is tried before it is saved: the answer stands there as it came", async () => {
    await driver.get(`${server.address}/alerts/recipients`);
    await byText(driver, "p", "Nobody yet");
    expect(await axeFindings(driver)).toEqual([]);
    await press(driver, button("by webhook"));
    await (await byCss(driver, "[data-recipient-form] input[required]")).sendKeys("the desk");
    await (await byCss(driver, "[data-recipient-form] input[type=url]")).sendKeys("http://127.0.0.1:9/");
    await press(driver, button("Send a test message"));
    await shows("[data-try=false]", /Nothing listens at 127\.0\.0\.1:9/);
    await (await byCss(driver, "[data-recipient-form] input[type=url]")).sendKeys(
      Key.chord(Key.CONTROL, "a"),
      `http://127.0.0.1:${(receiver.address() as AddressInfo).port}/hook`,
    );
    await press(driver, button("Send a test message"));
    await shows("[data-try=true]", /HTTP 200\s+ok/);
    await press(driver, button("texts of your own"));
    await shows("[data-texts-preview]", /notice raised: processor busy, playout/);
    expect(await axeFindings(driver)).toEqual([]);
    await press(driver, driver.findElement(By.xpath("//button[normalize-space(.)='Save']")));
    await byCss(driver, '[data-recipient="the desk"]');
    expect(heard.map(({ kind }) => kind)).toEqual(["test"]);
  });
  test("from a tile's chart: a rule about it, rehearsed on what was, saved", async () => {
    const made = await ask<DashboardView>("POST", "/dashboards", {
      document: {
        ...emptyDashboard("Load"),
        tiles: [
          {
            id: "tile-1",
            title: "Processor",
            kind: "lines",
            place: { x: 0, y: 0, width: 12, height: 7 },
            reading: processor,
          },
        ],
      },
    });
    dashboard = made.id;
    await driver.get(`${server.address}/dashboards/${dashboard}?last=300&every=5`);
    await byCss(driver, "[data-tile] canvas");
    await press(driver, byCss(driver, '[aria-label="more about Processor"]'));
    await press(
      driver,
      byText(driver, "div", "Tell me when …").then(() =>
        driver.findElement(By.xpath("//*[@role='menuitem'][contains(., 'Tell me when')]")),
      ),
    );
    await byText(driver, "h1", "A new rule");
    await shows("[data-rehearsal]", /It would (not )?have been raised/);
    expect(await axeFindings(driver)).toEqual([]);
    await typeInto("notice, above", "0.0001");
    await eventually(
      driver,
      async () => Number(await (await byCss(driver, "[data-rehearsed]")).getAttribute("data-rehearsed")) > 0,
      10_000,
      "it would not be raised",
    );
    // The limit is moved on the chart, by keys: the rehearsal follows.
    const slider = await byCss(driver, '[role=slider][aria-label="limit, notice"]');
    const before = Number(await slider.getAttribute("aria-valuenow"));
    await slider.sendKeys(Key.ARROW_UP);
    await eventually(
      driver,
      async () =>
        Number(await (await byCss(driver, '[role=slider][aria-label="limit, notice"]')).getAttribute("aria-valuenow")) >
        before,
      5000,
      "the limit does not move",
    );
    await typeInto("notice, above", String(busyLimit));
    await press(driver, button("urgent, too"));
    await typeInto("urgent, above", "50");
    await press(driver, button("Watch it"));
    await byCss(driver, "[data-rule]");
    const [rule] = await ask<RuleView[]>("GET", "/rules");
    expect(rule).toMatchObject({
      name: "Processor",
      place: { dashboard, tile: "tile-1" },
      notice: { high: busyLimit },
      urgent: { high: 50 },
      watch: { kind: "value", of: "last" },
    });
    const { name, reading, place, notice, urgent } = rule as RuleView;
    expect(
      await ask<RuleView>("PUT", `/rules/${rule?.id}`, {
        name,
        reading,
        place,
        notice,
        urgent,
        compare: "above",
        mustLastSeconds: busySeconds,
      }),
    ).toMatchObject({ mustLastSeconds: busySeconds });
  });
  test("under a real load: a notice at once, the count in title and masthead, a message with links to the tile at that window", async () => {
    await driver.get(`${server.address}/dashboards/${dashboard}?last=300&every=5`);
    const end = load();
    try {
      await byCss(driver, "[data-toast]", 40_000);
      await shows("[data-toast]", /Processor: raised at/);
      await eventually(
        driver,
        async () => /^\(\d+\) .*Nubrel$/.test(await driver.getTitle()),
        10_000,
        "the title has no count",
      );
      expect(
        await driver.executeScript("return document.querySelector('link[rel=icon]').href.startsWith('data:image/svg')"),
      ).toBe(true);
      await eventually(driver, async () => heard.some(({ kind }) => kind === "raised"), 10_000, "no message came");
      await byCss(driver, '[data-tile="tile-1"] [data-tile-state="raised"]');
      await byCss(driver, "[data-mark=raised]");
      const tile = heard.find(({ kind }) => kind === "raised")?.incidents[0]?.links.tile ?? "";
      await driver.get(tile);
      await byCss(driver, "[data-alone] [data-mark=raised]", 15_000);
      const [incident] = await incidents();
      await driver.get(`${server.address}/alerts/incidents/${incident?.id}`);
      await byCss(driver, "[data-incident-state=open]");
      expect(await axeFindings(driver)).toEqual([]);
      await press(driver, button("Acknowledge"));
      await shows("[data-entries]", /Ines acknowledged it/);
      await (await byCss(driver, '[aria-label="a note"]')).sendKeys("Bo tests the load", Key.ENTER);
      await shows("[data-entries]", /Ines noted: Bo tests the load/);
      await press(driver, byCss(driver, '[aria-label="snooze for 1 h"]'));
      await shows("[data-entries]", /Ines snoozed it: until/);
    } finally {
      end();
    }
  });
  test("when the load has gone it clears, is told, and its page says how long it lasted", async () => {
    await byCss(driver, "[data-incident-state=cleared]", 30_000);
    await eventually(driver, async () => heard.some(({ kind }) => kind === "cleared"), 10_000, "its end was not told");
    await shows("main", /lasted/);
    await driver.get(`${server.address}/alerts?last=900&every=5`);
    await byCss(driver, "[data-incident=cleared]");
    expect(await axeFindings(driver)).toEqual([]);
    await driver.get(`${server.address}/alerts/recipients`);
    await eventually(
      driver,
      async () => (await driver.findElements(By.css("[data-message=sent]"))).length >= 2,
      10_000,
      "messages are not listed as sent",
    );
  });
});

test("ready-made rules are switched on by one click, and stand among the others then", async () => {
  await driver.get(`${server.address}/alerts`);
  await press(driver, byCss(driver, '[aria-label="switch on: memory used"]'));
  await eventually(
    driver,
    async () => (await driver.findElements(By.css('[data-ready-rule="memory"]'))).length === 0,
    5000,
    "it is still offered",
  );
  expect((await ask<RuleView[]>("GET", "/rules")).map(({ readyMade }) => readyMade)).toContain("memory");
});

describe("a rule's sentence", () => {
  test("every way of watching is said by its parts, and rehearsed", async () => {
    await driver.get(`${server.address}/alerts/rules/new?last=900&every=5`);
    const kind = await byCss(driver, 'select[aria-label="what is watched"]');
    for (const [value, expected] of [
      ["change", /within/],
      ["silence", /longer than/],
      ["reach", /nearer than/],
      ["usual", /standard deviations/],
    ] as const) {
      await driver.executeScript(
        "const [s, v] = arguments; const set = Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, 'value').set; set.call(s, v); s.dispatchEvent(new Event('change', { bubbles: true }))",
        kind,
        value,
      );
      await shows("[data-condition]", expected);
      await eventually(
        driver,
        async () =>
          (await driver.findElements(By.css("[data-rehearsed]"))).length === 1 &&
          (await driver.findElements(By.css("[data-rehearsal] [role=alert]"))).length === 0,
        15_000,
        `${value} is not rehearsed`,
      );
    }
    expect(await axeFindings(driver)).toEqual([]);
  });
  test("what it cannot be is told, and nothing is lost", async () => {
    await driver.get(`${server.address}/alerts/rules/new?last=900&every=5`);
    await typeInto("notice, above", "5");
    await typeInto("notice, at", "9");
    await press(driver, button("Watch it"));
    await byText(driver, "p", "lies beyond the limit");
    expect(await (await byCss(driver, '[aria-label="notice, above"]')).getAttribute("value")).toBe("5");
  });
});

describe("quiet times", () => {
  test("one is planned for a machine, again and again, and ended", async () => {
    await driver.get(`${server.address}/alerts/quiet`);
    await byText(driver, "p", "Plan one for work on machines");
    expect(await axeFindings(driver)).toEqual([]);
    await press(driver, button("plan one"));
    await (await byCss(driver, 'form[aria-label="A quiet time"] input[required]')).sendKeys("new drives");
    await press(driver, driver.findElement(By.xpath("//form//label[normalize-space(.)='Sat']/input")));
    expect(await axeFindings(driver)).toEqual([]);
    await press(driver, driver.findElement(By.xpath("//form//button[@type='submit']")));
    await shows('[data-quiet="new drives"]', /Sat, for 1 h/);
    await press(driver, byCss(driver, '[aria-label="end it: new drives"]'));
    await eventually(
      driver,
      async () => (await driver.findElements(By.css("[data-quiet]"))).length === 0,
      5000,
      "it is still there",
    );
  });
  test("everything is quiet: told on every page with who and until when, and ended there", async () => {
    await press(driver, byCss(driver, '[aria-label="everything is quiet for 1 h"]'));
    await driver.get(server.address);
    await shows("[data-alerting-notice]", /Nobody is told of any incident until .*Everything is quiet.*\(Ines\)/);
    expect(await axeFindings(driver)).toEqual([]);
    await press(driver, button("End it now"));
    await eventually(
      driver,
      async () => (await driver.findElements(By.css("[data-alerting-notice]"))).length === 0,
      10_000,
      "the notice stays",
    );
  });
});

test("a page that was away tells what it missed", async () => {
  await driver.get(`${server.address}/alerts?last=900&every=5`);
  await byCss(driver, "[data-rule]");
  // As when the tab was hidden: the stream is given back and opened again.
  await driver.executeScript("dispatchEvent(new PageTransitionEvent('pagehide'))");
  await ask("POST", "/rules", {
    name: "uptime",
    reading: { sentences: { a: { counter: "system.uptime", lines: { per: ["machine"] } } } },
    compare: "above",
    notice: { high: 0 },
  });
  await eventually(
    driver,
    async () => (await incidents()).some(({ ruleName }) => ruleName === "uptime"),
    10_000,
    "it is not raised",
  );
  await driver.executeScript("dispatchEvent(new PageTransitionEvent('pageshow'))");
  const notices = async () =>
    (await Promise.all((await driver.findElements(By.css("[data-toast]"))).map((one) => one.getText()))).join("; ");
  await eventually(
    driver,
    async () => /While this page was away: [1-9]\d* raised/.test(await notices()),
    10_000,
    "it does not tell",
  );
});

test.each(["/alerts", "/alerts/recipients", "/alerts/quiet", "/alerts/rules/new"])(
  "axe finds nothing on %s by night, and it fits a phone",
  async (path) => {
    await setViewport(driver, 390, 844);
    await driver.executeScript("localStorage.setItem('nubrel.theme', 'night')");
    await driver.get(server.address + path);
    await byCss(driver, "h1");
    expect(await axeFindings(driver)).toEqual([]);
    expect(await driver.executeScript("return document.documentElement.scrollWidth")).toBeLessThanOrEqual(390);
    await driver.executeScript("localStorage.removeItem('nubrel.theme')");
    await setViewport(driver, 1280, 800);
  },
);

test("the browser reported no error and no breach of the content security policy", async () => {
  const said = (await driver.manage().logs().get("browser"))
    .filter(({ level }) => level.name === "SEVERE")
    .map(({ message }) => message);
  expect(said.filter((message) => !/status of (401|409|404|422)|\/api\/live/.test(message))).toEqual([]);
});
