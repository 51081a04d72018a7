import { afterEach, beforeEach, expect, test, vi } from "vitest";

// The worker's own world (Service Workers), as far as it is used: what a browser hands it, and what it does.
const scope = "https://nubrel.example/at/home/";
type Listener = (event: object) => void;
let listeners: Record<string, Listener>;
let kept: Map<string, Response>;
let served: () => Promise<Response>;

beforeEach(async () => {
  listeners = {};
  kept = new Map();
  served = async () => page("new");
  const cache = {
    add: async (url: string) => void kept.set(url, await served()),
    put: async (url: string, answer: Response) => void kept.set(url, answer),
    match: async (url: string) => kept.get(url)?.clone(),
  };
  vi.stubGlobal("caches", { open: async () => cache });
  vi.stubGlobal("fetch", () => served());
  vi.stubGlobal("registration", { scope });
  vi.stubGlobal("skipWaiting", async () => {});
  vi.stubGlobal("addEventListener", (kind: string, listener: Listener) => {
    listeners[kind] = listener;
  });
  vi.resetModules();
  await import("./shell-worker.ts");
});
afterEach(() => vi.unstubAllGlobals());

const page = (text: string) => new Response(text, { headers: { "content-type": "text/html; charset=utf-8" } });

/** What an address is answered with; undefined where the worker leaves it alone. */
async function opened(url: string, mode = "navigate"): Promise<Response | undefined> {
  let answer: Promise<Response> | undefined;
  const waits: Promise<unknown>[] = [];
  listeners["fetch"]?.({
    ...{ request: { url, mode } },
    ...{
      respondWith: (given: Promise<Response>) => (answer = given),
      waitUntil: (done: Promise<unknown>) => waits.push(done),
    },
  });
  const given = await answer;
  await Promise.all(waits);
  return given;
}
const textOf = async (url: string) => (await opened(url))?.text();
async function isInstalled(): Promise<void> {
  const waits: Promise<unknown>[] = [];
  listeners["install"]?.({ waitUntil: (done: Promise<unknown>) => waits.push(done) });
  await Promise.all(waits);
}

test("while the server answers, its own answer is what is shown, and kept", async () => {
  await isInstalled();
  served = async () => page("newer");
  expect(await textOf(`${scope}machines/vault?last=3600`)).toBe("newer");
  served = () => Promise.reject(new TypeError("Failed to fetch"));
  expect(await textOf(`${scope}counters`)).toBe("newer");
});

test("an icon that is opened by itself is not kept for the page", async () => {
  await isInstalled();
  served = async () => new Response("<svg/>", { headers: { "content-type": "image/svg+xml" } });
  expect(await textOf(`${scope}favicon.svg`)).toBe("<svg/>");
  served = () => Promise.reject(new TypeError("Failed to fetch"));
  expect(await textOf(scope)).toBe("new");
});

test.each([502, 503, 504])("a proxy that says %d for a server that is away is answered for as well", async (status) => {
  await isInstalled();
  served = async () => new Response("away", { status });
  expect(await textOf(scope)).toBe("new");
});

test("a refusal of the server's own is shown as it is, and not kept", async () => {
  await isInstalled();
  served = async () => new Response("not this server's name", { status: 421 });
  expect((await opened(scope))?.status).toBe(421);
  served = () => Promise.reject(new TypeError("Failed to fetch"));
  expect(await textOf(scope)).toBe("new");
});

test("without anything kept the failure is the browser's to tell", async () => {
  served = () => Promise.reject(new TypeError("Failed to fetch"));
  await expect(opened(scope)).rejects.toThrow("Failed to fetch");
});

test("no page is asked for beside the worker: what goes its way would be asked for twice", () => {
  expect(Object.keys(listeners).sort()).toEqual(["fetch", "install"]);
});

test.each([
  [`${scope}api/readings`, "navigate"],
  [`${scope}s/secret`, "navigate"],
  [`${scope}invitation/code`, "navigate"],
  [`${scope}assets/index.js`, "no-cors"],
  ["https://nubrel.example/other/", "navigate"],
])("%s (%s) goes its way", async (url, mode) => {
  await isInstalled();
  expect(await opened(url, mode)).toBeUndefined();
});
