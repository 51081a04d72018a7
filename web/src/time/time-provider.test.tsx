// @vitest-environment jsdom
import { act, cleanup, render } from "@testing-library/react";
import { startTransition } from "react";
import { BrowserRouter } from "react-router";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { useSearchParts } from "../ui/use-search-parts.ts";
import { TimeProvider, useTime } from "./time-provider.tsx";
import { day, hour, narrowed, spanOf, widened, windowFromSearch } from "./time-window.ts";

let time: ReturnType<typeof useTime>;
let setParts: ReturnType<typeof useSearchParts>[1];
let samples = () => {};
const onSamples = (listener: () => void) => {
  samples = listener;
  return () => undefined;
};

function Inside() {
  time = useTime();
  [, setParts] = useSearchParts();
  return null;
}

function show(address: string): void {
  history.replaceState(null, "", address);
  render(
    <BrowserRouter>
      <TimeProvider onSamples={onSamples}>
        <Inside />
      </TimeProvider>
    </BrowserRouter>,
  );
}
beforeEach(() => show("/?from=2026-05-01T00:00:00.000Z&to=2026-05-02T00:00:00.000Z&reading=x"));
afterEach(cleanup);

const inAddress = () => windowFromSearch(new URLSearchParams(location.search));
const lengthInAddress = () => {
  const { fromMs, toMs } = spanOf(inAddress(), Date.now());
  return toMs - fromMs;
};

test("changes that come faster than the page is drawn each begin where the one before ended", () => {
  const { change, undo } = time;
  const begun = inAddress();
  act(() =>
    startTransition(() => {
      change(({ span }) => narrowed(span));
      expect(lengthInAddress()).toBe(12 * hour);
      change(({ span, nowMs }) => widened(span, nowMs));
      expect(lengthInAddress()).toBe(day);
      change(({ span, nowMs }) => widened(span, nowMs));
      expect(lengthInAddress()).toBe(2 * day);
      undo();
      expect(lengthInAddress()).toBe(day);
      undo();
      undo();
    }),
  );
  expect(inAddress()).toEqual(begun);
  expect(time.canUndo).toBe(false);
});

test("what changes nothing is nothing to take back, and other parts of the address stay", () => {
  act(() => time.change(({ window }) => window));
  expect(time.canUndo).toBe(false);
  const { change } = time;
  act(() => {
    setParts((before) => {
      before.set("month", "2026-04");
      return before;
    });
    change(({ span }) => narrowed(span));
  });
  const parts = new URLSearchParams(location.search);
  expect([parts.get("month"), parts.get("reading")]).toEqual(["2026-04", "x"]);
  expect(lengthInAddress()).toBe(12 * hour);
});

const secondAfter = () => Math.ceil(Date.now() / 1000) * 1000;
/** A page that follows now every 5 s, by a clock that stands until `pass`. */
function following(work: (pass: (ms: number) => void) => void): void {
  cleanup();
  vi.useFakeTimers();
  try {
    show("/?last=900&every=5");
    work((ms) => act(() => void vi.advanceTimersByTime(ms)));
  } finally {
    vi.useRealTimers();
  }
}

test("a hidden page stands still, whether samples come or not, and is up to date as soon as it is seen", () => {
  const state = vi.spyOn(document, "visibilityState", "get");
  following((pass) => {
    state.mockReturnValue("visible");
    pass(20_000);
    const moved = time.nowMs;
    expect(Date.now() - moved).toBeLessThan(10_000);
    state.mockReturnValue("hidden");
    pass(hour);
    act(() => samples());
    expect(time.nowMs).toBe(moved);
    state.mockReturnValue("visible");
    act(() => void document.dispatchEvent(new Event("visibilitychange")));
    expect(time.nowMs).toBe(secondAfter());
    pass(6000);
    act(() => samples());
    expect(time.nowMs).toBe(secondAfter());
  });
  state.mockRestore();
});

test("where samples come often, pages that were opened at any time move on at the same moments", () => {
  const momentsOf = (openedMs: number) => {
    const moments: number[] = [];
    following((pass) => {
      vi.setSystemTime(openedMs);
      for (let at = openedMs; at < 1_800_000_060_000; at += 250) {
        pass(250);
        const before = time.nowMs;
        act(() => samples());
        if (time.nowMs !== before) moments.push(time.nowMs);
      }
    });
    return moments.filter((ms) => ms > 1_800_000_020_000);
  };
  const moments = momentsOf(1_800_000_000_000);
  expect(moments).toHaveLength(8);
  expect(moments.every((ms, i) => i === 0 || ms - (moments[i - 1] as number) === 5000)).toBe(true);
  for (const opened of [1_800_000_001_250, 1_800_000_003_750, 1_800_000_004_750])
    expect(momentsOf(opened)).toEqual(moments);
});

test("where samples come from one source alone, none of them is skipped, however uneven", () => {
  following((pass) => {
    vi.setSystemTime(1_800_000_004_990);
    pass(5000);
    act(() => samples());
    for (const ms of [5020, 4960, 5010, 4700, 5290]) {
      pass(ms);
      act(() => samples());
      expect(time.nowMs).toBe(secondAfter());
    }
  });
});
