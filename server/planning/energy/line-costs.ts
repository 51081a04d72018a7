import { type Cost, costOf, tariffsOf } from "../../../core/tariffs/cost.ts";
import { costWords } from "../../../core/tariffs/cost-words.ts";
import type { Tariff } from "../../../core/tariffs/tariff.ts";
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
      const { volume, standing } = costOf(own, { edgesMs, wattHours }, window.from, Math.max(window.from, window.to));
      this.#meters.set(key, { wattHours: wattHours.reduce((sum, one) => sum + one, 0), volume, standing });
    }
  }

  /** What things cost together, over the window or a part of it; undefined where nothing or not one currency says. */
  of(things: readonly Used[], part?: Span): LineCost | undefined {
    const costs: Cost[] = [];
    const currencies = new Set<string>();
    for (const one of things) {
      const own = tariffsOf(this.#tariffs, one.machine);
      if (own.length === 0) continue;
      for (const { currency } of own) currencies.add(currency);
      costs.push(this.#costOf(one, own, part));
    }
    const [currency] = currencies;
    if (currency === undefined || currencies.size > 1) return undefined;
    const sum = costs.reduce(added);
    return { amount: sum.amount, currency, grams: sum.grams, words: costWords(sum, currency) };
  }

  #costOf(one: Used, own: readonly Tariff[], part?: Span): Cost {
    const edgesMs = this.#edgesMs;
    const all = energyOf(one);
    const wattHours = part
      ? all.map((v, k) => ((edgesMs[k] as number) >= part.from && (edgesMs[k] as number) < part.to ? v : 0))
      : all;
    const { energy, unpriced, grams, prices } = costOf(own, { edgesMs, wattHours }, 0, 0);
    const meter = this.#meters.get(keyOf(own));
    const used = wattHours.reduce((sum, v) => sum + v, 0);
    const share = !meter || meter.wattHours === 0 || one.estimated || one.feedsOthers ? 0 : used / meter.wattHours;
    const volume = (meter?.volume ?? 0) * share;
    const standing = (meter?.standing ?? 0) * share;
    return { amount: energy + volume + standing, energy, volume, standing, unpriced, grams, prices };
  }
}

const energyOf = ({ measured, filled }: Used): Float64Array =>
  measured.steps.wattHours.map((v, k) => v + (filled[k] as number));

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
