import { setMaxListeners } from "node:events";
import { setTimeout as delay } from "node:timers/promises";
import { Agent, request } from "undici";
import { openBrowser } from "../e2e/support/browser.mjs";
import { startServerProcess } from "../e2e/support/server-process.mjs";
import { benchDatabase } from "./bench-database.ts";
import { fastClock } from "./fast-clock.ts";
import { finish, median, report, round } from "./report.ts";
import { agent, processorSeconds, serve } from "./served.ts";

// Pages that stay open: eight hours of following by a clock that goes sixty times as fast, over what the sample world
// has of its past; what a page in a hidden tab costs the server; and fifty open pages, which ask what one page was seen
// to ask.
const hourMs = 3_600_000;
const hours = Number(process.env["NUBREL_PAGE_HOURS"] ?? 8);
const times = 60;
const streamMs = [2000, 25_000];
const [pages, sliceMs, slices] = [50, 20_000, 4];
const hiddenForMs = 75_000;
const seenForMs = 60_000;
/** Between what two pages ask in the same moment. */
const apartMs = 3;
/** Sign-ins that share the pages. */
const browsers = 5;
const streams = new Agent({ connections: pages, bodyTimeout: 0 });

const isWanted = (part: string) => (process.env["NUBREL_PAGES"] ?? "follow,hidden,many").split(",").includes(part);

const { database, url } = await benchDatabase("bench_pages");
const server = await startServerProcess(url, { demo: true });
const { address } = server;
type Driver = Awaited<ReturnType<typeof openBrowser>>["driver"];
interface DevTools {
  sendAndGetDevToolsCommand(command: string, values: object): Promise<unknown>;
}
const tools = async <T>(driver: Driver, command: string, values: object = {}) =>
  (await (driver as unknown as DevTools).sendAndGetDevToolsCommand(command, values)) as T;
const inPage = <T>(driver: Driver, script: string, ...values: readonly unknown[]): Promise<T> =>
  driver.executeAsyncScript(
    `const done = arguments[arguments.length - 1]; (async () => { ${script} })().then(done, (error) => done({ failed: String(error) }))`,
    ...values,
  );

try {
  await opened(async (driver) => {
    // The sample world writes its past first.
    while ((await inPage<number>(driver, "return (await (await fetch('/api/demo')).json()).progress")) < 1)
      await delay(1000);
  });
  await settled();
  if (isWanted("follow")) {
    await follows("the fleet", "/?last=900&every=5", "[data-machine] svg");
    await follows("a wall", "/wall?show=ready:machine", "[data-tile]");
  }
  if (isWanted("hidden")) await hidden();
  if (isWanted("many")) await many();
  const warnings = server
    .said()
    .split("\n")
    .filter((line: string) => /"level":[456]0|Warning:/.test(line));
  report("warnings in the server's log", warnings.length, "", { atMost: 0 }, warnings.slice(0, 3).join(" · "));
} finally {
  await server.stop();
  await database.end();
}
finish();

/** A browser of its own, signed in. */
async function opened(work: (driver: Driver) => Promise<void>): Promise<void> {
  const browser = await openBrowser({ width: 1280, height: 800 });
  try {
    await signInPage(browser.driver, address);
    await work(browser.driver);
  } finally {
    await browser.close();
  }
}

async function signInPage(driver: Driver, at: string): Promise<void> {
  await driver.get(at);
  await inPage(
    driver,
    "await fetch('/api/session', { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ name: 'Ines', password: 'kestrel on the quay' }) })",
  );
}

/** Waits until the server is calm: what it does for the first time is no matter of pages. */
async function settled(): Promise<void> {
  for (let calm = 0; calm < 3; ) {
    const before = processorSeconds(server.pid as number);
    await delay(2000);
    calm = (processorSeconds(server.pid as number) - before) / 2 < 0.2 ? calm + 1 : 0;
  }
}

