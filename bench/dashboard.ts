import type { DashboardView } from "../core/api/dashboards.ts";
import { type Dashboard, emptyDashboard, type Tile } from "../core/dashboards/dashboard.ts";
import { openBrowser } from "../e2e/support/browser.mjs";
import { startServerProcess } from "../e2e/support/server-process.mjs";
import { openDatabase } from "../server/db/pool.ts";
import { Store } from "../server/store/store.ts";
import { benchDatabase } from "./bench-database.ts";
import { finish, median, report } from "./report.ts";
import { writeWandering } from "./wandering.ts";

// A dashboard of 24 tiles and 240 lines over 24 hours (it begins with that window), opened in the product's own interface in a real browser at
// 1280x800.
const tilesInAll = 24;
const linesEach = 10;
const rounds = 9;
const hourMs = 3_600_000;

const end = Math.floor(Date.now() / 300_000) * 300_000;
const { database, url } = await benchDatabase("bench_dashboard");
const filling = openDatabase(url);
const store = await Store.open(filling);
await writeWandering(store, { counters: tilesInAll, linesEach, from: end - 26 * hourMs, to: end });
await store.maintain();
await store.close();
await filling.end();
await database.end();

const kinds: readonly Tile["kind"][] = ["lines", "lines", "stacked", "top", "lines", "stacked", "horizon", "table"];
const tiles = Array.from(
  { length: tilesInAll },
  (_, i): Tile => ({
    id: `t${i}`,
    title: `Tile ${i}`,
    kind: kinds[i % kinds.length] as Tile["kind"],
    place: { x: (i % 6) * 2, y: Math.floor(i / 6) * 3, width: 2, height: 3 },
    reading: { sentences: { a: { counter: `bench.level.${i}` } } },
    meter: { max: 100 },
  }),
);
const document: Dashboard = { ...emptyDashboard("Bench"), tiles, start: { lastSeconds: 86_400, everySeconds: 300 } };

const server = await startServerProcess(url, { env: { NUBREL_GATHER_MS: "3600000" } });
const browser = await openBrowser({ width: 1280, height: 800 });
try {
  const { driver } = browser;
  const inPage = <T>(script: string, ...values: readonly unknown[]): Promise<T> =>
    driver.executeAsyncScript(
      `const done = arguments[arguments.length - 1]; (async () => { ${script} })().then(done, (error) => done({ failed: String(error) }))`,
      ...values,
    );
  await driver.get(server.address);
  await inPage(
    "await fetch('/api/setup', { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ code: arguments[0], name: 'Ines', password: 'kestrel on the quay' }) })",
    server.setupCode,
  );
  const { id } = await inPage<DashboardView>(
    "return (await fetch('/api/dashboards', { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ document: arguments[0] }) })).json()",
    document,
  );
  const window = (back: number) =>
    `from=${new Date(end - 24 * hourMs - back).toISOString()}&to=${new Date(end - back).toISOString()}`;
  // From the list, by its link: the interface is there, the data is not. Whole when every tile has drawn and nothing is
  // asked any more.
  const opened = `
    const link = document.querySelector('[data-dashboard] a[href*="/dashboards/"]');
    const requests = []; const plain = window.fetch;
    window.fetch = (input, init) => { const path = String(input); if (path.includes('/readings')) requests.push(JSON.parse(init.body).readings?.length ?? 1); return plain(input, init); };
    const began = performance.now(); link.click();
    const whole = () => { const all = [...document.querySelectorAll('[data-tile]')]; return all.length === ${tilesInAll} && all.every((tile) => tile.querySelector('canvas, li, [role=meter], td')) && !document.body.innerText.includes('reading …'); };
    while (!whole()) await new Promise(requestAnimationFrame);
    await new Promise(requestAnimationFrame);
    const passed = performance.now() - began; window.fetch = plain;
    return { passed, requests: requests.length, readings: requests.reduce((a, b) => a + b, 0) };`;
  const all: { passed: number; requests: number; readings: number }[] = [];
  for (let round = 0; round < rounds; round++) {
    await driver.get(`${server.address}/dashboards?${window(round * 60_000)}`);
    await inPage(
      "while (!document.querySelector('[data-dashboard] a')) await new Promise((go) => setTimeout(go, 50)); document.querySelectorAll('[data-miniature]').forEach((one) => one.remove()); await new Promise((go) => setTimeout(go, 1200))",
    );
    all.push(await inPage(opened));
  }
  const warm = all.slice(2);
  report(
    "a dashboard of 24 tiles and 240 lines over 24 h is complete",
    median(warm.map(({ passed }) => passed)),
    "ms",
    { atMost: 500 },
  );
  report("readings that it asks for", median(warm.map(({ readings }) => readings)), "", { atMost: tilesInAll });
  report("in so many requests", median(warm.map(({ requests }) => requests)), "", { atMost: 3 });

  // Dragging a tile while everything is drawn.
  await driver.get(`${server.address}/dashboards/${id}?${window(0)}`);
  const drag = `
    while (![...document.querySelectorAll('button')].some((one) => one.textContent === 'edit')) await new Promise((go) => setTimeout(go, 50));
    [...document.querySelectorAll('button')].find((one) => one.textContent === 'edit').click();
    await new Promise((go) => setTimeout(go, 2500));
    const handle = document.querySelector('[data-tile-handle]'); const box = handle.getBoundingClientRect();
    const send = (kind, target, x, y) => target.dispatchEvent(new MouseEvent(kind, { bubbles: true, cancelable: true, button: 0, buttons: 1, clientX: box.left + 4 + x, clientY: box.top + 4 + y }));
    send('mousedown', handle, 0, 0);
    const began = performance.now(); let count = 0;
    while (performance.now() - began < 2000) { send('mousemove', document, 300 + 250 * Math.sin(count / 20), 60 + 50 * Math.cos(count / 13)); count++; await new Promise(requestAnimationFrame); }
    const rate = (count * 1000) / (performance.now() - began); send('mouseup', document, 0, 0);
    return rate;`;
  report("frames a second while a tile is dragged", await inPage<number>(drag), "/s", { atLeast: 50 });
} finally {
  await browser.close();
  await server.stop();
}
finish();
