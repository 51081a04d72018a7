import type { FitProblem, Placement } from "./fit-problem.ts";
import { HostLoad } from "./host-load.ts";

/**
 * Whether guests fit on a set of hosts, by filling one host after the other: a host that could hold one more guest may
 * as well hold it, so only fillings that leave no room for any guest that is left are gone through (bin completion: Korf,
 * AAAI 2002). What is left must fit at each moment into what the other hosts have.
 */
export class Completion {
  readonly #problem: FitProblem;
  readonly #allowed: number;
  readonly #isOver: () => boolean;
  readonly #enemies: readonly ReadonlySet<number>[];
  readonly #order: readonly number[];
  readonly #hostOf: number[];
  #isLeft = false;
  #steps = 0;

  constructor(
    problem: FitProblem,
    {
      allowed,
      enemies,
      order,
    }: {
      readonly allowed: number;
      readonly enemies: readonly ReadonlySet<number>[];
      readonly order: readonly number[];
    },
    isOver: () => boolean,
  ) {
    this.#problem = problem;
    this.#allowed = allowed;
    this.#enemies = enemies;
    this.#order = order;
    this.#isOver = isOver;
    this.#hostOf = new Array<number>(problem.guests.length).fill(-1);
  }

  /** A placement; undefined where there is none, "left" where it was stopped before that was known. */
  place(set: readonly number[]): Placement | "left" | undefined {
    this.#isLeft = false;
    const rooms = set.map((h) => this.#roomOf(h));
    const smallestFirst = set.map((_, i) => i).sort((a, b) => sumOf(rooms[a]) - sumOf(rooms[b]));
    const isFound = this.#fill(
      smallestFirst.map((i) => set[i]),
      smallestFirst.map((i) => rooms[i]),
      this.#order,
    );
    if (isFound) return { hostOf: [...this.#hostOf], on: set.length };
    return this.#isLeft ? "left" : undefined;
  }

  #fill(hosts: readonly number[], rooms: readonly (readonly Float64Array[])[], left: readonly number[]): boolean {
    if (left.length === 0) return true;
    const [h, ...others] = hosts;
    if (h === undefined) return false;
    const { hosts: all, headroom } = this.#problem;
    const room = addedUp(rooms.slice(1), rooms[0]);
    const load = new HostLoad(all[h], headroom, this.#allowed);
    if (!load.holds()) return false;
    // Of hosts that are alike the first one takes the largest guest: which of them does is the same.
    const mustTakeFirst =
      others.every((other) => isAlike(all[h], all[other])) && left.every((g) => !this.#problem.guests[g].only);
    const excluded = room.map((values) => new Float64Array(values.length));
    const out: number[] = [];
    const choose = (i: number): boolean => {
      if ((++this.#steps & 15) === 0 && this.#isOver()) this.#isLeft = true;
      if (this.#isLeft) return false;
      if (i === left.length) {
        if (out.some((g) => this.#may(g, h) && load.fits(this.#problem.guests[g]))) return false;
        return this.#fill(others, rooms.slice(1), [...out]);
      }
      const g = left[i];
      const guest = this.#problem.guests[g];
      if (this.#may(g, h) && load.fits(guest)) {
        load.add(guest);
        this.#hostOf[g] = h;
        if (choose(i + 1)) return true;
        this.#hostOf[g] = -1;
        load.take(guest);
      }
      if (this.#isLeft || (i === 0 && mustTakeFirst) || others.length === 0) return false;
      change(excluded, guest.load, 1);
      out.push(g);
      const isFound = this.#hold(excluded, room, others.length) && choose(i + 1);
      out.pop();
      change(excluded, guest.load, -1);
      return isFound;
    };
    return choose(0);
  }

  /** Whether so many hosts with so much room together may hold what was put off. */
  #hold(loads: readonly Float64Array[], rooms: readonly Float64Array[], hosts: number): boolean {
    const allowed = this.#allowed * hosts;
    return loads.every((load, r) => {
      const room = rooms[r];
      let above = 0;
      for (let t = 0; t < load.length; t++) if (load[t] > room[t] && ++above > allowed) return false;
      return true;
    });
  }

  #may(g: number, h: number): boolean {
    const { only } = this.#problem.guests[g];
    if (only && !only.includes(h)) return false;
    for (const enemy of this.#enemies[g]) if (this.#hostOf[enemy] === h) return false;
    return true;
  }

  /** What a host has for guests at each moment, a little more than to the last bit. */
  #roomOf(h: number): readonly Float64Array[] {
    const { capacity, base } = this.#problem.hosts[h];
    return base.map((values, r) => {
      const limit = capacity[r] * (1 - this.#problem.headroom) * (1 + 1e-9);
      return values.map((v) => Math.max(0, limit - v));
    });
  }
}

function addedUp(rooms: readonly (readonly Float64Array[])[], like: readonly Float64Array[]): readonly Float64Array[] {
  const sum = like.map((values) => new Float64Array(values.length));
  for (const room of rooms) change(sum, room, 1);
  return sum;
}

function change(sum: readonly Float64Array[], by: readonly Float64Array[], sign: number): void {
  for (let r = 0; r < sum.length; r++) {
    const [into, own] = [sum[r], by[r]];
    for (let t = 0; t < into.length; t++) into[t] += sign * own[t];
  }
}

const sumOf = (room: readonly Float64Array[]): number => room.reduce((sum, values) => sum + (values[0] ?? 0), 0);

function isAlike(a: FitProblem["hosts"][number], b: FitProblem["hosts"][number]): boolean {
  const isBare = ({ base }: typeof a) => base.every((values) => values.every((v) => v === 0));
  return a.capacity.every((most, r) => most === b.capacity[r]) && isBare(a) && isBare(b);
}
