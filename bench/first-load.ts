import { setTimeout as delay } from "node:timers/promises";
import { openBrowser } from "../e2e/support/browser.mjs";
import { startServerProcess } from "../e2e/support/server-process.mjs";
import { benchDatabase } from "./bench-database.ts";
import { finish, median, report } from "./report.ts";
import { processorSeconds } from "./served.ts";

// Fleet of the sample world over a weak link, by the browser's own throttling: the first visit with nothing kept, and a
// second one.
const link = { offline: false, latency: 150, downloadThroughput: 1.6e6 / 8, uploadThroughput: 750e3 / 8 };
const rounds = 5;
/** So long somebody looks at it before they leave: it is kept as it stood then. */
const lookedAtMs = 7000;
const machines = 8;
/** Two of them have none of the columns: what they have instead is asked for once that is known. */
const machinesOfColumns = 6;
/** The server is calm where it takes less than this share of a core so many times. */
const [calmShare, calmTimes, calmMs] = [0.2, 3, 2000];

interface Seen {
  /** When it stood as it was seen last; null where nothing was kept. */
  readonly keptMs: number | null;
  readonly drawnMs: number;
  readonly bytes: number;
}

const { database, url } = await benchDatabase("bench_first_load");
const server = await startServerProcess(url, { demo: true });
const { address } = server;
const browser = await openBrowser({ width: 1280, height: 800 });
try {
  const { driver } = browser;
  const send = (command: string, values: object) =>
    (driver as unknown as { sendDevToolsCommand(command: string, values: object): Promise<void> }).sendDevToolsCommand(
      command,
      values,
    );
  const inPage = <T>(script: string): Promise<T> =>
    driver.executeAsyncScript(
      `const done = arguments[arguments.length - 1]; (async () => { ${script} })().then(done, (error) => done({ failed: String(error) }))`,
    );
  await driver.get(address);
  await inPage(
    "await fetch('/api/session', { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ name: 'Ines', password: 'kestrel on the quay' }) }); localStorage.clear()",
  );
  await inPage(
    `while ((await (await fetch('/api/machines')).json()).filter(({ silent }) => !silent).length < ${machines}) await new Promise((go) => setTimeout(go, 500))`,
  );
  // The sample world writes its month in the first minutes, with all that this machine has.
  while ((await inPage<number>("return (await (await fetch('/api/demo')).json()).progress")) < 1) await delay(1000);
  // What it does of itself then, for the first time, is no matter of the link.
  for (let quiet = 0; quiet < calmTimes; ) {
    const before = processorSeconds(server.pid as number);
    await delay(calmMs);
    quiet = (processorSeconds(server.pid as number) - before) / (calmMs / 1000) < calmShare ? quiet + 1 : 0;
  }
  await send("Network.enable", {});
  // Noted in the page: when the rows stand with their strips, in the letters that they keep. Where nothing is known yet a
  // strip is hatched, which is no strip.
  await send("Page.addScriptToEvaluateOnNewDocument", {
    source: `
      const look = () => {
        const drawnIn = (tree) => [...(tree?.querySelectorAll('tbody tr, [data-machine]') ?? [])].filter((row) => row.querySelector('svg[preserveAspectRatio=none] path[opacity]')).length >= ${machinesOfColumns};
        const isReady = document.fonts.status === 'loaded';
        const kept = document.getElementById('kept-page');
        if (isReady && drawnIn(kept?.shadowRoot) && kept.getBoundingClientRect().height > 0) window.keptMs ??= performance.now();
        if (isReady && !kept && drawnIn(document)) window.drawnMs ??= performance.now();
        else requestAnimationFrame(look);
      };
      requestAnimationFrame(look);`,
  });
  async function visit(path: string): Promise<Seen> {
    await driver.get("about:blank");
    await driver.get(`${address}${path}`);
    return inPage(`
      const until = performance.now() + 20000;
      while (window.drawnMs === undefined && performance.now() < until) await new Promise((go) => setTimeout(go, 20));
      const all = [...performance.getEntriesByType('navigation'), ...performance.getEntriesByType('resource')].filter((one) => one.startTime <= window.drawnMs);
      return { keptMs: window.keptMs ?? null, drawnMs: window.drawnMs, bytes: all.reduce((sum, one) => sum + one.transferSize, 0) };`);
  }
  const first: Seen[] = [];
  const second: Seen[] = [];
  await visit("/?last=3600&every=60"); // what the server works out for the first time is no matter of the link
  for (let round = 0; round < rounds; round++) {
    await driver.get(`${address}/favicon.svg`); // the page before is left, and kept, before all that is kept goes
    await send("Network.clearBrowserCache", {});
    await inPage(
      "Object.keys(localStorage).forEach((key) => key.startsWith('nubrel.kept.') && localStorage.removeItem(key))",
    );
    await send("Network.emulateNetworkConditions", link);
    first.push(await visit("/?last=3600&every=60"));
    await delay(lookedAtMs);
    await send("Network.emulateNetworkConditions", {
      ...link,
      latency: 0,
      downloadThroughput: -1,
      uploadThroughput: -1,
    });
    second.push(await visit("/?last=3600&every=60"));
  }
  report("Fleet's first load over the wire", median(first.map(({ bytes }) => bytes)) / 1000, "kB", { atMost: 220 });
  report("drawn at 1.6 Mbit/s and 150 ms", median(first.map(({ drawnMs }) => drawnMs)), "ms", { atMost: 1500 });
  const anew = `drawn anew after ${Math.round(median(second.map(({ drawnMs }) => drawnMs)))} ms`;
  const kept = median(second.map(({ keptMs }) => keptMs ?? Number.POSITIVE_INFINITY));
  report("a second visit, as it stood when it was left", kept, "ms", { atMost: 300 }, anew);
} finally {
  await browser.close();
  await server.stop();
  await database.end();
}
finish();
