// `npm run pictures`: the current picture of every main view at 1280x800, through the real interface, from the sample
// world.
// --out FOLDER puts them elsewhere; --only NAME,NAME takes some; --size 390x844 takes another size.
// --check takes none, and tells which are older than the code of their view.
import { chmodSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join, resolve } from "node:path";
import { fileURLToPath } from "node:url";
import { parseArgs } from "node:util";
import { ensureBuilt } from "./build.mjs";
import { startCluster } from "./cluster.mjs";
import { ensureBrowser, ensurePostgres } from "./debian-packages.mjs";
import { ensureNodePackages } from "./node-packages.mjs";
import { committedAt, stalePictures } from "./stale-pictures.mjs";
import { runMain, say } from "./told.mjs";

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const { values: wishes } = parseArgs({
  options: {
    out: { type: "string", default: join(root, "docs/screenshots") },
    only: { type: "string" },
    size: { type: "string", default: "1280x800" },
    check: { type: "boolean", default: false },
  },
});

/** Each view adds itself here: its name is the picture's, `ready` waits until it is whole. */
const pictures = [
  { name: "fleet", of: ["web/src/views/fleet"], path: "/?last=86400&every=5", ready: (page) => page.briefed() },
  {
    name: "counters",
    of: ["web/src/views/counters"],
    path: `/counters?last=172800&every=60&reading=${encodeURIComponent(JSON.stringify({ sentences: { a: { counter: "system.network.io", where: [{ tag: "direction", is: ["receive"] }], lines: { per: ["machine"] }, combine: "sum", keep: { highest: 4, by: "max" } } }, figure: "a * 8", unit: "bit/s", beside: "7d" }))}`,
    ready: (page) => page.there("[data-chart] canvas"),
  },
  {
    name: "distribution",
    of: ["web/src/views/counters"],
    path: `/counters?last=172800&every=60&drawn=heat&reading=${encodeURIComponent(JSON.stringify({ sentences: { a: { counter: "link_round_trip_seconds", lines: { per: ["le"] }, combine: "sum" } } }))}`,
    ready: (page) => page.there("[data-chart] canvas"),
  },
  {
    name: "machine",
    of: ["web/src/views/machine"],
    path: "/machines/playout?last=3600&every=5",
    ready: (page) => page.value("[data-figure=memory]"),
  },
  {
    name: "differences",
    of: ["web/src/views/differences"],
    path: async (page) => {
      const cut = await page.powerCutMs();
      const at = (ms) => new Date(cut + ms).toISOString();
      return `/differences?from=${at(-600_000)}&to=${at(1_500_000)}`;
    },
    ready: (page) => page.opened("[data-difference^=ups] button"),
  },
  {
    name: "steadiness",
    of: ["web/src/views/steadiness"],
    path: "/steadiness",
    ready: (page) => page.there("[data-steady] svg"),
  },
  {
    name: "power",
    of: ["web/src/views/machine"],
    path: "/machines/ups?last=1209600&every=60",
    ready: (page) => page.to("power"),
  },
  {
    name: "dashboards",
    of: ["web/src/views/dashboards/list"],
    path: "/dashboards?last=86400&every=60",
    ready: (page) => page.there("[data-dashboard] [data-miniature] [data-tile] svg"),
  },
  {
    name: "dashboard",
    of: ["web/src/views/dashboards"],
    path: "/dashboards/1?last=86400&every=60",
    ready: (page) => page.there("[data-tile] canvas"),
  },
  {
    name: "alerts",
    of: ["web/src/views/alerts"],
    path: "/alerts?last=2592000&every=60",
    ready: (page) => page.there("[data-incident]"),
  },
  {
    name: "rule",
    of: ["web/src/views/alerts"],
    path: "/alerts/rules/1?last=2592000&every=60",
    ready: (page) => page.shows("[data-rehearsed]", "[data-chart]"),
  },
  {
    name: "incident-night",
    of: ["web/src/views/alerts"],
    path: async (page) => {
      const cut = await page.powerCutMs();
      const at = (ms) => new Date(cut + ms).toISOString();
      return `/alerts/incidents/${await page.incident("runs on battery")}?from=${at(-600_000)}&to=${at(1_500_000)}`;
    },
    night: true,
    ready: (page) => page.there("[data-differed] li"),
  },
  {
    name: "sources",
    of: ["web/src/views/sources"],
    path: "/sources?last=300&every=5",
    ready: (page) => page.there("[data-source=ups]"),
  },
  {
    name: "connect",
    of: ["web/src/views/connect"],
    path: "/sources/connect?what=network",
    ready: (page) => page.walked(),
  },
  {
    name: "run",
    of: ["web/src/views/recordings"],
    path: async (page) => `/recordings/2/runs/${await page.newestRun(2)}`,
    ready: (page) => page.there("[data-run] [data-chart] canvas"),
  },
  {
    name: "energy",
    of: ["web/src/views/planning/energy"],
    path: "/planning?last=2592000&every=60",
    ready: (page) => page.there("[data-energy]"),
  },
  {
    name: "fit",
    of: ["web/src/views/planning/fit"],
    path: "/planning/fit?last=2592000&every=60",
    ready: (page) => page.there("[data-fit-words]"),
  },
  {
    name: "people",
    of: ["web/src/views/people"],
    path: async (page) => {
      await page.invites();
      return "/people";
    },
    ready: (page) => page.changes("Bo"),
  },
  {
    name: "link",
    of: ["web/src/views/dashboards/link"],
    path: (page) => page.linked(1),
    ready: (page) => page.there("[data-tile] canvas"),
  },
];

