import type { EnergyBody, EnergyLine, EnergyView } from "../../../core/api/energy.ts";
import { missingShare, totalWattHours } from "../../../core/energy/energy-steps.ts";
import { estimated } from "../../../core/energy/estimate.ts";
import { idleWatts, sharedByGuests } from "../../../core/energy/guests-share.ts";
import type { Tariff } from "../../../core/tariffs/tariff.ts";
import { byStep, edgesOf, type EnergyEdges } from "./edges.ts";
import { fillMissing } from "./fill-missing.ts";
import { LineCosts } from "./line-costs.ts";
import { bestOf } from "./measured.ts";
import { type MeteredThing, meteredMachines, meteredOutlets } from "./metered-things.ts";
import { keptMonthsOf } from "./months.ts";
import { ownMeans } from "./own-means.ts";
import { busyShares, processorSeconds } from "./processor-times.ts";
import { readEnergy } from "./read-energy.ts";
import { sumOf } from "./sum-of.ts";
import type { EnergyParts, Used } from "./used.ts";

const hourMs = 3_600_000;

/** Energy over a window, line by line, with what it cost, and this month's. Throws CancelledError. */
export async function energyView(parts: EnergyParts, body: EnergyBody, signal?: AbortSignal): Promise<EnergyView> {
  const { store, settings, tariffs } = parts;
  const zone = body.zone ?? Intl.DateTimeFormat().resolvedOptions().timeZone;
  const edges = edgesOf(body, zone);
  const untilMs = Math.min(body.window.to, store.nowMs());
  const machines = meteredMachines(store, settings);
  const all = await usedBy(parts, machines, edges, { body, zone, untilMs }, signal);
  const guessed = await guessedBy(parts, machines, edges, signal);
  const added = all.filter(({ feedsOthers }) => !feedsOthers || all.every((one) => one.feedsOthers));
  const costs = new LineCosts(tariffs, added, edges.all, { from: body.window.from, to: untilMs });
  const together = added.reduce((sum, one) => sum + totalOf(one), 0);
  const used = await linesOf(parts, body, { all, added, guessed, edges }, { zone, untilMs }, signal);
  const means = await ownMeans(store, body.window, signal);
  const lines = used.map((one): EnergyLine => {
    const { of, machine, measured, estimated: isGuess, feedsOthers, filled, members = [one] } = one;
    const { steps } = measured;
    const filledWattHours = filled.reduce((sum, v) => sum + v, 0);
    const known = totalWattHours(steps);
    const knownMs = steps.knownMs.reduce((sum, ms) => sum + ms, 0);
    const cost = costs.of(members);
    const isAdded = !isGuess && (!feedsOthers || added.some(({ machine: name }) => name === machine));
    return {
      of,
      wattHours: known + filledWattHours,
      meanWatts: knownMs > 0 ? known / (knownMs / hourMs) : null,
      cost: cost?.amount ?? null,
      currency: cost?.currency ?? null,
      share: isAdded && together > 0 ? (known + filledWattHours) / together : null,
      missingShare: missingShare(steps, untilMs),
      estimated: isGuess,
      isPart: measured.isPart,
      feedsOthers,
      filledWattHours,
      method: measured.method,
      formula: cost?.words ?? null,
      grams: cost?.grams ?? null,
      compared: measured.compared,
      ownMeanWatts: body.per === "machine" ? (means.get(machine) ?? null) : null,
      ...(body.step && { steps: stepsOf(edges, one, (part) => costs.amountOf(members, part)) }),
    };
  });
  const months = await keptMonthsOf(parts, machines);
  return {
    lines,
    ...(body.step && { edges: edges.steps }),
    ...monthSums(months),
    months,
    notes: notesOf({ all, guessed, lines, tariffs }),
  };
}

const totalOf = ({ measured, filled }: Used): number =>
  totalWattHours(measured.steps) + filled.reduce((sum, one) => sum + one, 0);

interface Asked {
  readonly body: EnergyBody;
  readonly zone: string;
  readonly untilMs: number;
}

async function usedBy(
  { store }: EnergyParts,
  things: readonly MeteredThing[],
  edges: EnergyEdges,
  { body, zone, untilMs }: Asked,
  signal?: AbortSignal,
): Promise<readonly Used[]> {
  const read = await readEnergy(
    store,
    things.flatMap(({ metered }) => metered.meters),
    edges.all,
    signal,
  );
  const found = things.map(({ of, machine, metered, feedsOthers }) => {
    const measured = bestOf(metered.meters, read, edges.all);
    return { of, machine, metered, measured, estimated: false, feedsOthers };
  });
  const filled = body.fill
    ? await fillMissing(store, found, edges.all, { zone, untilMs }, signal)
    : found.map(() => new Float64Array(edges.all.length - 1));
  return found.map((one, i) => ({ ...one, filled: filled[i] as Float64Array }));
}

/** Machines that nothing measures, of which a person has said what they draw. */
async function guessedBy(
  { store, settings }: EnergyParts,
  machines: readonly MeteredThing[],
  edges: EnergyEdges,
  signal?: AbortSignal,
): Promise<readonly Used[]> {
  const measured = new Set(
    machines.filter(({ metered }) => metered.meters.some(({ isPart }) => !isPart)).map(({ machine }) => machine),
  );
  const wanted = Object.entries(settings.guesses).filter(([machine]) => !measured.has(machine));
  if (wanted.length === 0) return [];
  const busy = await busyShares(
    store,
    wanted.map(([machine]) => machine),
    edges.all,
    signal,
  );
  return wanted.map(([machine, guess]): Used => {
    const steps = estimated(busy.get(machine) ?? [], edges.all, guess);
    const method = `an estimate: between ${guess.idleWatts} W idle and ${guess.fullWatts} W full by how busy its processors were`;
    return {
      of: machine,
      machine,
      measured: { steps, method, isPart: false, compared: null },
      estimated: true,
      feedsOthers: false,
      filled: new Float64Array(steps.wattHours.length),
    };
  });
}

