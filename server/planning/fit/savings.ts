import type { FitAnswer } from "../../../core/api/fit.ts";
import { totalWattHours } from "../../../core/energy/energy-steps.ts";
import { idleWatts, sharedByGuests } from "../../../core/energy/guests-share.ts";
import { costOf, tariffsOf } from "../../../core/tariffs/cost.ts";
import { kilowattHours, money } from "../../../core/tariffs/cost-words.ts";
import { edgesOf } from "../energy/edges.ts";
import { bestOf } from "../energy/measured.ts";
import { meteredMachines } from "../energy/metered-things.ts";
import { processorSeconds } from "../energy/processor-times.ts";
import { readEnergy } from "../energy/read-energy.ts";
import type { EnergyParts } from "../energy/used.ts";

const hourMs = 3_600_000;
const dayMs = 24 * hourMs;

/** What one machine saves when it is off, Wh a day: what its guests use moves with them. */
interface Saved {
  readonly machine: string;
  readonly wattHoursPerDay: number;
  readonly words: string;
}

/** What is saved when machines are off whose guests run elsewhere. */
export async function savingsOf(
  { store, settings, tariffs }: EnergyParts,
  window: { readonly from: number; readonly to: number },
  machines: readonly string[],
  signal?: AbortSignal,
): Promise<FitAnswer["saves"]> {
  const nothing = { wattHoursPerDay: null, costPerYear: null, currency: null };
  if (machines.length === 0) return { ...nothing, formula: "no machine can be switched off" };
  const edges = edgesOf({ window }, "UTC").all;
  const metered = meteredMachines(store, settings).filter(({ machine }) => machines.includes(machine));
  const read = await readEnergy(
    store,
    metered.flatMap(({ metered: { meters } }) => meters),
    edges,
    signal,
  );
  const { guests, busy } = await processorSeconds(store, machines, edges, signal);
  const saved = machines.flatMap((machine): Saved[] => {
    const meters = metered.find((one) => one.machine === machine)?.metered.meters ?? [];
    const { steps, isPart } = bestOf(meters, read, edges);
    const knownMs = steps.knownMs.reduce((sum, ms) => sum + ms, 0);
    const guess = settings.guesses[machine];
    if (meters.length > 0 && knownMs > 0 && !(isPart && guess)) {
      const own = guests.filter(({ host }) => host === machine);
      const shared = sharedByGuests(steps, busy.get(machine) ?? [], own, idleWatts(steps));
      const moving = shared.reduce((sum, one) => sum + totalWattHours(one.steps), 0);
      const perDay = ((totalWattHours(steps) - moving) / knownMs) * dayMs;
      const words = `${machine} ${kilowattHours(perDay)} a day without what its guests take with them`;
      return [{ machine, wattHoursPerDay: perDay, words }];
    }
    if (!guess) return [];
    const perDay = guess.idleWatts * 24;
    return [
      {
        machine,
        wattHoursPerDay: perDay,
        words: `${machine} ${kilowattHours(perDay)} a day, estimated as ${guess.idleWatts} W idle`,
      },
    ];
  });
  const unknown = machines.filter((machine) => !saved.some((one) => one.machine === machine));
  const without = unknown.length > 0 ? ` What ${unknown.join(", ")} draws is not known.` : "";
  if (saved.length === 0) return { ...nothing, formula: without.trim() };
  const wattHoursPerDay = saved.reduce((sum, one) => sum + one.wattHoursPerDay, 0);
  const priced = saved.map((one) => yearOf(one, tariffs, store.nowMs()));
  const currency = priced[0]?.currency ?? null;
  const isPriced = currency !== null && priced.every((one) => one?.currency === currency);
  const costPerYear = isPriced ? priced.reduce((sum, one) => sum + (one?.amount ?? 0), 0) : null;
  const kwhYear = kilowattHours(wattHoursPerDay * 365);
  const price =
    costPerYear === null
      ? " Without a tariff it has no price."
      : ` ${kwhYear} a year at its tariff = ${money(costPerYear, currency as string)}.`;
  return {
    wattHoursPerDay,
    costPerYear,
    currency: isPriced ? currency : null,
    formula: `${saved.map(({ words }) => words).join(", ")}.${price}${without}`,
  };
}

/** What a year of it costs from now on, by its tariff's hours and seasons; what is paid anyway is not saved. */
function yearOf(
  { machine, wattHoursPerDay }: Saved,
  tariffs: EnergyParts["tariffs"],
  nowMs: number,
): { readonly amount: number; readonly currency: string } | undefined {
  const own = tariffsOf(tariffs, machine);
  const [first] = own;
  if (!first) return undefined;
  const hours = 365 * 24;
  const begin = Math.floor(nowMs / hourMs) * hourMs;
  const year = {
    edgesMs: Float64Array.from({ length: hours + 1 }, (_, h) => begin + h * hourMs),
    wattHours: new Float64Array(hours).fill(wattHoursPerDay / 24),
  };
  return { amount: costOf(own, year, 0, 0).energy, currency: first.currency };
}
