import type { FitProblem } from "./fit-problem.ts";

/**
 * How many hosts must be on at the least: at each moment all guests together need what so many of the largest hosts
 * have, above which at most as many moments may lie as are allowed to each of them. For a single moment it is the sum of
 * the items over the size of a bin, rounded up (Martello & Toth, Knapsack Problems, 1990, §8.3: L1).
 */
export function leastHosts({ hosts, guests, headroom }: FitProblem, allowed: number): number {
  if (guests.length === 0) return hosts.filter(({ stays }) => stays).length;
  const resources = hosts[0]?.capacity.length ?? 0;
  let least = Math.max(1, hosts.filter(({ stays }) => stays).length);
  for (let r = 0; r < resources; r++) {
    const total = totalOf(guests, r);
    const rooms = hosts
      .map(({ capacity, base }) => Math.max(0, capacity[r] * (1 - headroom) * (1 + 1e-9) - leastOf(base[r])))
      .sort((a, b) => b - a);
    while (least <= hosts.length && isTooMuch(total, rooms, least, allowed)) least++;
  }
  return least;
}

function totalOf(guests: FitProblem["guests"], r: number): Float64Array {
  const total = new Float64Array(guests[0]?.load[r]?.length ?? 0);
  for (const { load } of guests) for (let t = 0; t < total.length; t++) total[t] += load[r][t];
  return total;
}

function isTooMuch(total: Float64Array, rooms: readonly number[], hosts: number, allowed: number): boolean {
  const room = rooms.slice(0, hosts).reduce((sum, one) => sum + one, 0);
  let above = 0;
  // Sums of fractions are off by a little.
  for (let t = 0; t < total.length; t++) if (total[t] > room * (1 + 1e-12)) above++;
  return above > hosts * allowed;
}

function leastOf(values: Float64Array): number {
  let least = Number.POSITIVE_INFINITY;
  for (let t = 0; t < values.length; t++) if (values[t] < least) least = values[t];
  return least === Number.POSITIVE_INFINITY ? 0 : least;
}
