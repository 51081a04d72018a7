import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { type LiveMessage, LiveStream } from "./live-stream.ts";

/** A browser's event source, driven by the test. */
class FakeSource extends EventTarget {
  static made: FakeSource[] = [];
  closed = false;
  constructor() {
    super();
    FakeSource.made.push(this);
  }
  close(): void {
    this.closed = true;
  }
  say(kind: string, data: unknown): void {
    this.dispatchEvent(Object.assign(new Event(kind), { data: JSON.stringify(data) }));
  }
}

const page = new EventTarget();
const document_ = Object.assign(new EventTarget(), { visibilityState: "visible" });
let stream: LiveStream;
let heard: LiveMessage[];
const latest = () => FakeSource.made[FakeSource.made.length - 1] as FakeSource;
const live = () => FakeSource.made.filter(({ closed }) => !closed).length;

beforeEach(() => {
  vi.useFakeTimers({ now: 1_000_000 });
  FakeSource.made = [];
  vi.stubGlobal("EventSource", FakeSource);
  vi.stubGlobal("window", globalThis);
  vi.stubGlobal("document", document_);
  vi.stubGlobal("addEventListener", page.addEventListener.bind(page));
  vi.stubGlobal("removeEventListener", page.removeEventListener.bind(page));
  stream = new LiveStream(() => false);
  heard = [];
  stream.onMessage((message) => heard.push(message));
  stream.start();
});
afterEach(() => {
  stream.stop();
  vi.unstubAllGlobals();
  vi.useRealTimers();
});

test("opens, and passes on what the server tells", () => {
  expect(stream.status).toEqual({ kind: "waiting" });
  latest().dispatchEvent(new Event("open"));
  expect(stream.status).toEqual({ kind: "open" });
  latest().say("samples", { kind: "samples", atMs: 7 });
  expect(heard).toEqual([{ kind: "samples", atMs: 7 }]);
});

test("a broken line is lost since its first failure, tried every two seconds, and told when it is back", () => {
  latest().dispatchEvent(new Event("open"));
  vi.advanceTimersByTime(5000);
  latest().dispatchEvent(new Event("error"));
  expect(stream.status).toEqual({ kind: "lost", sinceMs: 1_005_000 });
  for (let i = 0; i < 3; i++) {
    vi.advanceTimersByTime(2000);
    latest().dispatchEvent(new Event("error"));
  }
  expect(FakeSource.made).toHaveLength(4);
  expect(live()).toBe(0);
  expect(stream.status).toEqual({ kind: "lost", sinceMs: 1_005_000 });
  vi.advanceTimersByTime(2000);
  latest().dispatchEvent(new Event("open"));
  expect(stream.status).toEqual({ kind: "open" });
  expect(heard).toEqual([{ kind: "back" }]);
});

test("silence of 25 s is a dead line, samples keep it alive", () => {
  latest().dispatchEvent(new Event("open"));
  vi.advanceTimersByTime(20_000);
  latest().say("samples", { kind: "samples", atMs: 1 });
  vi.advanceTimersByTime(20_000);
  expect(stream.status.kind).toBe("open");
  vi.advanceTimersByTime(5000);
  expect(stream.status).toEqual({ kind: "lost", sinceMs: 1_045_000 });
});

test("a page that is left gives its connection back at once, a hidden tab after a minute; both ask anew when they are seen again", () => {
  latest().dispatchEvent(new Event("open"));
  page.dispatchEvent(new Event("pagehide"));
  expect(live()).toBe(0);
  page.dispatchEvent(new Event("pageshow"));
  latest().dispatchEvent(new Event("open"));
  expect(heard).toEqual([{ kind: "back" }]);

  document_.visibilityState = "hidden";
  document_.dispatchEvent(new Event("visibilitychange"));
  vi.advanceTimersByTime(20_000);
  latest().say("samples", { kind: "samples", atMs: 2 });
  vi.advanceTimersByTime(20_000);
  latest().say("samples", { kind: "samples", atMs: 3 });
  vi.advanceTimersByTime(19_000);
  expect(live()).toBe(1);
  vi.advanceTimersByTime(1000);
  expect(live()).toBe(0);
  document_.visibilityState = "visible";
  document_.dispatchEvent(new Event("visibilitychange"));
  expect(live()).toBe(1);
  latest().dispatchEvent(new Event("open"));
  expect(heard[heard.length - 1]).toEqual({ kind: "back" });
  expect(stream.status).toEqual({ kind: "open" });
});

test("a hidden tab goes on hearing where the system is to show what is raised", () => {
  stream.stop();
  stream = new LiveStream(() => true);
  stream.start();
  latest().dispatchEvent(new Event("open"));
  document_.visibilityState = "hidden";
  document_.dispatchEvent(new Event("visibilitychange"));
  for (let i = 0; i < 10; i++) {
    vi.advanceTimersByTime(20_000);
    latest().say("samples", { kind: "samples", atMs: i });
  }
  expect(live()).toBe(1);
  document_.visibilityState = "visible";
});

test("stopped, it holds nothing and hears nothing", () => {
  stream.stop();
  page.dispatchEvent(new Event("pageshow"));
  vi.advanceTimersByTime(60_000);
  expect(live()).toBe(0);
});
