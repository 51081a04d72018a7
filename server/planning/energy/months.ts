import { LRUCache } from "lru-cache";
import { DateTime } from "luxon";
import type { MonthOutlook } from "../../../core/api/energy.ts";
import { emptySteps, totalWattHours } from "../../../core/energy/energy-steps.ts";
import { usualHours } from "../../../core/energy/expected.ts";
import { costOf, tariffsOf } from "../../../core/tariffs/cost.ts";
import { costWords, kilowattHours, money } from "../../../core/tariffs/cost-words.ts";
import type { Tariff } from "../../../core/tariffs/tariff.ts";
import { zoneOffsets } from "../../../core/time/zone-offsets.ts";
import type { EnergyParts } from "./used.ts";
import { hourMarks, pastMs } from "./fill-missing.ts";
import { bestOf } from "./measured.ts";
import type { MeteredThing } from "./metered-things.ts";
import { readEnergy } from "./read-energy.ts";

const hourMs = 3_600_000;

/** What is usual of a month changes slowly, and takes a while to work out. */
const keptMs = 300_000;
const kept = new WeakMap<EnergyParts["store"], LRUCache<string, Promise<readonly MonthOutlook[]>>>();

/** The same, kept for five minutes. */
export function keptMonthsOf(
  parts: Pick<EnergyParts, "store" | "tariffs">,
  machines: readonly MeteredThing[],
): Promise<readonly MonthOutlook[]> {
  const { store, tariffs } = parts;
  const all = kept.get(store) ?? new LRUCache<string, Promise<readonly MonthOutlook[]>>({ max: 4 });
  kept.set(store, all);
  const key = JSON.stringify([
    Math.floor(store.nowMs() / keptMs),
    tariffs,
    machines.map(({ of, feedsOthers }) => [of, feedsOthers]),
  ]);
  let months = all.get(key);
  if (!months) {
    months = monthsOf(parts, machines);
    all.set(key, months);
    months.catch(() => all.delete(key));
  }
  return months;
}

/** This calendar month of each meter that has a tariff: so far, and what is usual of what it lacks and of what is to come. */
export async function monthsOf(
  { store, tariffs }: Pick<EnergyParts, "store" | "tariffs">,
  machines: readonly MeteredThing[],
  signal?: AbortSignal,
): Promise<readonly MonthOutlook[]> {
  const nowMs = store.nowMs();
  const outlooks: MonthOutlook[] = [];
  const added = machines.filter(({ feedsOthers }) => !feedsOthers || machines.every((one) => one.feedsOthers));
  for (const [own, members] of byMeter(tariffs, added)) {
    const tariff = own.findLast(({ from, zone }) => DateTime.fromISO(from, { zone }).toMillis() <= nowMs);
    if (tariff) outlooks.push(await outlookOf(store, { own, tariff, members, nowMs }, signal));
  }
  return outlooks;
}

function byMeter(
  tariffs: readonly Tariff[],
  machines: readonly MeteredThing[],
): readonly (readonly [readonly Tariff[], readonly MeteredThing[]])[] {
  const found = new Map<string, [readonly Tariff[], MeteredThing[]]>();
  for (const one of machines) {
    const own = [...tariffsOf(tariffs, one.machine)].sort((a, b) => a.from.localeCompare(b.from));
    const key = own.map(({ name, from }) => `${name} ${from}`).join("\n");
    const entry = found.get(key) ?? [own, []];
    found.set(key, entry);
    entry[1].push(one);
  }
  return [...found.values()].filter(([own]) => own.length > 0);
}

interface Meter {
  readonly own: readonly Tariff[];
  readonly tariff: Tariff;
  readonly members: readonly MeteredThing[];
  readonly nowMs: number;
}

async function outlookOf(
  store: EnergyParts["store"],
  { own, tariff, members, nowMs }: Meter,
  signal?: AbortSignal,
): Promise<MonthOutlook> {
  const { zone, currency, budgetPerMonth } = tariff;
  const month = DateTime.fromMillis(nowMs, { zone }).startOf("month");
  const fromMs = month.toMillis();
  const toMs = month.plus({ months: 1 }).toMillis();
  // Hours of the month, from its beginning on: zones may begin it at half past.
  const marks = monthMarks(fromMs, toMs);
  const past = hourMarks(Math.floor((fromMs - pastMs) / hourMs) * hourMs, Math.floor(nowMs / hourMs) * hourMs);
  const meters = members.flatMap(({ metered }) => metered.meters);
  const [readMonth, readPast] = [
    await readEnergy(store, meters, marks, signal),
    await readEnergy(store, meters, past, signal),
  ];
  const known = emptySteps(marks);
  const usual = emptySteps(marks);
  for (const { metered } of members) {
    const { steps } = bestOf(metered.meters, readMonth, marks);
    const guess = usualHours(bestOf(metered.meters, readPast, past).steps, marks, zoneOffsets(zone));
    for (let k = 0; k < known.wattHours.length; k++) {
      known.wattHours[k] = (known.wattHours[k] as number) + (steps.wattHours[k] as number);
      const ms = (marks[k + 1] as number) - (marks[k] as number);
      const missing = Math.max(0, 1 - (steps.knownMs[k] as number) / ms);
      usual.wattHours[k] = (usual.wattHours[k] as number) + (guess.wattHours[k] as number) * missing;
    }
  }
  const soFar = costOf(own, known, fromMs, Math.min(nowMs, toMs));
  const both = { edgesMs: marks, wattHours: known.wattHours.map((v, k) => v + (usual.wattHours[k] as number)) };
  const expected = costOf(own, both, fromMs, toMs);
  return {
    tariff: tariff.name,
    currency,
    fromMs,
    toMs,
    soFar: { wattHours: totalWattHours(known), cost: soFar.amount },
    expected: { wattHours: totalWattHours({ ...known, wattHours: both.wattHours }), cost: expected.amount },
    budget: budgetPerMonth ?? null,
    formula: `${kilowattHours(totalWattHours(known))} measured so far (${money(soFar.amount, currency)}) and ${kilowattHours(totalWattHours(usual))} usual of its other hours: ${costWords(expected, currency)}`,
  };
}

function monthMarks(fromMs: number, toMs: number): Float64Array {
  const marks: number[] = [fromMs];
  for (let at = Math.floor(fromMs / hourMs) * hourMs + hourMs; at < toMs; at += hourMs) marks.push(at);
  marks.push(toMs);
  return Float64Array.from(marks);
}
