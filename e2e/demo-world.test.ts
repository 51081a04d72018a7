import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { By, Key, type WebDriver } from "selenium-webdriver";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { DemoView } from "../core/api/demo.ts";
import type { SourceView } from "../core/api/sources.ts";
import { type TestDatabase, testDatabase } from "../server/testing/test-database.ts";
import { axeFindings } from "./support/axe.mjs";
import { byCss, byText, eventually, fill, isWide, openBrowser, press, setViewport } from "./support/browser.mjs";
import { startServerProcess } from "./support/server-process.mjs";

// The sample world from its first start: each test goes on where the one before ended.
let db: TestDatabase;
let folder: string;
let server: Awaited<ReturnType<typeof startServerProcess>>;
let browser: Awaited<ReturnType<typeof openBrowser>>;
let driver: WebDriver;
const start = () =>
  startServerProcess(db.url, {
    demo: true,
    env: { NUBREL_DATA_FOLDER: folder, NUBREL_KEY_FILE: join(folder, "secrets.key") },
  });
const sample = async (): Promise<DemoView> => (await fetch(`${server.address}/api/demo`)).json() as Promise<DemoView>;
const ask = <T>(method: string, path: string, body?: unknown): Promise<T> =>
  driver.executeAsyncScript(
    "const [m, p, b, done] = arguments; fetch('/api' + p, { method: m, headers: { 'content-type': 'application/json' }, body: b ? JSON.stringify(b) : undefined }).then((r) => r.json()).then(done)",
    method,
    path,
    body ?? null,
  );
const type = async (label: string, value: string) =>
  (await byCss(driver, `[aria-label="${label}"]`)).sendKeys(Key.chord(Key.CONTROL, "a"), value);

beforeAll(async () => {
  db = await testDatabase({ migrated: false });
  folder = mkdtempSync(join(tmpdir(), "nubrel-sample-data-"));
  server = await start();
  browser = await openBrowser();
  driver = browser.driver;
});
afterAll(async () => {
  await browser?.close();
  await server?.stop();
  rmSync(folder, { recursive: true, force: true });
  await db?.drop();
});

describe("the first look", () => {
  test("the sign-in page says who may sign in, and that it is the sample world", async () => {
    await driver.get(server.address);
    expect(await (await byCss(driver, "[data-demo]")).getText()).toMatch(
      /sample world.*made up.*Ines.*kestrel on the quay/s,
    );
    await fill(driver, "Name", "Ines");
    await fill(driver, "Password", "kestrel on the quay");
    await press(driver, byText(driver, "button", "Sign in"));
    await byText(driver, "h1", "Fleet");
    for (const machine of ["playout", "desk", "hive", "vault", "stream", "mast", "gate", "ups"])
      await byCss(driver, `tr[data-machine="${machine}"]`, 60_000);
  });
  test("killed while it writes the past, it goes on where it was, and ends", async () => {
    await expect.poll(async () => (await sample()).progress, { timeout: 100_000, interval: 500 }).toBeGreaterThan(0.15);
    const reached = (await sample()).progress;
    await server.kill();
    server = await start();
    await expect
      .poll(async () => (await sample()).progress, { timeout: 20_000 })
      .toBeGreaterThanOrEqual(reached - 0.02);
    await expect.poll(async () => (await sample()).progress, { timeout: 110_000, interval: 1000 }).toBe(1);
    await driver.get(server.address);
    await byText(driver, "h1", "Fleet");
  }, 240_000);
  test("every source reports over its own protocol", async () => {
    await eventually(
      driver,
      async () => (await ask<SourceView[]>("GET", "/sources")).every(({ state }) => state === "reporting"),
      60_000,
      "not all sources report",
    );
    const sources = await ask<SourceView[]>("GET", "/sources");
    expect(Object.fromEntries(sources.map(({ name, kind }) => [name, kind]))).toEqual({
      playout: "this-machine",
      gate: "snmp",
      ups: "snmp",
      "hive controller": "redfish",
      hive: "push",
      vault: "collector",
      stream: "collector",
      "containers of stream": "containers",
      "mast relay": "relay",
      mast: "pull",
      desk: "push",
    });
  });
  test("the month is there: the power cut drained the battery, the archive fills, chat's memory falls when it is restarted", async () => {
    const now = Date.now();
    const read = async (counter: string, where: object[], of_every: string) =>
      (
        await ask<{ lines: { min: number; max: number; values: (number | null)[] }[] }>("POST", "/readings", {
          window: { from: now - 29 * 86_400_000, to: now },
          points: 200,
          sentences: { x: { counter, where, of_every } },
        })
      ).lines[0];
    expect((await read("hw.battery.charge", [{ tag: "machine", is: ["ups"] }], "min"))?.min).toBeLessThan(0.65);
    const archive =
      (
        await read(
          "storage.pool.usage",
          [
            { tag: "pool", is: ["archive"] },
            { tag: "state", is: ["used"] },
          ],
          "last",
        )
      )?.values.filter((value) => value !== null) ?? [];
    expect(archive.length).toBeGreaterThan(100);
    for (let i = 1; i < archive.length; i++) expect(archive[i]).toBeGreaterThanOrEqual(archive[i - 1] as number);
    const chat =
      (await read("container.memory.usage", [{ tag: "container", is: ["chat"] }], "max"))?.values.filter(
        (value) => value !== null,
      ) ?? [];
    expect(chat.filter((value, i) => i > 0 && value < 0.6 * (chat[i - 1] as number)).length).toBeGreaterThanOrEqual(4);
    const events = await ask<{ kind: string }[]>("GET", `/events?from=${now - 30 * 86_400_000}&to=${now}`);
    expect(events.map(({ kind }) => kind)).toEqual(expect.arrayContaining(["power loss", "container restarted"]));
  });
});

