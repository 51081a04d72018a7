import { beforeEach, describe, expect, test, vi } from "vitest";
import { axisFor } from "../../../core/units/axis.ts";
import type { PlotModel } from "../../../core/drawing/model.ts";
import type { PlotSize } from "./plot.ts";

// The page is played: what is near, how large, and when a frame comes is told by the test.
const drawn: { readonly element: object; readonly model: PlotModel; readonly size: PlotSize }[] = [];
const disposed: object[] = [];
vi.mock("./plot.ts", () => ({
  Plot: class {
    readonly element: object;
    constructor(element: object) {
      this.element = element;
    }
    draw(model: PlotModel, size: PlotSize) {
      drawn.push({ element: this.element, model, size });
    }
    canvas() {
      return "the canvas";
    }
    dispose() {
      disposed.push(this.element);
    }
  },
}));

type Told = (entries: readonly { readonly target: object; readonly isIntersecting: boolean }[]) => void;
let tellNear: Told = () => {};
let tellSizes: (entries: readonly { readonly target: object }[]) => void = () => {};
let frames: (() => void)[] = [];
const pageListeners = new Map<string, () => void>();
const watched = new Set<object>();
let clock = 0;

vi.stubGlobal(
  "IntersectionObserver",
  class {
    constructor(tell: Told) {
      tellNear = tell;
    }
    observe(element: object) {
      watched.add(element);
    }
    unobserve(element: object) {
      watched.delete(element);
    }
  },
);
vi.stubGlobal(
  "ResizeObserver",
  class {
    constructor(tell: typeof tellSizes) {
      tellSizes = tell;
    }
    observe() {}
    unobserve() {}
  },
);
vi.stubGlobal("requestAnimationFrame", (run: () => void) => frames.push(run));
vi.stubGlobal("addEventListener", (kind: string, run: () => void) => pageListeners.set(kind, run));
vi.stubGlobal("removeEventListener", (kind: string) => pageListeners.delete(kind));
vi.stubGlobal("performance", { now: () => clock });

const { chartManager } = await import("./chart-manager.ts");
vi.stubGlobal("innerWidth", 1280);
vi.stubGlobal("innerHeight", 800);
/** An element of a width, so far from the top of the screen. */
const element = (clientWidth = 300, top = 5000) =>
  ({
    clientWidth,
    clientHeight: 100,
    getBoundingClientRect: () => ({ top, bottom: top + 100, left: 0, right: clientWidth }),
  }) as unknown as HTMLElement;
const model = (toMs: number): PlotModel => ({
  fromMs: 0,
  toMs,
  firstMs: 0,
  stepMs: 1,
  axis: axisFor("1", 0, 1),
  lines: [],
  ticks: () => [],
  drawn: "lines",
  theme: "day",
});
const frame = () => {
  const run = frames;
  frames = [];
  for (const one of run) one();
};
const near = (one: object, isIntersecting = true) => tellNear([{ target: one, isIntersecting }]);

beforeEach(() => {
  drawn.length = 0;
  disposed.length = 0;
  frames = [];
});

describe("the one manager of all charts", () => {
  test("draws a chart in the next frame once it is near, and only its newest model", () => {
    const one = element();
    const handle = chartManager.add(one);
    handle.draw(model(1));
    frame();
    expect(drawn).toEqual([]);
    near(one);
    handle.draw(model(2));
    handle.draw(model(3));
    expect(drawn).toEqual([]);
    frame();
    expect(drawn.map(({ model: { toMs } }) => toMs)).toEqual([3]);
    handle.release();
  });
  test("one that is far waits with its newest model until it comes near again", () => {
    const one = element();
    const handle = chartManager.add(one);
    near(one);
    handle.draw(model(1));
    frame();
    near(one, false);
    handle.draw(model(2));
    handle.draw(model(3));
    frame();
    expect(drawn).toHaveLength(1);
    near(one);
    frame();
    expect(drawn.map(({ model: { toMs } }) => toMs)).toEqual([1, 3]);
    handle.release();
  });
  test("many are drawn in frames, not all at once: after the budget of one the next goes on", () => {
    const all = Array.from({ length: 5 }, () => element());
    const handles = all.map((one) => chartManager.add(one));
    const idle = vi.fn();
    const off = chartManager.onIdle(idle);
    for (const one of all) near(one);
    // Each drawing takes 50 ms; the budget of a frame is 80 ms.
    const push = drawn.push.bind(drawn);
    vi.spyOn(drawn, "push").mockImplementation((entry) => {
      clock += 50;
      return push(entry);
    });
    for (const handle of handles) handle.draw(model(1));
    const perFrame: number[] = [];
    while (frames.length > 0) {
      const before = drawn.length;
      frame();
      perFrame.push(drawn.length - before);
      expect(idle).toHaveBeenCalledTimes(frames.length > 0 ? 0 : 1);
    }
    expect(perFrame).toEqual([2, 2, 1]);
    vi.restoreAllMocks();
    off();
    for (const handle of handles) handle.release();
  });
  test("a new one near the screen is drawn when it has been laid out, in that frame, and not again when it is told near", () => {
    const [one, far] = [element(300, 900), element(300, 1300)];
    const handles = [one, far].map((each) => chartManager.add(each));
    for (const handle of handles) handle.draw(model(1));
    tellSizes([{ target: one }, { target: far }]);
    expect(drawn.map(({ element: on }) => on)).toEqual([one]);
    near(one);
    near(far);
    frame();
    expect(drawn.map(({ element: on }) => on)).toEqual([one, far]);
    for (const handle of handles) handle.release();
  });
  test("a new size is drawn with as it comes, and kept", () => {
    const one = element();
    const handle = chartManager.add(one);
    near(one);
    handle.draw(model(1));
    frame();
    const width = vi.fn(() => 450);
    Object.defineProperty(one, "clientWidth", { get: width });
    tellSizes([{ target: one }]);
    handle.draw(model(2));
    frame();
    expect(width).toHaveBeenCalledTimes(1); // while others are drawn, asking would lay out the page again
    expect(drawn.map(({ size: { width, height } }) => [width, height])).toEqual([
      [300, 100],
      [450, 100],
      [450, 100],
    ]);
    handle.release();
  });
  test("without a width there is nothing to draw on yet", () => {
    const one = element(0);
    const handle = chartManager.add(one);
    near(one);
    handle.draw(model(1));
    frame();
    expect(drawn).toEqual([]);
    handle.release();
  });
  test("paper and pictures have what no screen has shown", () => {
    const [far, empty] = [element(), element()];
    const [handle, other] = [chartManager.add(far), chartManager.add(empty)];
    handle.draw(model(1));
    pageListeners.get("beforeprint")?.();
    expect(drawn.map(({ element: on }) => on)).toEqual([far]);
    expect([handle.canvas(2), other.canvas(2)]).toEqual(["the canvas", undefined]);
    handle.release();
    other.release();
  });
  test("one that is released is let go: not watched, not drawn, its canvas disposed of; after the last the page is not listened to", () => {
    const one = element();
    const handle = chartManager.add(one);
    near(one);
    handle.draw(model(1));
    frame();
    handle.draw(model(2));
    handle.release();
    frame();
    expect([drawn.length, disposed, watched.has(one), pageListeners.has("beforeprint")]).toEqual([
      1,
      [one],
      false,
      false,
    ]);
    tellNear([{ target: one, isIntersecting: true }]);
    tellSizes([{ target: one }]);
    expect(frames).toEqual([]);
  });
});
