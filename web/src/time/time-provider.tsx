import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useRef, useState } from "react";
import { firstNowMs, wholeSecondMs } from "./page-begun.ts";
import { searchNow, useSearchParts } from "../ui/use-search-parts.ts";
import { type Span, searchWithWindow, spanOf, type TimeWindow, windowFromSearch } from "./time-window.ts";

interface ShownTime {
  readonly window: TimeWindow;
  readonly span: Span;
  readonly nowMs: number;
}

interface TimeControl extends ShownTime {
  /**
   * Shows another window; the one before can be taken back. A change by what is shown is given what the address says
   * when it is made: keys come faster than a page is drawn.
   */
  change(window: TimeWindow | ((shown: ShownTime) => TimeWindow)): void;
  /** Takes the last change back, where there is one. */
  undo(): void;
  readonly canUndo: boolean;
}

const TimeContext = createContext<TimeControl | undefined>(undefined);
const mostUndo = 50;

type OnSamples = (listener: () => void) => () => void;

/**
 * The window of everything below; it lives in the address, only what can be undone lives here. `onSamples` has a
 * listener called when samples were stored.
 */
export function TimeProvider({ children, onSamples }: { children: ReactNode; onSamples: OnSamples }): ReactNode {
  const [search, setSearch] = useSearchParts();
  const past = useRef<readonly TimeWindow[]>([]);
  const [canUndo, setCanUndo] = useState(false);
  const text = searchWithWindow(new URLSearchParams(), windowFromSearch(search)).toString();
  const window = useMemo(() => windowFromSearch(new URLSearchParams(text)), [text]);
  const nowMs = useNow(window.kind === "following" ? window.everyMs : 60_000, onSamples);

  const show = useCallback((next: TimeWindow) => setSearch((before) => searchWithWindow(before, next)), [setSearch]);
  const keepPast = useCallback((next: readonly TimeWindow[]) => {
    past.current = next;
    setCanUndo(next.length > 0);
  }, []);
  const change = useCallback(
    (next: TimeWindow | ((shown: ShownTime) => TimeWindow)) => {
      const shown = windowFromSearch(searchNow());
      const made = typeof next === "function" ? next({ window: shown, nowMs, span: spanOf(shown, nowMs) }) : next;
      if (made === shown) return;
      keepPast([...past.current.slice(-mostUndo + 1), shown]);
      show(made);
    },
    [nowMs, show, keepPast],
  );
  const undo = useCallback(() => {
    const last = past.current[past.current.length - 1];
    if (!last) return;
    keepPast(past.current.slice(0, -1));
    show(last);
  }, [show, keepPast]);
  const control = useMemo(
    (): TimeControl => ({ window, nowMs, span: spanOf(window, nowMs), change, undo, canUndo }),
    [window, nowMs, change, undo, canUndo],
  );
  return <TimeContext value={control}>{children}</TimeContext>;
}

export function useTime(): TimeControl {
  const control = useContext(TimeContext);
  if (!control) throw new Error("useTime needs a TimeProvider above it");
  return control;
}

/**
 * Now, moved on by samples that arrive, at most every `everyMs`; by the clock alone while none arrive. A hidden page
 * stands still, as nobody looks and every move is a question to the server; it moves on as soon as it is seen.
 */
function useNow(everyMs: number, onSamples: OnSamples): number {
  const [now, setNow] = useState(firstNowMs);
  const last = useRef(now);
  const heardMs = useRef(Number.NEGATIVE_INFINITY);
  const move = useCallback((to: number, least: number) => {
    if (to - last.current < least || document.visibilityState === "hidden") return;
    last.current = to;
    setNow(wholeSecondMs(to));
  }, []);
  useEffect(
    () =>
      onSamples(() => {
        const to = Date.now();
        const isDense = to - heardMs.current < everyMs / 2;
        heardMs.current = to;
        // Where samples come often, pages move on at the same moments, with the first after each interval of the clock.
        // Where they are of one source they come a little unevenly: a tenth is let go so that none is skipped.
        const begun = Math.floor(to / everyMs) * everyMs;
        move(to, isDense ? Math.max(to - begun + 1, everyMs / 5) : everyMs * 0.9);
      }),
    [onSamples, move, everyMs],
  );
  useEffect(() => {
    const timer = setInterval(() => move(Date.now(), everyMs * 1.5), everyMs);
    const seen = () => move(Date.now(), everyMs);
    document.addEventListener("visibilitychange", seen);
    return () => {
      clearInterval(timer);
      document.removeEventListener("visibilitychange", seen);
    };
  }, [everyMs, move]);
  return now;
}
