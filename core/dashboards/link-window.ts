/** What of time a link shows: the last so many seconds as they pass, or a span that stays. */
export type LinkWindow = { readonly last: number } | { readonly from: number; readonly to: number };

interface Span {
  readonly from: number;
  readonly to: number;
}

/** Clocks of those who look differ, and steps begin a little before. */
const slackMs = 120_000;

/** Whether a span of ms lies within what a link shows of time. */
export function isWithinLink(window: LinkWindow, { from, to }: Span, nowMs: number): boolean {
  if ("last" in window) return from >= nowMs - window.last * 1000 - slackMs && to <= nowMs + slackMs;
  return from >= window.from && to <= window.to;
}