interface Found {
  readonly all: readonly Used[];
  /** Those that are added up. */
  readonly added: readonly Used[];
  readonly guessed: readonly Used[];
  readonly edges: EnergyEdges;
}

type LineOf = Used & { readonly members?: readonly Used[] };

async function linesOf(
  parts: EnergyParts,
  body: EnergyBody,
  { all, added, guessed, edges }: Found,
  { zone, untilMs }: { readonly zone: string; readonly untilMs: number },
  signal?: AbortSignal,
): Promise<readonly LineOf[]> {
  const { per } = body;
  if (per === "outlet")
    return await usedBy(parts, meteredOutlets(parts.store, parts.settings), edges, { body, zone, untilMs }, signal);
  if (per === "guest") return await guestsOf(parts, all, edges, signal);
  if (per === "together")
    return [
      ...(added.length === 0 ? [] : [sumOf("together", added, edges.all)]),
      ...(guessed.length === 0 ? [] : [sumOf("estimated, not added", guessed, edges.all)]),
    ];
  if (per === "machine")
    return [...all, ...guessed.filter(({ of }) => !all.some((one) => one.of === of && !one.measured.isPart))];
  const tag = per.slice("tag:".length);
  const groups = new Map<string, Used[]>();
  for (const one of [...added, ...guessed]) {
    const value = parts.names.tagsWith({ machine: one.machine })[tag];
    const name = `${value ?? "without this tag"}${one.estimated ? ", estimated" : ""}`;
    groups.set(name, [...(groups.get(name) ?? []), one]);
  }
  return [...groups].sort(([a], [b]) => a.localeCompare(b)).map(([name, members]) => sumOf(name, members, edges.all));
}

/** What guests and containers used of their hosts. */
async function guestsOf(
  { store }: EnergyParts,
  hosts: readonly Used[],
  edges: EnergyEdges,
  signal?: AbortSignal,
): Promise<readonly LineOf[]> {
  const { guests, busy } = await processorSeconds(
    store,
    hosts.map(({ machine }) => machine),
    edges.all,
    signal,
  );
  return hosts.flatMap((host) => {
    const own = guests.filter((one) => one.host === host.machine);
    if (own.length === 0) return [];
    const idle = idleWatts(host.measured.steps);
    const shared = sharedByGuests(host.measured.steps, busy.get(host.machine) ?? [], own, idle);
    return shared.map(({ guest, steps }): LineOf => {
      const method = `its share of processor time, of what ${host.of} drew above ${Math.round(idle)} W idle`;
      return {
        ...host,
        of: `${host.of} ${guest}`,
        measured: { steps, method, isPart: false, compared: null },
        filled: new Float64Array(steps.wattHours.length),
      };
    });
  });
}

function stepsOf(
  { all, steps }: EnergyEdges,
  { measured: { steps: known }, filled }: Used,
  costOf: (part: { readonly from: number; readonly to: number }) => number | null,
): NonNullable<EnergyLine["steps"]> {
  const each = byStep(
    all,
    steps,
    known.wattHours.map((one, k) => one + (filled[k] as number)),
    known.knownMs.map((ms, k) => ms + (filled[k] as number)),
  );
  return steps.slice(0, -1).map((from, s) => {
    const wattHours = each[s] as number;
    return Number.isNaN(wattHours)
      ? { wattHours: null, cost: null }
      : { wattHours, cost: costOf({ from, to: steps[s + 1] as number }) };
  });
}

function monthSums(
  months: EnergyView["months"],
): Pick<EnergyView, "monthSoFar" | "monthExpected" | "budget" | "currency"> {
  const [first] = months;
  if (!first || months.some(({ currency }) => currency !== first.currency))
    return { monthSoFar: null, monthExpected: null, budget: null, currency: null };
  const sum = (of: (one: EnergyView["months"][number]) => number) => months.reduce((all, one) => all + of(one), 0);
  return {
    monthSoFar: sum(({ soFar }) => soFar.cost),
    monthExpected: sum(({ expected }) => expected.cost),
    budget: months.some(({ budget }) => budget !== null) ? sum(({ budget }) => budget ?? 0) : null,
    currency: first.currency,
  };
}

function notesOf({
  all,
  guessed,
  lines,
  tariffs,
}: {
  readonly all: readonly Used[];
  readonly guessed: readonly Used[];
  readonly lines: readonly EnergyLine[];
  readonly tariffs: readonly Tariff[];
}): readonly string[] {
  const feeding = all.filter(({ feedsOthers }) => feedsOthers).map(({ of }) => of);
  const parts = all.filter(({ measured }) => measured.isPart).map(({ of }) => of);
  return [
    ...(feeding.length > 0 && feeding.length < all.length
      ? [
          `${feeding.join(", ")} ${feeding.length === 1 ? "measures" : "measure"} what others draw as well, and ${feeding.length === 1 ? "is" : "are"} not added to them.`,
        ]
      : []),
    ...(parts.length > 0 ? [`Of ${parts.join(", ")} the processor alone is measured: the machine draws more.`] : []),
    ...(guessed.length > 0 ? ["Estimates are not added to what is measured."] : []),
    ...(lines.length > 0 && tariffs.length === 0 ? ["No tariff is given yet: nothing has a price."] : []),
  ];
}
