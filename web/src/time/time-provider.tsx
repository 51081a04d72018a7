import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { type Span, searchWithWindow, spanOf, type TimeWindow, windowFromSearch } from "./time-window.ts";

interface TimeControl {
  readonly window: TimeWindow;
  readonly span: Span;
  readonly nowMs: number;
  /** Shows another window; the one before can be taken back. */
  change(window: TimeWindow): void;
  readonly undo: (() => void) | undefined;
}

const TimeContext = createContext<TimeControl | undefined>(undefined);
const mostUndo = 50;

type OnSamples = (listener: () => void) => () => void;

/**
 * The window of everything below; it lives in the address, only what can be undone lives here. `onSamples` has a
 * listener called when samples were stored.
 */
export function TimeProvider({ children, onSamples }: { children: ReactNode; onSamples: OnSamples }): ReactNode {
  const [search, setSearch] = useSearchParams();
  const [past, setPast] = useState<readonly TimeWindow[]>([]);
  const text = searchWithWindow(new URLSearchParams(), windowFromSearch(search)).toString();
  const window = useMemo(() => windowFromSearch(new URLSearchParams(text)), [text]);
  const nowMs = useNow(window.kind === "following" ? window.everyMs : 60_000, onSamples);

  const show = useCallback((next: TimeWindow) => setSearch((before) => searchWithWindow(before, next)), [setSearch]);
  const change = useCallback(
    (next: TimeWindow) => {
      setPast((before) => [...before.slice(-mostUndo + 1), window]);
      show(next);
    },
    [window, show],
  );
  const control = useMemo((): TimeControl => {
    const last = past[past.length - 1];
    const undo =
      last &&
      (() => {
        setPast(past.slice(0, -1));
        show(last);
      });
    return { window, nowMs, span: spanOf(window, nowMs), change, undo };
  }, [window, nowMs, change, past, show]);
  return <TimeContext value={control}>{children}</TimeContext>;
}

export function useTime(): TimeControl {
  const control = useContext(TimeContext);
  if (!control) throw new Error("useTime needs a TimeProvider above it");
  return control;
}

/** Now, moved on by samples that arrive, at most every `everyMs`; by the clock alone while none arrive. */
function useNow(everyMs: number, onSamples: OnSamples): number {
  const [now, setNow] = useState(Date.now);
  const last = useRef(now);
  const move = useCallback((to: number, least: number) => {
    if (to - last.current < least) return;
    last.current = to;
    setNow(to);
  }, []);
  // Samples come a little unevenly; a tenth of the interval is let go so that none of them is skipped.
  useEffect(() => onSamples(() => move(Date.now(), everyMs * 0.9)), [onSamples, move, everyMs]);
  useEffect(() => {
    const timer = setInterval(() => move(Date.now(), everyMs * 1.5), everyMs);
    return () => clearInterval(timer);
  }, [everyMs, move]);
  return now;
}
