import { leastHosts } from "./bound.ts";
import { Completion } from "./complete.ts";
import type { FitFound, FitProblem, Placement } from "./fit-problem.ts";
import { HostLoad } from "./host-load.ts";

/** What is asked while it is searched, so that it can be shown and stopped. */
export interface SearchWatch {
  /** Whether it is to end with what it has; asked often. */
  readonly isOver: () => boolean;
  readonly found?: (best: Placement, bound: number) => void;
  /** 0 to 1, by sets of hosts that are decided. */
  readonly progress?: (share: number) => void;
}

/** A set of hosts is given up for the time being after so many placements of single guests. */
const firstTries = 250;
/** More hosts than these are not looked through set by set: their sets would be too many. */
const mostHosts = 12;

/**
 * The fewest hosts on which all guests fit, and a placement of them, by branch and bound: sets of hosts from the smallest
 * that could do on, guests from the largest down, each where it is now before elsewhere, equal empty hosts once. What
 * was looked through without finding anything is impossible; what had to be left raises no bound. All guests stay where
 * they are where that is one of the best.
 */
export function searchFit(given: FitProblem, watch: SearchWatch): FitFound {
  const problem = arranged(given);
  const { hosts, guests, above } = problem;
  const moments = guests[0]?.load[0]?.length ?? 0;
  const allowed = Math.floor(above * moments + 1e-9);
  const bound = leastHosts(problem, allowed);
  if (guests.length === 0) return { best: { hostOf: [], on: bound }, bound, proven: true };
  if (bound > hosts.length) return { best: undefined, bound, proven: true };
  const search = new Search(problem, allowed, watch);
  const isHuge = hosts.length > mostHosts;
  const left: number[][] = [];
  let best: Placement | undefined;
  for (let on = bound; on <= hosts.length && !best && !watch.isOver(); on++) {
    const sets = setsOf(problem, on, isHuge);
    for (let i = 0; i < sets.length && !best; i++) {
      watch.progress?.(i / sets.length);
      const found = search.place(sets[i], firstTries);
      if (found === "left") left.push(sets[i]);
      else if (found) best = found;
    }
  }
  if (best) watch.found?.(best, bound);
  // What was left undecided with fewer hosts is looked through to its end, the smallest sets first.
  let decided = 0;
  const open: number[] = [];
  for (const set of left) {
    if (best && set.length >= best.on) continue;
    const found = watch.isOver() ? "left" : search.complete(set);
    watch.progress?.(++decided / left.length);
    if (found === "left") open.push(set.length);
    else if (found) {
      best = found;
      watch.found?.(best, bound);
    }
  }
  return outcome(best && search.undone(best), bound, {
    open: open.filter((on) => !best || on < best.on),
    isDecided: !isHuge && (best !== undefined || !watch.isOver()),
  });
}

/** What is known of the best placement: `open` are sizes of sets that could not be decided, none where all were. */
function outcome(
  best: Placement | undefined,
  bound: number,
  { open, isDecided }: { readonly open: readonly number[]; readonly isDecided: boolean },
): FitFound {
  if (best?.on === bound) return { best, bound, proven: true };
  const proven = isDecided && open.length === 0;
  if (proven) return { best, bound: best?.on ?? bound, proven };
  // With fewer hosts than the smallest set that is open it is impossible, where sets were gone through at all.
  return { best, bound: isDecided ? Math.max(bound, Math.min(...open)) : bound, proven };
}

/**
 * The same problem, faster to look at: without resources that bound nothing, and with the moments in which most is
 * needed first, so that what does not fit is seen soon.
 */
