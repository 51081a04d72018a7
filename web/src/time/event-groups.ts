import type { MachineEvent } from "../../../core/events/machine-event.ts";
import type { Span } from "./time-window.ts";

export interface EventGroup {
  readonly fromMs: number;
  readonly toMs: number;
  readonly all: readonly MachineEvent[];
}

/** Ticks nearer than this would lie on one another. */
const nearPx = 8;

/**
 * Events that fall on the rail, in their order; those that would lie on one another are one group. Both ends belong to
 * it: a moment that is noted is the end of a window. What began before it and lasted into it begins where it begins.
 */
export function eventGroups(events: readonly MachineEvent[], rail: Span, widthPx: number): readonly EventGroup[] {
  const nearMs = widthPx > 0 ? ((rail.toMs - rail.fromMs) / widthPx) * nearPx : 0;
  const groups: { fromMs: number; toMs: number; all: MachineEvent[] }[] = [];
  for (const event of [...events].sort((a, b) => a.fromMs - b.fromMs)) {
    if (event.toMs < rail.fromMs || event.fromMs > rail.toMs) continue;
    const fromMs = Math.max(event.fromMs, rail.fromMs);
    const last = groups.at(-1);
    if (last && fromMs - last.fromMs < nearMs) {
      last.all.push(event);
      last.toMs = Math.max(last.toMs, event.toMs);
    } else groups.push({ fromMs, toMs: event.toMs, all: [event] });
  }
  return groups;
}