// biome-ignore lint/complexity/noExcessiveLinesPerFunction: one way from start to end, told in order
await runMain(async () => {
  if (wishes.check) {
    const stale = stalePictures(pictures, committedAt(root));
    for (const { name, by } of stale) say(`${name}.png is older than ${by}`);
    if (stale.length === 0) say("Every picture is as new as its view.");
    return stale.length === 0 ? 0 : 1;
  }
  await ensureNodePackages(root);
  await ensurePostgres();
  await ensureBrowser();
  await ensureBuilt(root);
  const { byCss, byText, eventually, fill, openBrowser } = await import("../e2e/support/browser.mjs");
  const { startServerProcess } = await import("../e2e/support/server-process.mjs");
  const folder = mkdtempSync(join(tmpdir(), "nubrel-pictures-"));
  chmodSync(folder, 0o711);
  const [width, height] = wishes.size.split("x").map(Number);
  const ends = [() => rmSync(folder, { recursive: true, force: true })];
  try {
    const cluster = await startCluster(folder);
    ends.push(() => cluster.stop("immediate"));
    const server = await startServerProcess(cluster.url, { demo: true, env: { NUBREL_DATA_FOLDER: folder } });
    ends.push(() => server.stop());
    const browser = await openBrowser({ width, height });
    ends.push(() => browser.close());
    const { driver } = browser;
    const ask = (method, path, body) =>
      driver.executeAsyncScript(
        "const [method, path, body, done] = arguments; fetch('/api' + path, { method, headers: { 'content-type': 'application/json' }, body }).then((r) => r.json()).then(done)",
        method,
        path,
        JSON.stringify(body),
      );
    const page = {
      // Trends are worked out once a minute: the first time they were, there was no past yet.
      briefed: async (css = "[data-machine=playout] [data-cell=network]") => {
        await eventually(
          driver,
          async () => /full in/.test(await (await byCss(driver, "[data-briefing]")).getText()),
          150_000,
          "no briefing of what fills",
        );
        await eventually(
          driver,
          async () => /\d/.test(await (await byCss(driver, css)).getText()),
          20_000,
          `${css} shows no value`,
        );
      },
      /** When the mains went away in the sample world's past. */
      powerCutMs: () =>
        driver.executeAsyncScript(
          "const done = arguments[0]; const to = Date.now(); fetch('/api/events?from=' + (to - 28 * 86400000) + '&to=' + to).then((r) => r.json()).then((all) => done(all.find(({ kind }) => kind === 'power loss').fromMs))",
        ),
      /** The number of the incident of this rule in the month. */
      incident: (rule) =>
        driver.executeAsyncScript(
          "const done = arguments[1]; const to = Date.now(); fetch('/api/incidents?from=' + (to - 28 * 86400000) + '&to=' + to).then((r) => r.json()).then((all) => done(all.find(({ ruleName }) => ruleName === arguments[0]).id))",
          rule,
        ),
      newestRun: (recording) =>
        driver.executeAsyncScript(
          "const done = arguments[1]; fetch('/api/recordings/' + arguments[0] + '/runs').then((r) => r.json()).then((all) => done(all[0].id))",
          recording,
        ),
      opened: async (css) => {
        await (await byCss(driver, css, 60_000)).click();
        await byCss(driver, "[data-difference] canvas");
      },
      /** People beside the owner, and somebody who is invited and has not come. */
      invites: async () => {
        const limits = { machines: ["mast"], tags: [{ tag: "site", is: ["studio"] }], dashboards: [1] };
        for (const [name, more] of [
          ["Tomas", { role: "keeper" }],
          ["Nora", { role: "viewer" }],
          ["Bo", { role: "viewer", limits }],
        ])
          await ask("POST", "/people", { name, password: "heron over the lock", ...more });
        await ask("POST", "/people/invitations", { role: "viewer" });
      },
      changes: async (name) => {
        await (await byCss(driver, `[data-person="${name}"] button`, 30_000)).click();
        await byCss(driver, `[data-person="${name}"] form`);
      },
      linked: async (dashboard) => {
        const until = new Date(Date.now() + 7 * 86_400_000).toISOString();
        const { url } = await ask("POST", "/links", {
          ...{ dashboard, until, window: { last: 86_400 }, name: "On air, for the neighbours" },
        });
        return new URL(url).pathname;
      },
      walked: async () => {
        const type = async (label, text) => {
          const field = await byCss(driver, `[aria-label="${label}"]`);
          await field.clear();
          await field.sendKeys(text);
        };
        const port = await driver.executeAsyncScript(
          "const done = arguments[0]; fetch('/api/sources').then((r) => r.json()).then((all) => done(all.find(({ name }) => name === 'gate').device.port))",
        );
        await type("name or address", "127.0.0.1");
        await type("port", String(port));
        await type("community", "quayside");
        await (await byText(driver, "button", "Walk it")).click();
        await byCss(driver, "[data-walk]");
      },
      to: async (id) => {
        await eventually(
          driver,
          async () => /\d/.test(await (await byCss(driver, `[data-figure=${id}]`)).getText()),
          20_000,
          `${id} shows no value`,
        );
        await driver.executeScript(
          "document.getElementById(arguments[0]).scrollIntoView(); window.scrollBy(0, -8)",
          id,
        );
      },
      there: (css) => byCss(driver, css, 30_000),
      shows: async (css, from) => {
        await byCss(driver, css, 30_000);
        await driver.executeScript(
          "document.querySelector(arguments[0]).scrollIntoView(); window.scrollBy(0, -64)",
          from,
        );
      },
      value: (css) =>
        eventually(
          driver,
          async () => /\d/.test(await (await byCss(driver, css)).getText()),
          20_000,
          `${css} shows no value`,
        ),
    };
    await driver.get(server.address);
    await fill(driver, "Name", "Ines");
    await fill(driver, "Password", "kestrel on the quay");
    await (await byText(driver, "button", "Sign in")).click();
    await byText(driver, "h1", "Fleet");
    await eventually(
      driver,
      async () => (await (await fetch(`${server.address}/api/demo`)).json()).progress === 1,
      180_000,
      "the sample world's past is not written",
    );
    mkdirSync(wishes.out, { recursive: true });
    for (const { name, path, night, ready } of pictures) {
      if (wishes.only && !wishes.only.split(",").includes(name)) continue;
      await driver.executeScript("localStorage.setItem('nubrel.theme', arguments[0])", night ? "night" : "day");
      await driver.get(server.address + (typeof path === "string" ? path : await path(page)));
      await ready(page);
      await driver.executeScript("return document.fonts.ready");
      await new Promise((done) => setTimeout(done, 1500)); // charts draw on the next frames
      await driver.executeScript(
        "document.querySelectorAll('[data-toast] button').forEach((button) => button.textContent === 'Close' && button.click())",
      );
      await new Promise((done) => setTimeout(done, 300));
      const file = resolve(wishes.out, `${name}.png`);
      writeFileSync(file, await driver.takeScreenshot(), "base64");
      say(file);
    }
    return 0;
  } finally {
    for (const end of ends.reverse()) await end();
  }
});
