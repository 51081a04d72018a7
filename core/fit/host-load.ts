import type { FitGuest, FitHost } from "./fit-problem.ts";

/** What a host is loaded with at each moment while guests are put on it and taken off. */
export class HostLoad {
  readonly #sums: readonly Float64Array[];
  readonly #limits: readonly number[];
  /** So many moments of each resource may lie above its limit. */
  readonly #allowed: number;

  constructor({ capacity, base }: FitHost, headroom: number, allowed: number) {
    this.#sums = base.map((values) => Float64Array.from(values));
    // What fills its limit to the last bit fits: sums of fractions are off by a little.
    this.#limits = capacity.map((most) => most * (1 - headroom) * (1 + 1e-9));
    this.#allowed = allowed;
  }

  /** Whether it holds what it has by itself. */
  holds(): boolean {
    return this.#sums.every((sum, r) => countAbove(sum, this.#limits[r], this.#allowed) <= this.#allowed);
  }

  /** Whether it would hold a guest as well. */
  fits({ load }: FitGuest): boolean {
    for (let r = 0; r < this.#sums.length; r++)
      if (!fitsBeside(this.#sums[r], load[r], this.#limits[r], this.#allowed)) return false;
    return true;
  }

  add({ load }: FitGuest): void {
    for (let r = 0; r < load.length; r++) {
      const [sum, own] = [this.#sums[r], load[r]];
      for (let t = 0; t < own.length; t++) sum[t] += own[t];
    }
  }

  take({ load }: FitGuest): void {
    for (let r = 0; r < load.length; r++) {
      const [sum, own] = [this.#sums[r], load[r]];
      for (let t = 0; t < own.length; t++) sum[t] -= own[t];
    }
  }
}

function fitsBeside(sum: Float64Array, own: Float64Array, limit: number, allowed: number): boolean {
  if (limit === Number.POSITIVE_INFINITY) return true;
  let above = 0;
  for (let t = 0; t < sum.length; t++) if (sum[t] + own[t] > limit && ++above > allowed) return false;
  return true;
}

function countAbove(sum: Float64Array, limit: number, enough: number): number {
  let above = 0;
  for (let t = 0; t < sum.length && above <= enough; t++) if (sum[t] > limit) above++;
  return above;
}
