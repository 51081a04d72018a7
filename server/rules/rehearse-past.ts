import { DateTime } from "luxon";
import { type Rehearsal, rehearse } from "../../core/rules/rehearse.ts";
import type { RehearseTask } from "../store/tasks/task.ts";

const hourMs = 3_600_000;

/** Steps through figures that are there already; touches nothing of the store. */
export function rehearsePast({ rule, lines, firstMs, stepMs, from, to, zone }: RehearseTask): Rehearsal {
  const hours = new Map<number, number>();
  // Zones' offsets are looked up once an hour of the past, not once an incident.
  const hourOfWeek = (ms: number) => {
    const key = Math.floor(ms / hourMs);
    let hour = hours.get(key);
    if (hour === undefined) {
      const at = DateTime.fromMillis(ms, { zone });
      hours.set(key, (hour = (at.weekday - 1) * 24 + at.hour));
    }
    return hour;
  };
  return rehearse(rule, lines.map(({ tags, gauges, count }) => ({ tags, run: { gauges: new Float64Array(gauges, 0, count), firstMs: firstMs, stepMs } })), from, to, hourOfWeek);
}
