import type { PlanningSettings } from "../../../core/api/energy.ts";
import {
  energyCounters,
  factorOf,
  meteredUnit,
  type Metered,
  type MeteringSeries,
  metersOf,
  namedSeries,
  outletsOf,
  powerCounters,
} from "../../../core/energy/meters.ts";
import type { Store } from "../../store/store.ts";

/** Counters that only what supplies others with power has. */
const supplyCounters = ["ups.load", "ups.on_battery"] as const;

/** A machine or an outlet, and what measures it. */
export interface MeteredThing {
  readonly of: string;
  readonly machine: string;
  readonly metered: Metered;
  /** It measures what others draw. */
  readonly feedsOthers: boolean;
}

/** Machines with a meter, by name. */
export function meteredMachines(
  store: Store,
  { feeders, meters }: Pick<PlanningSettings, "feeders" | "meters">,
): readonly MeteredThing[] {
  const feeding = feedingMachines(store, feeders);
  return [...meteringSeries(store, meters)]
    .map(([machine, series]) => ({
      of: machine,
      machine,
      metered: metersOf(series),
      feedsOthers: feeding.has(machine),
    }))
    .filter(({ metered }) => metered.meters.length > 0)
    .sort((a, b) => a.of.localeCompare(b.of));
}

/** Outlets of devices that measure each. */
export function meteredOutlets(store: Store, { meters }: Pick<PlanningSettings, "meters">): readonly MeteredThing[] {
  return [...meteringSeries(store, meters)]
    .sort(([a], [b]) => a.localeCompare(b))
    .flatMap(([machine, series]) =>
      [...outletsOf(series)].map(([outlet, metered]) => ({
        of: `${machine} ${outlet}`,
        machine,
        metered,
        feedsOthers: false,
      })),
    );
}

function meteringSeries(
  store: Store,
  named: PlanningSettings["meters"],
): ReadonlyMap<string, readonly MeteringSeries[]> {
  const byMachine = new Map<string, MeteringSeries[]>();
  const seen = [
    ...powerCounters.map((counter) => ({ counter, of: "power" as const })),
    ...energyCounters.map((counter) => ({ counter, of: "energy" as const })),
  ];
  for (const { counter, of } of seen)
    for (const one of store.series.ofCounter(counter)) {
      const machine = one.tags["machine"];
      // A level of energy cannot be told apart from one that restarts, a total of power is none.
      if (!machine || factorOf(one, of) === undefined || (of === "energy") !== (one.kind === "total")) continue;
      const own = byMachine.get(machine) ?? [];
      byMachine.set(machine, own);
      own.push(one);
    }
  for (const meter of named)
    for (const one of namedSeries(meter, store.series.ofCounter(meter.counter))) {
      const machine = one.tags["machine"];
      if (!machine || meteredUnit(one.unit, one.kind) === undefined) continue;
      byMachine.set(machine, [...(byMachine.get(machine) ?? []), one]);
    }
  return byMachine;
}

function feedingMachines(store: Store, named: readonly string[]): ReadonlySet<string> {
  const found = new Set(named);
  for (const counter of supplyCounters)
    for (const { tags } of store.series.ofCounter(counter)) found.add(tags["machine"] ?? "");
  return found;
}
