// `npm run pictures`: the current picture of every main view at 1280x800, through the real interface, from the sample world.
// --out FOLDER puts them elsewhere; --only NAME,NAME takes some; --size 390x844 takes another size.
import { chmodSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { createServer } from "node:http";
import { tmpdir } from "node:os";
import { dirname, join, resolve } from "node:path";
import { fileURLToPath } from "node:url";
import { parseArgs } from "node:util";
import { ensureBuilt } from "./build.mjs";
import { startCluster } from "./cluster.mjs";
import { ensureBrowser, ensurePostgres } from "./debian-packages.mjs";
import { ensureNodePackages } from "./node-packages.mjs";
import { runMain, say } from "./told.mjs";

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const { values: wishes } = parseArgs({ options: { out: { type: "string", default: join(root, "docs/screenshots") }, only: { type: "string" }, size: { type: "string", default: "1280x800" } } });

/** Each view adds itself here: its name is the picture's, `ready` waits until it is whole. */
const pictures = [
  { name: "fleet", path: "/?last=21600&every=5", ready: (page) => page.value("[data-machine=playout] [data-cell=network]") },
  { name: "machine", path: "/machines/playout?last=3600&every=5", ready: (page) => page.value("[data-figure=memory]") },
  { name: "machine-night", path: "/machines/playout?last=3600&every=5", night: true, ready: (page) => page.value("[data-figure=memory]") },
  { name: "alerts", path: "/alerts?last=3600&every=5", ready: (page) => page.there("[data-incident]") },
  { name: "sources", path: "/sources?last=300&every=5", ready: (page) => page.there("[data-source=stream]") },
  { name: "connect", path: "/sources/connect?what=page", ready: (page) => page.tried() },
  { name: "costs", path: "/sources/costs", ready: (page) => page.there("[data-tier=raw]") },
];

await runMain(async () => {
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
    const page = {
      tried: async () => {
        const type = async (label, text) => {
          const field = await byCss(driver, `[aria-label="${label}"]`);
          await field.clear();
          await field.sendKeys(text);
        };
        await type("name or address", "127.0.0.1");
        await type("port", String(relay.address().port));
        await (await byText(driver, "button", "Try it")).click();
        await byCss(driver, "[data-tried]");
      },
      there: (css) => byCss(driver, css, 30_000),
      value: (css) => eventually(driver, async () => /\d/.test(await (await byCss(driver, css)).getText()), 20_000, `${css} shows no value`),
    };
    await driver.get(server.address);
    await fill(driver, "Name", "Ines");
    await fill(driver, "Password", "kestrel on the quay");
    await (await byText(driver, "button", "Sign in")).click();
    await byText(driver, "h1", "Fleet");
    await makeRules(driver);
    const relay = await relayPage();
    ends.push(() => relay.close());
    await makeSources(driver, relay.address().port);
    mkdirSync(wishes.out, { recursive: true });
    for (const { name, path, night, ready } of pictures) {
      if (wishes.only && !wishes.only.split(",").includes(name)) continue;
      await driver.executeScript("localStorage.setItem('nubrel.theme', arguments[0])", night ? "night" : "day");
      await driver.get(server.address + path);
      await ready(page);
      await driver.executeScript("return document.fonts.ready");
      await driver.executeScript("document.querySelectorAll('[data-notice] button').forEach((button) => button.textContent === 'Close' && button.click())");
      await new Promise((done) => setTimeout(done, 1500)); // charts draw on the next frames
      const file = resolve(wishes.out, `${name}.png`);
      writeFileSync(file, await driver.takeScreenshot(), "base64");
      say(file);
    }
    return 0;
  } finally {
    for (const end of ends.reverse()) await end();
  }
});

/** The page of counters of the sample world's stream server. */
async function relayPage() {
  const names = ["studio-1.quay", "studio-2.quay", "harbour.quay", "lighthouse.quay"];
  const server = createServer((_request, response) => {
    const seconds = Date.now() / 1000 - 1.795e9;
    const rows = names.map((listener, i) => `relay_sent_bytes_total{listener="${listener}"} ${Math.round((seconds * 16_000 * (i + 3)) / 4)}\n`).join("");
    response.end(`# HELP relay_sent_bytes_total Bytes that the relay sent to a listener.\n# TYPE relay_sent_bytes_total counter\n${rows}# HELP relay_listeners Listeners now.\n# TYPE relay_listeners gauge\nrelay_listeners ${names.length}\n# HELP relay_lag_seconds How far a listener is behind.\n# TYPE relay_lag_seconds gauge\n${names.map((listener, i) => `relay_lag_seconds{listener="${listener}"} ${i === 3 ? "NaN" : (0.4 + i / 5 + Math.sin(seconds / 7) / 9).toFixed(2)}\n`).join("")}`);
  });
  await new Promise((done) => server.listen(0, "127.0.0.1", done));
  return server;
}

/** Some sources, so that Sources has something to show: one that answers, one whose port is closed, one that has not been heard yet. */
async function makeSources(driver, port) {
  const pull = (name, at, more = {}) => ({ kind: "pull", name, machine: name, intervalMs: 1000, address: { host: "127.0.0.1", port: at, timeoutMs: 1000 }, ...more });
  const sources = [pull("stream", port), pull("gate", 1, { intervalMs: 5000 }), { kind: "push", name: "booking", machine: "booking", intervalMs: 60_000 }, pull("mast", port, { intervalMs: 5000, address: { scheme: "https", host: "127.0.0.1", port, timeoutMs: 1000 }, trust: { kind: "unchecked" } })];
  await driver.executeAsyncScript(
    `const done = arguments[1];
     arguments[0].reduce((before, source) => before.then(() => fetch("/api/sources", { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(source) })), Promise.resolve()).then(() => done());`,
    sources,
  );
}

/** Two rules, so that Alerts has something to show: one that the encoder's rounds raise, one that is raised all the time. */
async function makeRules(driver) {
  const processor = { sentences: { busy: { counter: "system.cpu.time", where: [{ tag: "machine", is: ["playout"] }, { tag: "mode", not: ["idle", "iowait"] }], lines: { per: ["machine"] }, combine: "sum" }, processors: { counter: "system.cpu.logical.count", where: [{ tag: "machine", is: ["playout"] }], lines: { per: ["machine"] }, combine: "max", of_every: "last" } }, figure: "busy / processors * 100", unit: "%" };
  const memory = { sentences: { used: { counter: "system.memory.usage", where: [{ tag: "machine", is: ["playout"] }, { tag: "state", is: ["used"] }], lines: { per: ["machine"] }, combine: "sum" }, size: { counter: "system.memory.limit", where: [{ tag: "machine", is: ["playout"] }], lines: { per: ["machine"] }, combine: "sum" } }, figure: "used / size * 100", unit: "%" };
  const rules = [
    { name: "processor busy of playout above 75 %", reading: processor, compare: "above", limit: 75, mustLastSeconds: 0, staysRaisedSeconds: 0, severity: "urgent" },
    { name: "memory used of playout above 35 %", reading: memory, compare: "above", limit: 35, mustLastSeconds: 0, staysRaisedSeconds: 0, severity: "notice" },
  ];
  await driver.executeAsyncScript(
    `const done = arguments[1];
     Promise.all(arguments[0].map((rule) => fetch("/api/rules", { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(rule) }))).then(() => done());`,
    rules,
  );
}
