import { totalWattHours } from "../../../core/energy/energy-steps.ts";
import { idleWatts } from "../../../core/energy/guests-share.ts";
import { costOf, tariffsOf } from "../../../core/tariffs/cost.ts";
import type { Tariff } from "../../../core/tariffs/tariff.ts";
import type { Store } from "../../store/store.ts";
import { hourMarks } from "../energy/fill-missing.ts";
import { bestOf } from "../energy/measured.ts";
import type { MeteredThing } from "../energy/metered-things.ts";
import { processorSeconds } from "../energy/processor-times.ts";
import { readEnergy } from "../energy/read-energy.ts";

const hourMs = 3_600_000;
const dayMs = 24 * hourMs;
const daySeconds = dayMs / 1000;

/** What a machine's processor time took of its energy in the last whole day. */
export interface ProcessorEnergy {
  /** What it draws above idle, Wh a day. */
  readonly aboveIdle: number;
  readonly idleWatts: number;
  /** Processor seconds a day, of all its processors. */
  readonly busySeconds: number;
}

/** Undefined where nothing measures the machine; null where too little is known yet. */
export async function processorEnergy(
  store: Store,
  metered: readonly MeteredThing[],
  machine: string,
): Promise<ProcessorEnergy | undefined | null> {
  const meters = metered.find((one) => one.machine === machine)?.metered.meters ?? [];
  if (meters.length === 0) return undefined;
  const end = Math.floor(store.nowMs() / hourMs) * hourMs;
  const edges = hourMarks(end - dayMs, end);
  const { steps } = bestOf(meters, await readEnergy(store, meters, edges), edges);
  const { busy } = await processorSeconds(store, [machine], edges);
  const seconds = (busy.get(machine) ?? new Float64Array(0)).reduce((sum, v) => sum + (Number.isNaN(v) ? 0 : v), 0);
  const knownMs = steps.knownMs.reduce((sum, ms) => sum + ms, 0);
  if (seconds === 0 || knownMs === 0) return null;
  const idle = idleWatts(steps);
  const perDay = dayMs / knownMs;
  return {
    aboveIdle: Math.max(0, totalWattHours(steps) - (idle * knownMs) / hourMs) * perDay,
    idleWatts: idle,
    busySeconds: seconds * perDay,
  };
}

/** What a share of one processor takes of that, Wh a day. */
export function wattHoursOfShare({ aboveIdle, busySeconds }: ProcessorEnergy, share: number): number {
  return aboveIdle * Math.min(1, (share * daySeconds) / busySeconds);
}

/** What so much a day costs in a year from now by a machine's own tariff; null without one. */
export function yearlyCost(
  tariffs: readonly Tariff[],
  machine: string,
  wattHoursPerDay: number,
  nowMs: number,
): { readonly cost: number; readonly currency: string } | null {
  const own = tariffsOf(tariffs, machine);
  const currency = own[0]?.currency;
  if (currency === undefined) return null;
  const end = Math.floor(nowMs / hourMs) * hourMs;
  const hours = hourMarks(end, end + 365 * dayMs);
  const year = { edgesMs: hours, wattHours: new Float64Array(hours.length - 1).fill(wattHoursPerDay / 24) };
  return { cost: costOf(own, year, 0, 0).energy, currency };
}