describe("connecting a device by hand", () => {
  let port = 0;
  test("a wrong community is told with all that it could be", async () => {
    const gate = (await ask<SourceView[]>("GET", "/sources")).find(({ name }) => name === "gate");
    port = gate?.device?.kind === "snmp" ? gate.device.port : 0;
    await driver.get(`${server.address}/sources/connect?what=network`);
    await type("name or address", "127.0.0.1");
    await type("port", String(port));
    await type("time-out in seconds", "1");
    await type("community", "wrong");
    await press(driver, byText(driver, "button", "Walk it"));
    expect(await (await byCss(driver, '[data-diagnosis="no answer"]')).getText()).toContain(
      "Three things look exactly alike",
    );
  });
  test("walked, its rows are picked, a number is found, named and scaled with its result shown, and it is gathered so", async () => {
    await type("community", "quayside");
    await press(driver, byText(driver, "button", "Walk it"));
    await byCss(driver, "[data-walk]");
    expect(await axeFindings(driver)).toEqual([]);
    await press(driver, driver.findElement(By.xpath("//label[normalize-space(.)='mast']/input")));
    await driver.findElement(By.xpath("//label[contains(., 'find')]/input")).sendKeys("32473.2.2");
    await press(driver, byCss(driver, '[aria-label="Pick 1.3.6.1.4.1.32473.2.2.0"]'));
    const picked = await byCss(driver, "[data-picked]");
    await picked.findElement(By.css("input")).sendKeys("link.quality");
    await picked.findElement(By.css("[aria-label=factor]")).sendKeys(Key.chord(Key.CONTROL, "a"), "0.01");
    expect(await picked.getText()).toMatch(/gives 0\.[5-8]/);
    await driver
      .findElement(By.xpath("//label[contains(., 'call it')]/input"))
      .sendKeys(Key.chord(Key.CONTROL, "a"), "second gate");
    await press(driver, byText(driver, "button", "Connect it"));
    await byText(driver, "h2", "second gate");
    const found = await eventually(
      driver,
      async () => {
        const source = (await ask<SourceView[]>("GET", "/sources")).find(({ name }) => name === "second gate");
        return source?.state === "reporting" && source.taken !== null ? source : undefined;
      },
      40_000,
      "it does not report",
    );
    expect((found as SourceView).leftOut).toEqual({ "left by a rule": 10 });
    const counters = (await ask<{ counters: string[] }>("GET", "/machines/second%20gate")).counters;
    expect(counters).toEqual(expect.arrayContaining(["link.quality", "system.network.io"]));
  });
  test("the machine's page has the bands of what it reports; the controller's own mean stands beside ours", async () => {
    await driver.get(`${server.address}/machines/hive`);
    await byCss(driver, "#guests [data-figure]");
    await eventually(
      driver,
      async () =>
        /own mean over 60 min: ?1\d\d/.test(
          (await (await byCss(driver, "[data-power-check]")).getText()).replaceAll("\n", " "),
        ),
      20_000,
      "no own mean",
    );
    expect(await axeFindings(driver)).toEqual([]);
  });
  test("what was different while the mains were away: the supply and the gate, in sentences, with charts", async () => {
    const { from, to } = { from: Date.now() - 28 * 86_400_000, to: Date.now() };
    const events = await ask<{ kind: string; fromMs: number }[]>("GET", `/events?from=${from}&to=${to}`);
    const cut = events.find(({ kind }) => kind === "power loss")?.fromMs ?? 0;
    const iso = (ms: number) => new Date(ms).toISOString();
    await driver.get(`${server.address}/?from=${iso(cut - 600_000)}&to=${iso(cut + 1_500_000)}`);
    await press(driver, byText(driver, "a", "what differed"));
    const supply = await byCss(driver, '[data-difference="ups Hardware and power"]', 60_000);
    expect(await supply.getText()).toMatch(/ups: .*\(input\) 0 (V|Hz|W), usually (23\d V|50 Hz|3\d\d W), from/);
    await byCss(driver, '[data-difference^="gate"]');
    expect(await (await byCss(driver, "[data-moved-axis] svg")).getText()).toContain(
      "The mains were away for 11 minutes",
    );
    await press(driver, supply.findElement(By.css("button")));
    await byCss(driver, "[data-difference] canvas");
    expect(await axeFindings(driver)).toEqual([]);
  });
  test("the copy and the scan that overlap at night are told, with what moving one would do; what moved is recorded in a step", async () => {
    const { from, to } = { from: Date.now() - 8 * 86_400_000, to: Date.now() };
    const events = await ask<{ kind: string; fromMs: number }[]>("GET", `/events?from=${from}&to=${to}`);
    const scan = events.findLast(({ kind }) => kind === "integrity scan")?.fromMs ?? 0;
    const iso = (ms: number) => new Date(ms).toISOString();
    await driver.get(`${server.address}/differences?from=${iso(scan - 1_800_000)}&to=${iso(scan + 5_400_000)}`);
    expect(await (await byCss(driver, "[data-overlap]", 60_000)).getText()).toMatch(
      /^vault: archive copy and integrity scan of the pool archive overlap from \d\d:20 to \d\d:05, with the disks at 97 %\. Begun 45 min later, at \d\d:05, .* would leave them at 57 %/,
    );
    await byText(driver, "a", "Night jobs on vault");
    expect(await axeFindings(driver)).toEqual([]);
  });
  test("the month has its incidents, and two recordings with the runs of several days", async () => {
    await driver.get(`${server.address}/alerts?last=2592000&every=60`);
    for (const rule of ["runs on battery", "disk busy for half an hour", "chat leaks memory"])
      await byText(driver, "th", rule);
    await press(driver, byText(driver, "a", "Recordings"));
    await press(driver, byText(driver, "main//a", "Morning show"));
    await eventually(
      driver,
      async () => (await driver.findElements(By.css('[aria-label="Runs"] li'))).length >= 4,
      10_000,
      "there are not the runs of several mornings",
    );
    expect(await axeFindings(driver)).toEqual([]);
  });
  test("how steady each machine was: the supply dips with the power cut, which its day tells", async () => {
    await driver.get(`${server.address}/`);
    await press(driver, byText(driver, "a", "steadiness"));
    const supply = await byCss(driver, "[data-steady=ups]", 30_000);
    expect(await supply.getText()).toMatch(/2 dips, lowest 8[0-9]/);
    const line = await supply.findElement(By.css("[role=slider]"));
    await line.sendKeys(...Array.from({ length: 20 }, () => Key.ARROW_LEFT));
    const days = new Map<string, string>();
    for (let i = 0; i < 20 && !days.has("power loss"); i++) {
      const text = await supply.getText();
      if (text.includes("power loss")) days.set("power loss", text);
      await line.sendKeys(Key.ARROW_RIGHT);
    }
    expect(days.get("power loss")).toMatch(/−11\.1 power loss: The mains were away for 11 minutes/);
    expect(await axeFindings(driver)).toEqual([]);
  });
});

