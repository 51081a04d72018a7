import { DateTime } from "luxon";
import { type SteadyDay, steadiness } from "../../core/steadiness/steadiness.ts";
import type { Database } from "../db/pool.ts";
import type { Store } from "../store/store.ts";
import { disturbancesIn } from "./disturbances.ts";

const dayMs = 86_400_000;
const lookedBackDays = 30;

/** How steady machines were, day by day, over the zone's days that touch a window. */
export async function steadyDays(
  store: Store,
  database: Database,
  machines: readonly string[],
  { from, to }: { readonly from: number; readonly to: number },
  zone: string,
  nowMs = Date.now(),
): Promise<readonly { readonly machine: string; readonly days: readonly SteadyDay[] }[]> {
  const bounds = dayBounds(from, Math.min(to, nowMs), zone);
  const window = { from: bounds[0] as number, to: bounds.at(-1) as number };
  const all = await disturbancesIn(store, database, machines, window, nowMs);
  return machines.map((machine) => ({
    machine,
    days: steadiness(
      all.filter((one) => one.machine === machine),
      bounds,
    ),
  }));
}

/** At what each machine stood lowest in the last thirty days, and when. */
export async function lowestSteadiness(
  store: Store,
  database: Database,
  machines: readonly string[],
  nowMs: number,
): Promise<readonly { readonly machine: string; readonly lowest: number; readonly atMs: number }[]> {
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const window = { from: nowMs - (lookedBackDays - 1) * dayMs, to: nowMs };
  const all = await steadyDays(store, database, machines, window, zone, nowMs);
  return all.map(({ machine, days }) => {
    const lowest = days.reduce((least, one) => (one.value < least.value ? one : least), { value: 100, day: nowMs });
    return { machine, lowest: lowest.value, atMs: lowest.day };
  });
}

/** The beginnings of the zone's days that touch a window, and the end of the last one. */
function dayBounds(from: number, to: number, zone: string): readonly number[] {
  const bounds: number[] = [];
  for (let day = DateTime.fromMillis(from, { zone }).startOf("day"); ; day = day.plus({ days: 1 })) {
    bounds.push(day.toMillis());
    if (day.toMillis() >= to && bounds.length > 1) return bounds;
  }
}
