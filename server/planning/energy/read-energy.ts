import { emptySteps, type EnergySteps, grown, integrated, together } from "../../../core/energy/energy-steps.ts";
import { factorOf, type Meter, type MeteringSeries } from "../../../core/energy/meters.ts";
import type { Column } from "../../../core/series/batch.ts";
import { plannedReading } from "../../reading/answer-reading.ts";
import type { Store } from "../../store/store.ts";
import { fineMs } from "./edges.ts";
import { blockMs, hoursOfBlock, KeptHours } from "./kept-hours.ts";

const hourMs = 3_600_000;
/** Readings on both sides of a window tell what its first and last minutes used; counters are read more seldom. */
const marginMs = { power: hourMs / 2, energy: 6 * hourMs };
/** Hours of longer windows are read in halves. */
const longMs = 60 * 24 * hourMs;
const joulesPerWattHour = 3600;

/** Energy of meters over stretches, each worked out of its samples where they are kept, else of its hours. */
export async function readEnergy(
  store: Store,
  meters: readonly Meter[],
  edgesMs: Float64Array,
  signal?: AbortSignal,
): Promise<ReadonlyMap<Meter, EnergySteps>> {
  const from = edgesMs[0] as number;
  const to = edgesMs.at(-1) as number;
  const isFine = to - from <= fineMs;
  // Of the hour in which samples begin to be kept only a part is there.
  const rawFromMs = isFine ? Math.ceil(store.reach().rawFromMs / hourMs) * hourMs : Number.POSITIVE_INFINITY;
  const parts = new Map<number, EnergySteps>();
  if (from < rawFromMs) {
    const until = Math.min(to, rawFromMs);
    // Two halves are read at once, on two threads.
    const middle = Math.floor((from + until) / 2 / hourMs) * hourMs;
    const halves = until - from > longMs ? [from, middle, until] : [from, until];
    await Promise.all(
      halves
        .slice(1)
        .map((end, i) => readHours(store, meters, { edgesMs, from: halves[i] as number, to: end }, parts, signal)),
    );
  }
  if (to > rawFromMs) {
    const inner = edgesMs.filter((edge) => edge >= rawFromMs);
    for (const { of, series } of meters)
      for (const one of series) {
        const margin = marginMs[of];
        const [column] = await store.read([one.id], Math.max(from, rawFromMs) - margin, to + margin, signal);
        const steps = ofSamples(column as Column, one, of, inner, store.intervalsMs([one.id])[0] ?? Number.NaN);
        add(parts, one.id, edgesMs, steps, edgesMs.length - inner.length);
      }
  }
  return new Map(
    meters.map((meter) => {
      const all = meter.series.map(({ id }) => parts.get(id) ?? emptySteps(edgesMs));
      return [meter, all.length === 1 ? (all[0] as EnergySteps) : together(all, edgesMs)];
    }),
  );
}

function ofSamples(
  column: Column,
  series: MeteringSeries,
  of: Meter["of"],
  edgesMs: Float64Array,
  intervalMs: number,
): EnergySteps {
  const factor = factorOf(series, of) ?? Number.NaN;
  if (of === "power") return integrated(scaled(column, factor), edgesMs, intervalMs);
  const falls = typeof series.falls === "number" ? series.falls * factor : series.falls;
  return grown(scaled(column, factor), edgesMs, falls, intervalMs);
}

const scaled = ({ timeMs, value }: Column, factor: number): Column =>
  factor === 1 ? { timeMs, value } : { timeMs, value: value.map((v) => v * factor) };

interface Stretch {
  readonly edgesMs: Float64Array;
  readonly from: number;
  readonly to: number;
}

/** Of whole hours as they are kept: their energy. An hour of which a part is known is known. */
async function readHours(
  store: Store,
  meters: readonly Meter[],
  { edgesMs, from, to }: Stretch,
  parts: Map<number, EnergySteps>,
  signal?: AbortSignal,
): Promise<void> {
  const window = { from: Math.floor(from / hourMs) * hourMs, to: Math.ceil(to / hourMs) * hourMs };
  const count = (window.to - window.from) / hourMs;
  const counters = new Map<string, Meter["of"]>();
  const wanted = new Map<number, MeteringSeries>();
  for (const { of, series } of meters)
    for (const one of series) {
      counters.set(one.counter, of);
      wanted.set(one.id, one);
    }
  for (const [counter, of] of counters) {
    const series = [...wanted.values()].filter((one) => one.counter === counter);
    const hours = await hoursOf(store, { counter, of, series }, window, signal);
    for (const { id } of series) {
      const own = hours.get(id);
      if (!own) continue;
      const steps = emptySteps(Float64Array.from({ length: count + 1 }, (_, h) => window.from + h * hourMs));
      own.forEach((wattHours, h) => {
        if (Number.isNaN(wattHours)) return;
        steps.wattHours[h] = wattHours;
        steps.knownMs[h] = hourMs;
      });
      add(parts, id, edgesMs, spreadOver(steps, edgesMs, from, to), 0);
    }
  }
}

interface Metered {
  readonly counter: string;
  readonly of: Meter["of"];
  readonly series: readonly MeteringSeries[];
}

