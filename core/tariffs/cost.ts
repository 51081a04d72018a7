import { DateTime } from "luxon";
import { beginMs, type PriceSpan, priceSpans } from "./price-clock.ts";
import type { StandingCharge, Tariff, VolumeStep } from "./tariff.ts";

/** Energy of consecutive stretches; within each it is taken to be even. */
export interface MeteredEnergy {
  readonly edgesMs: Float64Array;
  readonly wattHours: Float64Array;
}

/** What energy cost over a window, and of what that is made. */
export interface Cost {
  readonly amount: number;
  /** Energy at its price; what volume added or took away; what is paid anyway. */
  readonly energy: number;
  readonly volume: number;
  readonly standing: number;
  /** For how many Wh there was no tariff. */
  readonly unpriced: number;
  readonly grams: number | null;
  /** Each price with what was used at it, the dearest first. */
  readonly prices: readonly { readonly price: number; readonly wattHours: number }[];
}

/**
 * What the energy behind one meter costs. `tariffs` are the meter's; volume counts by calendar month, so stretches begin
 * with a month where the steps shall be right from its first kWh on. Standing charges are of `[fromMs, toMs)`. `spans` are
 * the prices where they are known already (`spansOver`): looking a year's up takes a while.
 */
export function costOf(
  tariffs: readonly Tariff[],
  metered: MeteredEnergy,
  fromMs: number,
  toMs: number,
  spans: readonly PriceSpan[] = spansOver(tariffs, metered.edgesMs),
): Cost {
  const byPrice = new Map<number, number>();
  const months = new Map<string, { wattHours: number; readonly steps: readonly VolumeStep[] }>();
  let [energy, priced, grams, hasGrams] = [0, 0, 0, false];
  forEachPart(metered, spans, (wattHours, { price, tariff }, atMs) => {
    energy += (wattHours / 1000) * price;
    priced += wattHours;
    byPrice.set(price, (byPrice.get(price) ?? 0) + wattHours);
    if (tariff.gramsPerKwh !== undefined) {
      hasGrams = true;
      grams += (wattHours / 1000) * tariff.gramsPerKwh;
    }
    if (!tariff.steps?.length) return;
    const key = DateTime.fromMillis(atMs, { zone: tariff.zone }).toFormat("yyyy-MM");
    const month = months.get(key) ?? { wattHours: 0, steps: tariff.steps };
    months.set(key, month);
    month.wattHours += wattHours;
  });
  const volume = [...months.values()].reduce((sum, month) => sum + volumeOf(month.steps, month.wattHours / 1000), 0);
  const standing = standingOf(tariffs, fromMs, toMs);
  const all = metered.wattHours.reduce((sum, one) => sum + one, 0);
  return {
    amount: energy + volume + standing,
    energy,
    volume,
    standing,
    unpriced: Math.max(0, all - priced),
    grams: hasGrams ? grams : null,
    prices: [...byPrice].map(([price, wattHours]) => ({ price, wattHours })).sort((a, b) => b.price - a.price),
  };
}

/** The prices over stretches, once for all that share them. */
export const spansOver = (tariffs: readonly Tariff[], edgesMs: Float64Array): readonly PriceSpan[] =>
  priceSpans(tariffs, edgesMs[0], edgesMs.at(-1) as number);

/** What a kWh costs in the mean of each stretch; what lies before the first tariff costs nothing. */
export function meanPrices(edgesMs: Float64Array, spans: readonly PriceSpan[]): Float64Array {
  const prices = new Float64Array(Math.max(0, edgesMs.length - 1));
  const metered = { edgesMs, wattHours: new Float64Array(prices.length).fill(1) };
  let k = 0;
  forEachPart(metered, spans, (share, { price }, atMs) => {
    while (edgesMs[k + 1] <= atMs) k++;
    prices[k] += share * price;
  });
  return prices;
}

/** Hands on the energy of each stretch in parts of one price each. */
function forEachPart(
  { edgesMs, wattHours }: MeteredEnergy,
  spans: readonly PriceSpan[],
  take: (wattHours: number, span: PriceSpan, atMs: number) => void,
): void {
  let s = 0;
  for (let k = 0; k < wattHours.length; k++) {
    const [begin, end] = [edgesMs[k], edgesMs[k + 1]];
    if (wattHours[k] === 0 || !(end > begin)) continue;
    while (s < spans.length && (spans[s] as PriceSpan).toMs <= begin) s++;
    for (let at = s; at < spans.length && (spans[at] as PriceSpan).fromMs < end; at++) {
      const span = spans[at] as PriceSpan;
      const from = Math.max(begin, span.fromMs);
      const share = (Math.min(end, span.toMs) - from) / (end - begin);
      if (share > 0) take(wattHours[k] * share, span, from);
    }
  }
}

/** What the kWh above each step add. */
function volumeOf(steps: readonly VolumeStep[], kwh: number): number {
  const ordered = [...steps].sort((a, b) => a.aboveKwh - b.aboveKwh);
  return ordered.reduce((sum, { aboveKwh, add }, i) => {
    const upTo = ordered[i + 1]?.aboveKwh ?? Number.POSITIVE_INFINITY;
    return sum + Math.max(0, Math.min(kwh, upTo) - aboveKwh) * add;
  }, 0);
}

/** Standing charges by the zone's days: a month's and a year's are spread over the days that they have. */
function standingOf(tariffs: readonly Tariff[], fromMs: number, toMs: number): number {
  const ordered = [...tariffs].sort((a, b) => beginMs(a) - beginMs(b));
  return ordered.reduce((sum, tariff, i) => {
    const { standing, zone } = tariff;
    const next = ordered[i + 1];
    const from = Math.max(fromMs, beginMs(tariff));
    const to = Math.min(toMs, next ? beginMs(next) : toMs);
    if (!standing || from >= to) return sum;
    let own = 0;
    for (let day: DateTime = DateTime.fromMillis(from, { zone }).startOf("day"); day.toMillis() < to; ) {
      const end = day.plus({ days: 1 }).startOf("day");
      const share = (Math.min(to, end.toMillis()) - Math.max(from, day.toMillis())) / (end.toMillis() - day.toMillis());
      own += share * aDay(standing, day);
      day = end;
    }
    return sum + own;
  }, 0);
}

function aDay({ amount, per }: StandingCharge, day: DateTime): number {
  if (per === "day") return amount;
  return amount / ((per === "month" ? day.daysInMonth : day.daysInYear) ?? 1);
}

/** The tariffs of a machine's meter: those that name it, else those that name none. */
export function tariffsOf(tariffs: readonly Tariff[], machine: string): readonly Tariff[] {
  const own = tariffs.filter(({ sources }) => sources?.includes(machine));
  return own.length > 0 ? own : tariffs.filter(({ sources }) => !sources || sources.length === 0);
}
