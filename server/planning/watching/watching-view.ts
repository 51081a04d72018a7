import type { CostsView } from "../../../core/api/costs.ts";
import type { WatchedSource, WatchingView } from "../../../core/api/watching.ts";
import { kilowattHours, money } from "../../../core/tariffs/cost-words.ts";
import type { Tariff } from "../../../core/tariffs/tariff.ts";
import { figures } from "../../../core/units/present.ts";
import type { Database } from "../../db/pool.ts";
import { answerReading } from "../../reading/answer-reading.ts";
import type { Sources } from "../../sources/sources.ts";
import type { Store } from "../../store/store.ts";
import { meteredMachines } from "../energy/metered-things.ts";
import { namedCounters, readPlanningSettings, readTariffs } from "../planning-rows.ts";
import type { LookedAt } from "./looked-at.ts";
import { type ProcessorEnergy, processorEnergy, wattHoursOfShare, yearlyCost } from "./processor-energy.ts";

const hourMs = 3_600_000;
const daySeconds = 86_400;
/** Kinds of sources whose last answer is kept as it travelled; of others a text of it is. */
const travels = new Set<string>(["pull", "push", "collector"]);

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
  await lookedAt.refresh();
  const named = new Set(await namedCounters(database));
  const shares = await collectorShares(store);
  const counters = countersBySource(store);
  const [tariffs, settings] = [await readTariffs(database), await readPlanningSettings(database)];
  const metered = meteredMachines(store, settings);
  const energies: Energies = {
    energies: await energyOf(store, [parts.machine, ...shares.keys()], metered),
    tariffs,
    nowMs: store.nowMs(),
  };
  const found = sources.views(store.nowMs()).map((source): WatchedSource => {
    const run = sources.find(source.id);
    const every = source.intervalMs / 1000;
    const own = counters.get(source.id) ?? new Map<string, number>();
    const series = [...own.values()].reduce((sum, n) => sum + n, 0);
    const samplesPerDay = (series * daySeconds) / every;
    const seconds = sources.secondsOf(source.id);
    const took = {
      machine: source.machine,
      serverShare: seconds === undefined ? null : seconds / every,
      machineShare: source.kind === "collector" ? (shares.get(source.machine) ?? null) : null,
    };
    return {
      ...took,
      ...sourceEnergy(took, parts.machine, energies),
      id: source.id,
      name: source.name,
      kind: source.kind,
      series,
      everySeconds: every,
      samplesPerDay,
      diskBytesPerDay: samplesPerDay * costs.bytesPerSample,
      wireBytesPerDay: run?.raw && travels.has(source.kind) ? (run.raw.size * daySeconds) / every : null,
      unused: [...own]
        .filter(([counter]) => !named.has(counter) && !lookedAt.has(counter) && !counter.startsWith("nubrel."))
        .map(([counter, n]) => ({ counter, series: n }))
        .sort((a, b) => b.series - a.series || a.counter.localeCompare(b.counter)),
    };
  });
  const isMetered = metered.some(({ machine }) => machine === parts.machine);
  return {
    isEstimated: costs.isEstimated,
    sources: found.sort((a, b) => b.samplesPerDay - a.samplesPerDay),
    notedSinceMs: lookedAt.sinceMs,
    ...ownEnergy(parts.machine, isMetered, costs.processorShare, energies),
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

type EnergyByMachine = ReadonlyMap<string, ProcessorEnergy>;

/** What processor time takes, of Nubrel's machine and of those whose collectors tell what they took. */
async function energyOf(
  store: Store,
  machines: readonly string[],
  metered: ReturnType<typeof meteredMachines>,
): Promise<EnergyByMachine> {
  const found = new Map<string, ProcessorEnergy>();
  for (const machine of new Set(machines)) {
    const energy = await processorEnergy(store, metered, machine);
    if (energy) found.set(machine, energy);
  }
  return found;
}

interface Energies {
  readonly energies: EnergyByMachine;
  readonly tariffs: readonly Tariff[];
  readonly nowMs: number;
}

/** What one source takes of its own machine's energy and of that of Nubrel's; null where neither is measured. */
function sourceEnergy(
  { serverShare, machineShare, machine }: Pick<WatchedSource, "serverShare" | "machineShare" | "machine">,
  here: string,
  { energies, tariffs, nowMs }: Energies,
): Pick<WatchedSource, "wattHoursPerDay" | "costPerYear" | "currency"> {
  const parts = [
    { at: here, share: serverShare },
    { at: machine, share: machineShare },
  ].flatMap(({ at, share }) => {
    const energy = energies.get(at);
    return share === null || !energy ? [] : [{ at, wattHours: wattHoursOfShare(energy, share) }];
  });
  const costs = parts.flatMap(({ at, wattHours }) => yearlyCost(tariffs, at, wattHours, nowMs) ?? []);
  const currency = costs[0]?.currency ?? null;
  return {
    wattHoursPerDay: parts.length === 0 ? null : parts.reduce((sum, { wattHours }) => sum + wattHours, 0),
    // Sums in unlike currencies are no sum.
    costPerYear:
      costs.length === 0 || costs.some((one) => one.currency !== currency)
        ? null
        : costs.reduce((sum, { cost }) => sum + cost, 0),
    currency,
  };
}

/** Nubrel's share of processor time, of what its machine draws above idle. */
function ownEnergy(
  machine: string,
  isMetered: boolean,
  processorShare: number,
  { energies, tariffs, nowMs }: Energies,
): Pick<WatchingView, "wattHoursPerDay" | "costPerYear" | "currency" | "formula"> {
  const nothing = { wattHoursPerDay: null, costPerYear: null, currency: null };
  const energy = energies.get(machine);
  if (!energy)
    return {
      ...nothing,
      formula: isMetered
        ? `Too little is known of ${machine} yet.`
        : `Nothing measures what ${machine}, on which Nubrel runs, draws.`,
    };
  const wattHoursPerDay = wattHoursOfShare(energy, processorShare);
  const year = yearlyCost(tariffs, machine, wattHoursPerDay, nowMs);
  const { aboveIdle, idleWatts, busySeconds } = energy;
  const share = Math.min(1, (processorShare * daySeconds) / busySeconds);
  return {
    wattHoursPerDay,
    costPerYear: year?.cost ?? null,
    currency: year?.currency ?? null,
    formula: `${figures(share * 100)} % of the processor time of ${machine}, of ${kilowattHours(aboveIdle)} a day that it draws above ${Math.round(idleWatts)} W idle: ${kilowattHours(wattHoursPerDay)} a day${year === null ? "" : `, ${money(year.cost, year.currency)} a year`}.`,
  };
}