// Each is drawn on a wide page first and folded to a phone's then, as when a screen is turned.
describe("on a phone", () => {
  test.each([
    ["fleet and machines", ["/", "/machines/vault", "/machines/hive", "/steadiness", "/differences"]],
    ["counters and dashboards", ["/counters", "/dashboards", "/dashboards/1"]],
    ["alerts", ["/alerts", "/alerts/incidents/1", "/alerts/rules/1", "/alerts/rules/new", "/alerts/quiet"]],
    ["recordings", ["/recordings", "/recordings/1", "/recordings/1/runs/1", "/recordings/new"]],
    ["planning", ["/planning", "/planning/space", "/planning/fit", "/planning/month", "/planning/watching"]],
    ["sources", ["/sources", "/sources/1", "/sources/connect", "/sources/tokens", "/sources/costs"]],
    ["people", ["/people", "/people/deeds", "/account"]],
  ])("nothing of %s is wider than the screen", async (_section, paths) => {
    for (const path of paths) {
      await setViewport(driver, 1280, 800);
      await driver.get(server.address + path);
      await byCss(driver, "h1");
      await eventually(
        driver,
        async () => !/(reading|loading|searching) …/.test(await (await byCss(driver, "main")).getText()),
        20_000,
        `${path} is not read`,
      );
      await setViewport(driver, 390, 844);
      await eventually(driver, async () => !(await isWide(driver)), 5000, `${path} is wider than the screen`);
    }
    await setViewport(driver, 1280, 800);
  });
});