/** Heap and time between frames of a page that follows, hour by hour. */
async function follows(what: string, path: string, drawn: string): Promise<void> {
  await opened(async (driver) => {
    const realMs = Date.now() + 3000;
    await tools(driver, "Page.addScriptToEvaluateOnNewDocument", {
      source: `${fastClock(realMs - hours * hourMs, realMs, times, streamMs)};
        window.frames = []; window.drawn = 0;
        let last; const step = (at) => { if (last !== undefined) window.frames.push(at - last); last = at; requestAnimationFrame(step); }; requestAnimationFrame(step);`,
    });
    await driver.get(address + path);
    await inPage(
      driver,
      `while (!document.querySelector(${JSON.stringify(drawn)})) await new Promise((go) => requestAnimationFrame(go));
       const fetch_ = window.fetch; window.asked = 0; window.fetch = (...all) => { window.asked++; return fetch_(...all); }`,
    );
    const heaps: number[] = [];
    const late: number[] = [];
    let asked = 0;
    for (let hour = 0; hour < hours; hour++) {
      await delay(hourMs / times);
      const seen = await inPage<{ frames: number[]; asked: number }>(
        driver,
        "const seen = { frames: window.frames, asked: window.asked }; window.frames = []; window.asked = 0; return seen",
      );
      asked += seen.asked;
      late.push(share(seen.frames, 0.95));
      await tools(driver, "HeapProfiler.collectGarbage");
      heaps.push((await tools<{ usedSize: number }>(driver, "Runtime.getHeapUsage")).usedSize / 1e6);
      await inPage(driver, "window.frames = []");
    }
    const counted = await tools<{ nodes: number; jsEventListeners: number }>(driver, "Memory.getDOMCounters");
    console.log(
      `${what}: heap after each hour ${heaps.map(round).join(", ")} MB; 95 of 100 frames within ${late.map(round).join(", ")} ms; ${asked} questions; at the end ${counted.nodes} nodes, ${counted.jsEventListeners} listeners`,
    );
    report(
      `${what} follows for ${hours} hours: heap at the end over that of the first`,
      (heaps.at(-1) as number) - (heaps[0] as number),
      "MB",
      {
        atMost: 20,
      },
    );
    const half = late.length >> 1;
    report(
      `${what}: time between frames, second half against the first`,
      median(late.slice(half)) / median(late.slice(0, Math.max(1, half))),
      "times",
      { atMost: 1.25 },
    );
  });
}

function share(figures: readonly number[], part: number): number {
  return [...figures].sort((a, b) => a - b)[Math.floor(figures.length * part)] ?? 0;
}

/** What a page that is left in a hidden tab costs a server that has nothing else to do, after its first minute there. */
async function hidden(): Promise<void> {
  const { server: quiet, ask } = await serve("bench_hidden");
  const browser = await openBrowser({ width: 1280, height: 800 });
  try {
    const { driver } = browser;
    await ask("GET", "/api/machines");
    await signInPage(driver, quiet.address);
    await driver.get(`${quiet.address}/?last=900&every=5`);
    await inPage(
      driver,
      "while (!document.querySelector('main h1')) await new Promise((go) => setTimeout(go, 100)); const plain = window.fetch; let asked = 0; window.fetch = (...all) => { localStorage.setItem('asked', String(++asked)); return plain(...all); }",
    );
    const first = (await driver.getAllWindowHandles())[0] as string;
    await driver.switchTo().newWindow("tab");
    const other = await driver.getWindowHandle();
    await delay(hiddenForMs);
    await driver.get(`${quiet.address}/api/health`);
    const asked = () => inPage<string | null>(driver, "return localStorage.getItem('asked')").then(Number);
    const before = await asked();
    const withPage = await shares(quiet.pid as number);
    const questions = (await asked()) - before;
    await driver.switchTo().window(first);
    await driver.close();
    await driver.switchTo().window(other);
    await delay(2000);
    const withoutPage = await shares(quiet.pid as number);
    report("questions of a page in a hidden tab", questions, "", { atMost: 0 }, `in ${(slices * sliceMs) / 1000} s`);
    report(
      "what a page in a hidden tab costs the server",
      Math.max(0, median(withPage) - median(withoutPage)),
      "% of a core",
      { atMost: 0.1 },
      `${round(median(withPage))} % with it, ${round(median(withoutPage))} % when it is closed`,
    );
  } finally {
    await browser.close();
    await quiet.stop();
  }
}

/** Shares of a core that a process takes, slice by slice, in per cent. */
async function shares(pid: number): Promise<number[]> {
  const all: number[] = [];
  for (let slice = 0; slice < slices; slice++) {
    const before = processorSeconds(pid);
    await delay(sliceMs);
    all.push(((processorSeconds(pid) - before) / (sliceMs / 1000)) * 100);
  }
  return all;
}

interface Asked {
  readonly afterMs: number;
  readonly path: string;
  readonly method: string;
  readonly body: string | null;
}

/** What a page was seen to ask in a minute, and what is counted of those who ask it again. */
interface Minute {
  readonly seen: readonly Asked[];
  readonly sinceMs: number;
  readonly beganMs: number;
  readonly signal: AbortSignal;
  readonly told: { answers: number; bytes: number; events: number };
}