function arranged({ hosts, guests, ...rest }: FitProblem): FitProblem {
  const bounding = (hosts[0]?.capacity ?? []).flatMap((_, r) =>
    hosts.some(({ capacity }) => capacity[r] !== Number.POSITIVE_INFINITY) ? [r] : [],
  );
  const moments = guests[0]?.load[0]?.length ?? 0;
  const needed = new Float64Array(moments);
  for (const r of bounding) {
    const most = hosts.reduce((sum, { capacity }) => Math.max(sum, Number.isFinite(capacity[r]) ? capacity[r] : 0), 0);
    const total = new Float64Array(moments);
    for (const { load } of guests) for (let t = 0; t < moments; t++) total[t] += load[r][t] / most;
    for (let t = 0; t < moments; t++) needed[t] = Math.max(needed[t], total[t]);
  }
  const order = Int32Array.from(needed.keys()).sort((a, b) => needed[b] - needed[a]);
  const pick = (all: readonly Float64Array[]) => bounding.map((r) => Float64Array.from(order, (t) => all[r][t]));
  return {
    ...rest,
    hosts: hosts.map((host) => ({
      ...host,
      capacity: bounding.map((r) => host.capacity[r]),
      base: moments > 0 ? pick(host.base) : bounding.map((r) => host.base[r]),
    })),
    guests: guests.map((guest) => ({ ...guest, load: pick(guest.load) })),
  };
}

/** Sets of so many hosts with those that stay, the ones on which most runs now first. */
function setsOf({ hosts, guests }: FitProblem, on: number, isHuge: boolean): number[][] {
  const runs = hosts.map((_, h) => guests.filter(({ host }) => host === h).length);
  const order = hosts
    .map((_, h) => h)
    .sort((a, b) => Number(hosts[b].stays) - Number(hosts[a].stays) || runs[b] - runs[a]);
  if (isHuge) return [order.slice(0, on)];
  const stays = order.filter((h) => hosts[h].stays);
  const others = order.filter((h) => !hosts[h].stays);
  const sets: number[][] = [];
  const choose = (from: number, chosen: readonly number[]): void => {
    if (chosen.length === on) sets.push([...chosen]);
    else for (let i = from; i < others.length; i++) choose(i + 1, [...chosen, others[i]]);
  };
  if (stays.length <= on) choose(0, stays);
  const moved = (set: readonly number[]) => set.reduce((sum, h) => sum - runs[h], 0);
  return distinct(
    sets.sort((a, b) => moved(a) - moved(b)),
    hosts,
    guests,
  );
}

/** Of sets of empty hosts that are alike one is enough. */
function distinct(sets: number[][], hosts: FitProblem["hosts"], guests: FitProblem["guests"]): number[][] {
  const isSpecial = new Set(guests.flatMap(({ host, only = [] }) => [host, ...only]));
  const seen = new Set<string>();
  return sets.filter((set) => {
    const key = set
      .map((h) => (isSpecial.has(h) ? `${h}` : alikeKey(hosts[h])))
      .sort()
      .join(";");
    return !seen.has(key) && seen.add(key);
  });
}

/** Hosts are alike that have as much and need nothing themselves. */
function alikeKey({ name, capacity, base }: FitProblem["hosts"][number]): string {
  return base.every((values) => values.every((v) => v === 0)) ? `like ${capacity.join(" ")}` : name;
}

class Search {
  readonly #problem: FitProblem;
  readonly #allowed: number;
  readonly #watch: SearchWatch;
  /** Guests from the largest down. */
  readonly #order: readonly number[];
  readonly #enemies: readonly ReadonlySet<number>[];
  readonly #alike: readonly string[];
  #tries = 0;

  constructor(problem: FitProblem, allowed: number, watch: SearchWatch) {
    this.#problem = problem;
    this.#allowed = allowed;
    this.#watch = watch;
    const sizes = problem.guests.map((guest) => sizeOf(guest, problem));
    this.#order = sizes.map((_, g) => g).sort((a, b) => sizes[b] - sizes[a]);
    const enemies = problem.guests.map(() => new Set<number>());
    for (const [a, b] of problem.apart) {
      enemies[a].add(b);
      enemies[b].add(a);
    }
    this.#enemies = enemies;
    this.#alike = problem.hosts.map(alikeKey);
  }

