import { rmSync } from "node:fs";
import { resolve } from "node:path";
import { build } from "vite";
import { openBrowser } from "../e2e/support/browser.mjs";
import { startServerProcess } from "../e2e/support/server-process.mjs";
import { openDatabase } from "../server/db/pool.ts";
import { Store } from "../server/store/store.ts";
import { benchDatabase } from "./bench-database.ts";
import { finish, median, report } from "./report.ts";
import { writeWandering } from "./wandering.ts";

// Twenty charts of ten lines over 24 hours in a real browser at 1280x800, from the product's own charts, requests and
// server.
const charts = 20;
const linesEach = 10;
const everyMs = 15_000;
const hourMs = 3_600_000;
const rounds = 9;
const fleetMachines = 200;
/** Frames a second of two seconds during which `move` is called once a frame. */
const frames = `const frames = async (move) => { const began = performance.now(); let count = 0; while (performance.now() - began < 2000) { move(count++); await new Promise(requestAnimationFrame); } return (count * 1000) / (performance.now() - began); };`;
const drag = `const rail = document.querySelector('[data-rail]'); const box = rail.getBoundingClientRect();
  const send = (kind, x) => rail.dispatchEvent(new PointerEvent(kind, { bubbles: true, pointerId: 1, button: 0, clientX: x, clientY: box.top + 10 }));
  rail.setPointerCapture = () => {}; send('pointerdown', box.left + 200);
  const rate = await frames((i) => send('pointermove', box.left + 200 + i * 4)); send('pointercancel', box.left); return rate;`;

interface Measured {
  readonly firstMs: number;
  readonly wholeMs: number;
}

const end = Math.floor(Date.now() / 300_000) * 300_000;
const { database, url } = await benchDatabase("bench_charts");
await fillDatabase();
await database.end();
const server = await startServerProcess(url, { env: { NUBREL_GATHER_MS: "3600000" } });
// Beside the interface for the time of measuring, so that the product's own server serves it.
const page = resolve("dist/web/measured");
await build({
  root: "bench/charts-page",
  configFile: "vite.config.ts",
  base: "/measured/",
  logLevel: "silent",
  build: {
    outDir: page,
    emptyOutDir: true,
    chunkSizeWarningLimit: 5000,
    rollupOptions: { input: "bench/charts-page/index.html" }, // not the interface's
  },
});
const address = `${server.address}/measured/index.html`;
const browser = await openBrowser({ width: 1280, height: 800 });
try {
  const { driver } = browser;
  const inPage = <T>(script: string, ...values: readonly unknown[]): Promise<T> =>
    driver.executeAsyncScript(
      `const done = arguments[arguments.length - 1]; (async () => { ${script} })().then(done, (error) => done({ failed: String(error) }))`,
      ...values,
    );
  await driver.get(address);
  await inPage(
    "await fetch('/api/setup', { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ code: arguments[0], name: 'Ines', password: 'kestrel on the quay' }) })",
    server.setupCode,
  );
  await driver.get(address);
  const appeared: Measured[] = [];
  const changed: Measured[] = [];
  for (let round = 0; round < rounds; round++) {
    await inPage("await window.measure.clear()");
    appeared.push(await inPage<Measured>("return window.measure.appear(arguments[0])", end - hourMs));
    changed.push(await inPage<Measured>("return window.measure.change(arguments[0])", end));
  }
  const warm = (all: readonly Measured[], part: keyof Measured) => median(all.slice(2).map((one) => one[part]));
  report("20 charts of 10 lines over 24 h appear, data and all", warm(appeared, "wholeMs"), "ms", { atMost: 220 });
  report("they are redrawn at another window", warm(changed, "firstMs"), "ms", { atMost: 60 });
  report(
    "and have that window's data",
    warm(changed, "wholeMs"),
    "ms",
    {},
    "(any change of window on demo data: 200 ms)",
  );
  // Frames while something moves, in the interface itself: the least time a frame takes on a screen of 60 Hz is 16.7
  // ms.
  await driver.get(`${server.address}/?last=3600&every=60`);
  await inPage(
    "while (!document.querySelector('[data-machine] [data-cell=network]')) await new Promise((go) => setTimeout(go, 100)); await new Promise((go) => setTimeout(go, 1500))",
  );
  report(
    "frames a second while 200 rows are scrolled",
    await inPage<number>(`${frames} return frames((i) => scrollTo(0, i * 40))`),
    "/s",
    { atLeast: 50 },
  );
  await inPage("scrollTo(0, 0)");
  report("frames a second while a bracket of the rail is dragged", await inPage<number>(`${frames} ${drag}`), "/s", {
    atLeast: 50,
  });
} finally {
  await browser.close();
  await server.stop();
  rmSync(page, { recursive: true, force: true });
}
finish();

/** A day of levels that wander, stored as the product stores them. */
async function fillDatabase(): Promise<void> {
  const filling = openDatabase(url);
  const store = await Store.open(filling);
  await writeWandering(store, { counters: charts, linesEach, from: end - 26 * hourMs, to: end });
  await writeFleet(store);
  await store.maintain();
  await store.close();
  await filling.end();
}

/** An hour of a large fleet's loads and traffic. */
async function writeFleet(store: Store): Promise<void> {
  const named = Array.from({ length: fleetMachines }, (_, i) => [
    {
      counter: "system.cpu.load_average",
      tags: { machine: `m${i}`, over: "5m" },
      unit: "{thread}",
      kind: "level" as const,
    },
    {
      counter: "system.network.io",
      tags: { machine: `m${i}`, interface: "eth0", direction: "receive" },
      unit: "By",
      kind: "total" as const,
    },
  ]).flat();
  const ids = await store.series.resolve(named);
  for (let at = end - hourMs; at < end; at += everyMs) {
    await store.write({
      series: Uint32Array.from(ids),
      timeMs: new Float64Array(ids.length).fill(at),
      value: Float64Array.from(ids, (_, i) =>
        i % 2 === 0 ? 1 + Math.sin(at / 1e5 + i) : (at - end + hourMs) * (10 + i),
      ),
      length: ids.length,
    });
  }
}
