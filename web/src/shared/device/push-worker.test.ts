import { afterEach, beforeEach, expect, test, vi } from "vitest";

// The worker's own world (Service Workers, Push API), as far as it is used: what a browser hands it, and what it does.
type Listener = (event: object) => void;
let listeners: Record<string, Listener>;
let shown: { title: string; options: object }[];
let pages: { url: string; focus: () => Promise<void>; navigate: (to: string) => Promise<void> }[];
let openedAt: string[];

beforeEach(async () => {
  listeners = {};
  shown = [];
  pages = [];
  openedAt = [];
  vi.stubGlobal("registration", {
    scope: "https://nubrel.example/at/home/assets/",
    showNotification: async (title: string, options: object) => void shown.push({ title, options }),
  });
  vi.stubGlobal("clients", {
    matchAll: async () => pages,
    openWindow: async (address: string) => void openedAt.push(address),
  });
  vi.stubGlobal("addEventListener", (kind: string, listener: Listener) => {
    listeners[kind] = listener;
  });
  vi.resetModules();
  await import("./push-worker.ts");
});
afterEach(() => vi.unstubAllGlobals());

async function happens(kind: string, more: object): Promise<void> {
  const waits: Promise<unknown>[] = [];
  listeners[kind]?.({ waitUntil: (done: Promise<unknown>) => waits.push(done), ...more });
  await Promise.all(waits);
}
const data = (text: string) => ({ json: () => JSON.parse(text) as unknown, text: () => text });
const touched = (link: string) => happens("notificationclick", { notification: { close: () => {}, data: link } });

test("a message is shown, and the next of the same takes its place", async () => {
  const link = "https://nubrel.example/at/home/alerts/incidents/7";
  await happens("push", { data: data(JSON.stringify({ id: "m-1", title: "vault", text: "busy", link })) });
  expect(shown).toEqual([{ title: "vault", options: { body: "busy", tag: "m-1", data: link } }]);
});

test.each([
  [null, ""],
  [data("plain words"), "plain words"],
])("what is no message of ours is shown all the same", async (given, body) => {
  await happens("push", { data: given });
  expect(shown).toEqual([{ title: "Nubrel", options: { body, tag: "", data: "" } }]);
});

test("touched it goes on in a page that is open, by the name that this browser knows the server by", async () => {
  const went: string[] = [];
  pages = [
    { url: "https://elsewhere.example/", focus: async () => {}, navigate: async (to) => void went.push(`no ${to}`) },
    {
      url: "https://nubrel.example/at/home/counters",
      focus: async () => {},
      navigate: async (to) => void went.push(to),
    },
  ];
  await touched("https://10.0.0.5:8970/at/home/alerts/incidents/7?from=1");
  expect(went).toEqual(["https://nubrel.example/at/home/alerts/incidents/7?from=1"]);
  expect(openedAt).toEqual([]);
});

test("without one, or where it cannot be led there, a new one is opened", async () => {
  await touched("https://nubrel.example/at/home/alerts");
  pages = [{ url: "https://nubrel.example/", focus: async () => {}, navigate: () => Promise.reject(new Error("no")) }];
  await touched("");
  expect(openedAt).toEqual(["https://nubrel.example/at/home/alerts", "https://nubrel.example/at/home/"]);
});