/** Fifty pages that follow: each has its own stream and asks what a real one was seen to ask in a minute. */
async function many(): Promise<void> {
  let seen: readonly Asked[] = [];
  let sinceMs = 0;
  await opened(async (driver) => {
    await driver.get(`${address}/?last=900&every=5`);
    sinceMs = await inPage<number>(
      driver,
      `while (!document.querySelector('[data-machine] svg')) await new Promise((go) => setTimeout(go, 100));
       await new Promise((go) => setTimeout(go, 3000));
       const plain = window.fetch; const began = Date.now(); window.seen = [];
       window.fetch = (input, init) => { window.seen.push({ afterMs: Date.now() - began, path: String(input), method: init?.method ?? 'GET', body: init?.body ?? null }); return plain(input, init); };
       return began`,
    );
    await delay(seenForMs);
    seen = await inPage<Asked[]>(driver, "return window.seen");
  });
  await settled();
  const without = median(await shares(server.pid as number));
  const ending = new AbortController();
  setMaxListeners(0, ending.signal);
  const cookies: string[] = [];
  for (let i = 0; i < browsers; i++) cookies.push(await signedIn());
  const told = { answers: 0, bytes: 0, events: 0 };
  const beganMs = Date.now() + 1000;
  const all = Array.from({ length: pages }, (_, i) =>
    page(i, cookies[i % browsers] as string, { seen, sinceMs, beganMs, signal: ending.signal, told }),
  );
  for (const one of all) one.catch(() => {}); // told at the end
  await delay(5000);
  const began = { ...told };
  const with_ = median(await shares(server.pid as number));
  const minutes = (slices * sliceMs) / 60_000;
  const a = (figure: number) => round(figure / minutes / pages);
  report(
    `${pages} open pages that follow every 5 s`,
    with_ - without,
    "% of a core",
    { atMost: 10 },
    `${round(without)} % without them; each asks ${a(told.answers - began.answers)} times a minute for ${a((told.bytes - began.bytes) / 1000)} kB, and hears ${a(told.events - began.events)} parts of its stream`,
  );
  ending.abort();
  const ended = await Promise.allSettled(all);
  for (const one of ended) if (one.status === "rejected" && one.reason.name !== "AbortError") throw one.reason;
}

/** Signs in as a browser does; answers its cookie. */
async function signedIn(): Promise<string> {
  const answer = await request(`${address}/api/session`, {
    method: "POST",
    dispatcher: agent,
    headers: { origin: address, "content-type": "application/json" },
    body: JSON.stringify({ name: "Ines", password: "kestrel on the quay" }),
  });
  await answer.body.dump();
  if (answer.statusCode !== 200) throw new Error(`signing in was answered ${answer.statusCode}`);
  return String(answer.headers["set-cookie"]).split(";")[0] as string;
}

/** One page of a browser: a stream of its own, and the same questions minute after minute, of windows that move on. */
async function page(i: number, cookie: string, { seen, sinceMs, beganMs, signal, told }: Minute): Promise<void> {
  const headers = { origin: address, cookie, "accept-encoding": "gzip, br" };
  void request(`${address}/api/live`, { headers, signal, dispatcher: streams })
    .then(async ({ body }) => {
      for await (const _ of body) told.events++;
    })
    .catch(() => {}); // it is ended with all
  // Pages move on together, with the first samples after each interval of the clock; what they ask reaches the server
  // one after the other.
  for (let turnMs = beganMs + i * apartMs; ; turnMs += seenForMs) {
    for (const one of seen) {
      await delay(Math.max(0, turnMs + one.afterMs - Date.now()), undefined, { signal });
      const { path, body } = movedOn(one, turnMs - i * apartMs - sinceMs);
      const answer = await request(address + path, {
        method: one.method as "GET",
        dispatcher: agent,
        headers: { ...headers, ...(body !== null && { "content-type": "application/json" }) },
        body,
      });
      const text = await answer.body.text();
      if (answer.statusCode >= 400) throw new Error(`${path} was answered ${answer.statusCode}: ${text.slice(0, 200)}`);
      told.answers++;
      told.bytes += text.length;
    }
    await delay(Math.max(0, turnMs + seenForMs - Date.now()), undefined, { signal });
  }
}

/** A question with its moments moved on by `byMs`. */
function movedOn({ path, body }: Asked, byMs: number): { readonly path: string; readonly body: string | null } {
  const moved = (text: string) =>
    text.replace(/\b1[789]\d{11}\b/g, (moment) => String(Number(moment) + Math.round(byMs / 1000) * 1000));
  return { path: moved(path), body: body === null ? null : moved(body) };
}
