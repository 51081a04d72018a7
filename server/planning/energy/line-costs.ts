import { type Cost, costOf, meanPrices, spansOver, tariffsOf } from "../../../core/tariffs/cost.ts";
import { costWords } from "../../../core/tariffs/cost-words.ts";
import type { Tariff } from "../../../core/tariffs/tariff.ts";
import { firstAtOrAfter } from "../../../core/series/merge-columns.ts";
import type { Used } from "./used.ts";

export interface LineCost {
  readonly amount: number;
  readonly currency: string;
  readonly grams: number | null;
  readonly words: string;
}

interface MeterTotal {
  readonly wattHours: number;
  /** What is paid by volume and anyway: shared by energy. */
  readonly volume: number;
  readonly standing: number;
}

interface Span {
  readonly from: number;
  readonly to: number;
}

/** Costs of things that share meters: each pays its energy at its price, and its share of what the meter pays besides. */
export class LineCosts {
  readonly #tariffs: readonly Tariff[];
  readonly #edgesMs: Float64Array;
  readonly #meters = new Map<string, MeterTotal>();
  readonly #prices = new Map<string, Float64Array>();
  readonly #spans = new Map<string, ReturnType<typeof spansOver>>();

  constructor(tariffs: readonly Tariff[], added: readonly Used[], edgesMs: Float64Array, window: Span) {
    this.#tariffs = tariffs;
    this.#edgesMs = edgesMs;
    const byMeter = new Map<string, { readonly own: readonly Tariff[]; readonly wattHours: Float64Array }>();
    for (const one of added) {
      const own = tariffsOf(tariffs, one.machine);
      const key = keyOf(own);
      const meter = byMeter.get(key) ?? { own, wattHours: new Float64Array(edgesMs.length - 1) };
      byMeter.set(key, meter);
      addInto(meter.wattHours, energyOf(one));
    }
    for (const [key, { own, wattHours }] of byMeter) {
      const { volume, standing } = costOf(
        own,
        { edgesMs, wattHours },
        window.from,
        Math.max(window.from, window.to),
        this.#spansOf(own),
      );
      this.#meters.set(key, { wattHours: wattHours.reduce((sum, one) => sum + one, 0), volume, standing });
    }
  }

  /** What things cost together over the window; undefined where nothing or not one currency says. */
  of(things: readonly Used[]): LineCost | undefined {
    const found = this.#sumOf(things);
    return (
      found && {
        ...found,
        words: costWords(found.sum, found.currency),
        amount: found.sum.amount,
        grams: found.sum.grams,
      }
    );
  }

  /** The same over a part of the window, as an amount alone. */
  amountOf(things: readonly Used[], part: Span): number | null {
    const currencies = new Set<string>();
    const from = firstAtOrAfter(this.#edgesMs, part.from);
    const to = Math.min(this.#edgesMs.length - 1, firstAtOrAfter(this.#edgesMs, part.to));
    let amount = 0;
    for (const one of things) {
      const own = tariffsOf(this.#tariffs, one.machine);
      if (own.length === 0) continue;
      for (const { currency } of own) currencies.add(currency);
      const wattHours = energyOf(one);
      const prices = this.#pricesOf(own);
      let used = 0;
      for (let k = from; k < to; k++) {
        used += wattHours[k] as number;
        amount += ((wattHours[k] as number) / 1000) * (prices[k] as number);
      }
      amount += this.#besides(one, own, used);
    }
    return currencies.size === 1 ? amount : null;
  }

  #sumOf(things: readonly Used[]): { readonly sum: Cost; readonly currency: string } | undefined {
    const costs: Cost[] = [];
    const currencies = new Set<string>();
    for (const one of things) {
      const own = tariffsOf(this.#tariffs, one.machine);
      if (own.length === 0) continue;
      for (const { currency } of own) currencies.add(currency);
      costs.push(this.#costOf(one, own));
    }
    const [currency] = currencies;
    if (currency === undefined || currencies.size > 1) return undefined;
    return { sum: costs.reduce(added), currency };
  }

  #spansOf(own: readonly Tariff[]): ReturnType<typeof spansOver> {
    const key = keyOf(own);
    let spans = this.#spans.get(key);
    if (!spans) this.#spans.set(key, (spans = spansOver(own, this.#edgesMs)));
    return spans;
  }

  #pricesOf(own: readonly Tariff[]): Float64Array {
    const key = keyOf(own);
    let prices = this.#prices.get(key);
    if (!prices) this.#prices.set(key, (prices = meanPrices(this.#edgesMs, this.#spansOf(own))));
    return prices;
  }

  #costOf(one: Used, own: readonly Tariff[]): Cost {
    const metered = { edgesMs: this.#edgesMs, wattHours: energyOf(one) };
    const { energy, unpriced, grams, prices } = costOf(own, metered, 0, 0, this.#spansOf(own));
    const share = this.#shareOf(
      one,
      own,
      prices.reduce((sum, { wattHours }) => sum + wattHours, unpriced),
    );
    const meter = this.#meters.get(keyOf(own));
    const volume = (meter?.volume ?? 0) * share;
    const standing = (meter?.standing ?? 0) * share;
    return { amount: energy + volume + standing, energy, volume, standing, unpriced, grams, prices };
  }

  /** What so many Wh of a thing pay beside their price. */
  #besides(one: Used, own: readonly Tariff[], wattHours: number): number {
    const meter = this.#meters.get(keyOf(own));
    return ((meter?.volume ?? 0) + (meter?.standing ?? 0)) * this.#shareOf(one, own, wattHours);
  }

  /** Which share of its meter so many Wh are; what is not added has none. */
  #shareOf(one: Used, own: readonly Tariff[], wattHours: number): number {
    const all = this.#meters.get(keyOf(own))?.wattHours ?? 0;
    return all === 0 || one.estimated || one.feedsOthers ? 0 : wattHours / all;
  }
}

/** Asked for the whole and for each step. */
const energies = new WeakMap<Used, Float64Array>();

function energyOf(one: Used): Float64Array {
  let energy = energies.get(one);
  if (!energy) energies.set(one, (energy = one.measured.steps.wattHours.map((v, k) => v + (one.filled[k] as number))));
  return energy;
}

function addInto(sum: Float64Array, more: Float64Array): void {
  for (let k = 0; k < sum.length; k++) sum[k] = (sum[k] as number) + (more[k] as number);
}

function added(a: Cost, b: Cost): Cost {
  const prices = new Map(a.prices.map(({ price, wattHours }) => [price, wattHours]));
  for (const { price, wattHours } of b.prices) prices.set(price, (prices.get(price) ?? 0) + wattHours);
  return {
    amount: a.amount + b.amount,
    energy: a.energy + b.energy,
    volume: a.volume + b.volume,
    standing: a.standing + b.standing,
    unpriced: a.unpriced + b.unpriced,
    grams: a.grams === null && b.grams === null ? null : (a.grams ?? 0) + (b.grams ?? 0),
    prices: [...prices].map(([price, wattHours]) => ({ price, wattHours })).sort((x, y) => y.price - x.price),
  };
}

const keyOf = (tariffs: readonly Tariff[]): string => tariffs.map(({ name, from }) => `${name} ${from}`).join("\n");
