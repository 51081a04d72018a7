// @vitest-environment jsdom
import { act, cleanup, render } from "@testing-library/react";
import { startTransition } from "react";
import { BrowserRouter } from "react-router";
import { afterEach, beforeEach, expect, test } from "vitest";
import { useSearchParts } from "../ui/use-search-parts.ts";
import { TimeProvider, useTime } from "./time-provider.tsx";
import { day, hour, narrowed, spanOf, widened, windowFromSearch } from "./time-window.ts";

let time: ReturnType<typeof useTime>;
let setParts: ReturnType<typeof useSearchParts>[1];
const onSamples = () => () => undefined;

function Inside() {
  time = useTime();
  [, setParts] = useSearchParts();
  return null;
}

beforeEach(() => {
  history.replaceState(null, "", "/?from=2026-05-01T00:00:00.000Z&to=2026-05-02T00:00:00.000Z&reading=x");
  render(
    <BrowserRouter>
      <TimeProvider onSamples={onSamples}>
        <Inside />
      </TimeProvider>
    </BrowserRouter>,
  );
});
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
