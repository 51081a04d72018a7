/** What of time is shown. While following, the window ends now and moves on every `everyMs`. */
export type TimeWindow =
  | { readonly kind: "following"; readonly lengthMs: number; readonly everyMs: number }
  | { readonly kind: "fixed"; readonly fromMs: number; readonly toMs: number };

export interface Span {
  readonly fromMs: number;
  readonly toMs: number;
}

const minute = 60_000;
export const hour = 60 * minute;
export const day = 24 * hour;

export const lengths: readonly (readonly [text: string, ms: number])[] = [
  ["5 min", 5 * minute],
  ["15 min", 15 * minute],
  ["1 h", hour],
  ["6 h", 6 * hour],
  ["1 day", day],
  ["7 days", 7 * day],
  ["30 days", 30 * day],
  ["90 days", 90 * day],
];
export const refreshes: readonly (readonly [text: string, ms: number])[] = [
  ["5 s", 5000],
  ["15 s", 15_000],
  ["1 min", minute],
  ["5 min", 5 * minute],
];

export const defaultWindow: TimeWindow = { kind: "following", lengthMs: 15 * minute, everyMs: 5000 };
export const shortestMs = 10_000;
const longestMs = 400 * day;

const windowParts = ["from", "to", "last", "every"] as const;

/** Reads a window from the address's search part; what cannot be read gives the usual one. */
export function windowFromSearch(search: URLSearchParams): TimeWindow {
  const fromMs = Date.parse(search.get("from") ?? "");
  const toMs = Date.parse(search.get("to") ?? "");
  if (toMs - fromMs >= shortestMs && toMs - fromMs <= longestMs) return { kind: "fixed", fromMs, toMs };
  const lengthMs = Number(search.get("last") ?? Number.NaN) * 1000;
  const everyMs = Number(search.get("every") ?? Number.NaN) * 1000;
  return {
    kind: "following",
    lengthMs:
      lengthMs >= shortestMs && lengthMs <= longestMs
        ? lengthMs
        : defaultWindow.kind === "following"
          ? defaultWindow.lengthMs
          : hour,
    everyMs: refreshes.some(([, ms]) => ms === everyMs) ? everyMs : 5000,
  };
}

/**
 * Writes a window into a search part, leaving what else stands there. Fixed ones as ISO times, following ones in
 * seconds.
 */
export function searchWithWindow(search: URLSearchParams, window: TimeWindow): URLSearchParams {
  const next = new URLSearchParams(search);
  for (const name of windowParts) next.delete(name);
  if (window.kind === "fixed") {
    next.set("from", new Date(window.fromMs).toISOString());
    next.set("to", new Date(window.toMs).toISOString());
  } else {
    next.set("last", String(window.lengthMs / 1000));
    next.set("every", String(window.everyMs / 1000));
  }
  return next;
}

/** An address inside the application with the window that `search` speaks of, unless it has one of its own. */
export function addressWithWindow(address: string, search: URLSearchParams): string {
  const [rest = "", hash] = address.split("#");
  const [path, own] = rest.split("?");
  const parts = new URLSearchParams(own);
  if (!windowParts.some((name) => parts.has(name)))
    for (const name of windowParts) if (search.has(name)) parts.set(name, search.get(name) as string);
  const text = parts.toString();
  return `${path}${text ? `?${text}` : ""}${hash ? `#${hash}` : ""}`;
}

/** Half as long around the same middle. */
export function narrowed(span: Span): TimeWindow {
  const length = Math.max(shortestMs, (span.toMs - span.fromMs) / 2);
  const fromMs = (span.fromMs + span.toMs) / 2 - length / 2;
  return { kind: "fixed", fromMs: Math.round(fromMs), toMs: Math.round(fromMs + length) };
}

/** The moments that a window covers, given the newest moment. */
export function spanOf(window: TimeWindow, nowMs: number): Span {
  return window.kind === "fixed" ? window : { fromMs: nowMs - window.lengthMs, toMs: nowMs };
}

/** Moves a window by its own length; forward past now it ends at now. */
export function stepped(span: Span, direction: -1 | 1, nowMs: number): TimeWindow {
  const length = span.toMs - span.fromMs;
  const toMs = Math.min(nowMs, span.toMs + direction * length);
  return { kind: "fixed", fromMs: toMs - length, toMs };
}

/** A window between two moments in any order, made at least `shortestMs` long, not later than now. */
export function brushed(aMs: number, bMs: number, nowMs: number): TimeWindow {
  const toMs = Math.min(nowMs, Math.max(aMs, bMs));
  const fromMs = Math.min(aMs, bMs, toMs - shortestMs);
  return { kind: "fixed", fromMs: Math.round(fromMs), toMs: Math.round(toMs) };
}

/** Twice as long around the same middle, not later than now. */
export function widened(span: Span, nowMs: number): TimeWindow {
  const length = Math.min(longestMs, (span.toMs - span.fromMs) * 2);
  const toMs = Math.min(nowMs, (span.fromMs + span.toMs) / 2 + length / 2);
  return { kind: "fixed", fromMs: Math.round(toMs - length), toMs: Math.round(toMs) };
}