  /** A placement on these hosts; undefined where there is none, "left" where it took too many tries to know. */
  place(set: readonly number[], mostTries: number): Placement | "left" | undefined {
    const { hosts, guests, headroom } = this.#problem;
    const loads = new Map(set.map((h) => [h, new HostLoad(hosts[h], headroom, this.#allowed)]));
    if (![...loads.values()].every((load) => load.holds())) return undefined;
    const hostOf = new Array<number>(guests.length).fill(-1);
    const counts = new Map(set.map((h) => [h, 0]));
    this.#tries = 0;
    let isLeft = false;
    const go = (depth: number): boolean => {
      if (depth === this.#order.length) return true;
      const g = this.#order[depth];
      const seen = new Set<string>();
      for (const h of this.#hostsFor(g, set)) {
        if (isLeft) return false;
        // An empty host that is like one that was tried is not tried again.
        if (counts.get(h) === 0 && guests[g].host !== h) {
          if (seen.has(this.#alike[h])) continue;
          seen.add(this.#alike[h]);
        }
        if (++this.#tries > mostTries || ((this.#tries & 63) === 0 && this.#watch.isOver())) {
          isLeft = true;
          return false;
        }
        if (this.#meetsEnemy(g, h, hostOf)) continue;
        const load = loads.get(h) as HostLoad;
        if (!load.fits(guests[g])) continue;
        load.add(guests[g]);
        hostOf[g] = h;
        counts.set(h, (counts.get(h) as number) + 1);
        if (go(depth + 1)) return true;
        counts.set(h, (counts.get(h) as number) - 1);
        hostOf[g] = -1;
        load.take(guests[g]);
      }
      return false;
    };
    if (go(0)) return { hostOf, on: set.length };
    return isLeft ? "left" : undefined;
  }

  /** The same, looked through to its end. */
  complete(set: readonly number[]): Placement | "left" | undefined {
    const how = { allowed: this.#allowed, enemies: this.#enemies, order: this.#order };
    return new Completion(this.#problem, how, this.#watch.isOver).place(set);
  }

  /** The same with as many guests back where they were as fit there. */
  undone({ hostOf, on }: Placement): Placement {
    const { hosts, guests, headroom } = this.#problem;
    const placed = [...hostOf];
    const isOn = new Set(placed);
    const loads = hosts.map((host) => new HostLoad(host, headroom, this.#allowed));
    placed.forEach((h, g) => {
      loads[h].add(guests[g]);
    });
    for (const g of this.#order) {
      const { host } = guests[g];
      if (host < 0 || placed[g] === host || !isOn.has(host) || this.#meetsEnemy(g, host, placed)) continue;
      if (!this.#hostsFor(g, [host]).length || !loads[host].fits(guests[g])) continue;
      loads[placed[g]].take(guests[g]);
      loads[host].add(guests[g]);
      placed[g] = host;
    }
    return { hostOf: placed, on };
  }

  /** Where a guest may go, its own host first. */
  #hostsFor(g: number, set: readonly number[]): readonly number[] {
    const { host, only } = this.#problem.guests[g];
    const may = only ? set.filter((h) => only.includes(h)) : set;
    return may.includes(host) ? [host, ...may.filter((h) => h !== host)] : may;
  }

  #meetsEnemy(g: number, h: number, hostOf: readonly number[]): boolean {
    for (const other of this.#enemies[g]) if (hostOf[other] === h) return true;
    return false;
  }
}

/** How large a guest is: the most it needs of any resource, of what the largest host has. */
function sizeOf({ load }: FitProblem["guests"][number], { hosts }: FitProblem): number {
  let size = 0;
  load.forEach((values, r) => {
    const largest = hosts.reduce((most, { capacity }) => Math.max(most, capacity[r]), 0);
    if (!(largest > 0) || largest === Number.POSITIVE_INFINITY) return;
    let [most, sum] = [0, 0];
    for (const v of values) {
      most = Math.max(most, v);
      sum += v;
    }
    // The mean breaks ties: what is always large is harder to place.
    size = Math.max(size, most / largest + (1e-3 * sum) / Math.max(1, values.length) / largest);
  });
  return size;
}
