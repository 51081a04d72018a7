import type { CostsView } from "../../../core/api/costs.ts";
import type { WatchedSource, WatchingView } from "../../../core/api/watching.ts";
import { totalWattHours } from "../../../core/energy/energy-steps.ts";
import { idleWatts } from "../../../core/energy/guests-share.ts";
import { costOf, tariffsOf } from "../../../core/tariffs/cost.ts";
import { kilowattHours, money } from "../../../core/tariffs/cost-words.ts";
import type { Tariff } from "../../../core/tariffs/tariff.ts";
import { figures } from "../../../core/units/present.ts";
import type { Database } from "../../db/pool.ts";
import { answerReading } from "../../reading/answer-reading.ts";
import type { Sources } from "../../sources/sources.ts";
import type { Store } from "../../store/store.ts";
import { hourMarks } from "../energy/fill-missing.ts";
import { bestOf } from "../energy/measured.ts";
import { meteredMachines } from "../energy/metered-things.ts";
import { processorSeconds } from "../energy/processor-times.ts";
import { readEnergy } from "../energy/read-energy.ts";
import { namedCounters, readPlanningSettings, readTariffs } from "../planning-rows.ts";
import type { LookedAt } from "./looked-at.ts";

const hourMs = 3_600_000;
const daySeconds = 86_400;
/** Kinds of sources whose last answer is kept as it travelled; of others a text of it is. */
const travels = new Set<string>(["pull", "push", "collector"]);
const dayMs = daySeconds * 1000;

export interface WatchingParts {
  readonly database: Database;
  readonly store: Store;
  readonly sources: Sources;
  readonly lookedAt: LookedAt;
  readonly costs: () => Promise<CostsView>;
  /** The machine that the server runs on. */
  readonly machine: string;
}

/** What watching costs, source by source, and what of it nobody needs. */
export async function watchingView(parts: WatchingParts): Promise<WatchingView> {
  const { database, store, sources, lookedAt } = parts;
  const costs = await parts.costs();
  const named = new Set(await namedCounters(database));
  const shares = await collectorShares(store);
  const counters = countersBySource(store);
  const found = sources.views(store.nowMs()).map((source): WatchedSource => {
    const run = sources.find(source.id);
    const every = source.intervalMs / 1000;
    const own = counters.get(source.id) ?? new Map<string, number>();
    const series = [...own.values()].reduce((sum, n) => sum + n, 0);
    const samplesPerDay = (series * daySeconds) / every;
    const seconds = sources.secondsOf(source.id);
    return {
      id: source.id,
      name: source.name,
      machine: source.machine,
      kind: source.kind,
      series,
      everySeconds: every,
      samplesPerDay,
      diskBytesPerDay: costs.bytesPerSample === null ? null : samplesPerDay * costs.bytesPerSample,
      wireBytesPerDay: run?.raw && travels.has(source.kind) ? (run.raw.size * daySeconds) / every : null,
      serverShare: seconds === undefined ? null : seconds / every,
      machineShare: source.kind === "collector" ? (shares.get(source.machine) ?? null) : null,
      unused: [...own]
        .filter(([counter]) => !named.has(counter) && !lookedAt.has(counter) && !counter.startsWith("nubrel."))
        .map(([counter, n]) => ({ counter, series: n }))
        .sort((a, b) => b.series - a.series || a.counter.localeCompare(b.counter)),
    };
  });
  const [tariffs, settings] = [await readTariffs(database), await readPlanningSettings(database)];
  return {
    sources: found.sort((a, b) => b.samplesPerDay - a.samplesPerDay),
    notedSinceMs: lookedAt.sinceMs,
    ...(await ownEnergy(parts, { costs, tariffs }, meteredMachines(store, settings))),
  };
}

function countersBySource(store: Store): ReadonlyMap<number, Map<string, number>> {
  const found = new Map<number, Map<string, number>>();
  for (const { sourceId, counter } of store.series.all()) {
    if (sourceId === undefined) continue;
    const own = found.get(sourceId) ?? new Map<string, number>();
    found.set(sourceId, own);
    own.set(counter, (own.get(counter) ?? 0) + 1);
  }
  return found;
}

/** What collectors took of late of a processor of their machine, by their own account. */
async function collectorShares(store: Store): Promise<ReadonlyMap<string, number>> {
  if (store.series.ofCounter("nubrel.collector.cpu.time").length === 0) return new Map();
  const to = store.nowMs();
  const { lines } = await answerReading(store, {
    window: { from: to - hourMs, to },
    step: 3600,
    sentences: { a: { counter: "nubrel.collector.cpu.time", lines: { per: ["machine"] }, combine: "sum" } },
  });
  return new Map(lines.flatMap(({ tags, mean }) => (mean === null ? [] : [[tags["machine"] ?? "", mean] as const])));
}

/** Nubrel's share of processor time, of what its machine draws above idle. */
async function ownEnergy(
  { store, machine }: WatchingParts,
  { costs, tariffs }: { readonly costs: CostsView; readonly tariffs: readonly Tariff[] },
  metered: ReturnType<typeof meteredMachines>,
): Promise<Pick<WatchingView, "wattHoursPerDay" | "costPerYear" | "currency" | "formula">> {
  const nothing = { wattHoursPerDay: null, costPerYear: null, currency: null };
  const meters = metered.find((one) => one.machine === machine)?.metered.meters ?? [];
  if (meters.length === 0)
    return { ...nothing, formula: `Nothing measures what ${machine}, on which Nubrel runs, draws.` };
  const end = Math.floor(store.nowMs() / hourMs) * hourMs;
  const edges = hourMarks(end - dayMs, end);
  const { steps } = bestOf(meters, await readEnergy(store, meters, edges), edges);
  const { busy } = await processorSeconds(store, [machine], edges);
  const busySeconds = (busy.get(machine) ?? new Float64Array(0)).reduce((sum, v) => sum + (Number.isNaN(v) ? 0 : v), 0);
  const knownMs = steps.knownMs.reduce((sum, ms) => sum + ms, 0);
  if (busySeconds === 0 || knownMs === 0) return { ...nothing, formula: `Too little is known of ${machine} yet.` };
  const idle = idleWatts(steps);
  const above = Math.max(0, totalWattHours(steps) - (idle * knownMs) / hourMs) * (dayMs / knownMs);
  const share = Math.min(1, (costs.processorShare * daySeconds) / (busySeconds * (dayMs / knownMs)));
  const wattHoursPerDay = above * share;
  const own = tariffsOf(tariffs, machine);
  const hours = hourMarks(end, end + 365 * dayMs);
  const year = { edgesMs: hours, wattHours: new Float64Array(hours.length - 1).fill(wattHoursPerDay / 24) };
  const currency = own[0]?.currency ?? null;
  const costPerYear = currency === null ? null : costOf(own, year, 0, 0).energy;
  return {
    wattHoursPerDay,
    costPerYear,
    currency,
    formula: `${figures(share * 100)} % of the processor time of ${machine}, of ${kilowattHours(above)} a day that it draws above ${Math.round(idle)} W idle: ${kilowattHours(wattHoursPerDay)} a day${costPerYear === null || currency === null ? "" : `, ${money(costPerYear, currency)} a year`}.`,
  };
}
