import { brushed, type Span, type TimeWindow } from "./time-window.ts";

/** What is held while the pointer moves on the rail: a bracket, the window, or a new one. */
export type Drag = { readonly kind: "from" | "to" | "move" | "brush"; readonly startMs: number; readonly atMs: number };

/** The window that a drag makes of the present one, not later than now. */
export function dragged(span: Span, drag: Drag, nowMs: number): Span {
  const by = drag.atMs - drag.startMs;
  switch (drag.kind) {
    case "brush":
      return spanOfWindow(brushed(drag.startMs, drag.atMs, nowMs));
    case "from":
      return spanOfWindow(brushed(Math.min(span.fromMs + by, span.toMs - 10_000), span.toMs, nowMs));
    case "to":
      return spanOfWindow(brushed(span.fromMs, Math.max(span.toMs + by, span.fromMs + 10_000), nowMs));
    case "move": {
      const toMs = Math.min(nowMs, span.toMs + by);
      return { fromMs: toMs - (span.toMs - span.fromMs), toMs };
    }
  }
}

const spanOfWindow = (window: TimeWindow): Span =>
  window.kind === "fixed" ? { fromMs: window.fromMs, toMs: window.toMs } : { fromMs: 0, toMs: 0 };