interface HourWindow {
  readonly from: number;
  readonly to: number;
}

/** What series of a counter used in each hour of a window, Wh, NaN where it is not known: what was kept of it, and the rest read. */
async function hoursOf(
  store: Store,
  metered: Metered,
  window: HourWindow,
  signal?: AbortSignal,
): Promise<ReadonlyMap<number, Float64Array>> {
  const keptHours = KeptHours.of(store);
  const { hoursUntilMs } = store.reach();
  const all = new Map<number, Float64Array>();
  const hoursOfSeries = (id: number) => {
    const own = all.get(id) ?? new Float64Array((window.to - window.from) / hourMs).fill(Number.NaN);
    all.set(id, own);
    return own;
  };
  const wholeBlocks = [];
  for (
    let block = Math.ceil(window.from / blockMs);
    (block + 1) * blockMs <= Math.min(window.to, hoursUntilMs);
    block++
  )
    wholeBlocks.push(block);
  const missing = new Set(wholeBlocks.filter((block) => metered.series.some(({ id }) => !keptHours.get(id, block))));
  let readFrom = window.from;
  const read = async (to: number) => {
    if (to > readFrom)
      for (const [id, hours] of await readHoursOf(store, metered, { from: readFrom, to }, signal))
        hoursOfSeries(id).set(hours, (readFrom - window.from) / hourMs);
  };
  for (const block of wholeBlocks) {
    if (missing.has(block)) continue;
    await read(block * blockMs);
    readFrom = (block + 1) * blockMs;
    for (const { id } of metered.series) {
      const hours = keptHours.get(id, block);
      // Taken away meanwhile: a sample came for it.
      if (!hours) return await readHoursOf(store, metered, window, signal);
      hoursOfSeries(id).set(hours, (block * blockMs - window.from) / hourMs);
    }
  }
  await read(window.to);
  for (const block of missing)
    for (const { id } of metered.series) {
      const begin = (block * blockMs - window.from) / hourMs;
      const own = hoursOfSeries(id);
      // What a counter that was not read any more will turn out to have grown is not known yet.
      const isSettled = metered.of === "power" || (own[begin + hoursOfBlock] ?? Number.NaN) >= 0;
      if (isSettled) keptHours.keep(id, block, own.slice(begin, begin + hoursOfBlock));
    }
  return all;
}

async function readHoursOf(
  store: Store,
  { counter, of, series }: Metered,
  window: HourWindow,
  signal?: AbortSignal,
): Promise<ReadonlyMap<number, Float64Array>> {
  const wanted = new Map(series.map((one) => [one.id, one]));
  const count = (window.to - window.from) / hourMs;
  const { plan, asked } = plannedReading(store, {
    window,
    step: hourMs / 1000,
    sentences: of === "power" ? { sum: { counter, of_every: "sum" } } : { sum: { counter, as: "increase" } },
  });
  const [sums] = await store.reduce(asked, plan.samples, signal);
  const { ids, plan: sentence } = asked[0] as (typeof asked)[0];
  const all = new Map<number, Float64Array>();
  ids.forEach((id, i) => {
    const one = wanted.get(id);
    const sum = sums?.[sentence.lineOf[i] as number]?.values;
    if (!one || !sum) return;
    const factor = factorOf(one, of) ?? Number.NaN;
    // A reading's integral of W is in ms times W until it is scaled.
    const scale = of === "power" ? sentence.scale : 1 / joulesPerWattHour;
    const hours = new Float64Array(count).fill(Number.NaN);
    for (let h = 0; h < count && h < sum.length; h++) hours[h] = (sum[h] as number) * factor * scale;
    all.set(id, hours);
  });
  return all;
}

/** Hours cut to other stretches that begin in `[fromMs, toMs)`, evenly. */
function spreadOver(hours: EnergySteps, edgesMs: Float64Array, fromMs: number, toMs: number): EnergySteps {
  const steps = emptySteps(edgesMs);
  const first = hours.edgesMs[0] as number;
  for (let k = 0; k < steps.wattHours.length && (edgesMs[k] as number) < toMs; k++) {
    const [begin, end] = [edgesMs[k] as number, edgesMs[k + 1] as number];
    if (begin < fromMs) continue;
    const h = Math.floor((begin - first) / hourMs);
    const share = (end - begin) / hourMs;
    steps.wattHours[k] = (hours.wattHours[h] ?? 0) * share;
    steps.knownMs[k] = (hours.knownMs[h] ?? 0) * share;
  }
  return steps;
}

function add(
  parts: Map<number, EnergySteps>,
  id: number,
  edgesMs: Float64Array,
  { wattHours, knownMs }: EnergySteps,
  offset: number,
): void {
  const all = parts.get(id) ?? emptySteps(edgesMs);
  parts.set(id, all);
  for (let k = 0; k < wattHours.length; k++) {
    all.wattHours[k + offset] = (all.wattHours[k + offset] as number) + (wattHours[k] as number);
    all.knownMs[k + offset] = (all.knownMs[k + offset] as number) + (knownMs[k] as number);
  }
}
