import { DateTime } from "luxon";
import type { CostsView } from "../../../core/api/costs.ts";
import type { MonthFigures, MonthView } from "../../../core/api/month.ts";
import type { SpaceView } from "../../../core/api/space.ts";
import { monthWords } from "../../../core/planning/month-words.ts";
import type { IncidentView } from "../../../core/rules/rule.ts";
import type { Database } from "../../db/pool.ts";
import { listIncidents } from "../../rules/incident-rows.ts";
import { steadyDays } from "../../steadiness/steady-days.ts";
import { energyView } from "../energy/energy-view.ts";
import type { EnergyParts } from "../energy/used.ts";
import { readPlanningSettings, readTariffs } from "../planning-rows.ts";
import { spaceList } from "../space/space-list.ts";
import { grownIn } from "./grown-in.ts";

const mostIncidents = 5000;
const told = 10;

export interface MonthParts extends Pick<EnergyParts, "store" | "names"> {
  readonly database: Database;
  readonly costs: () => Promise<CostsView>;
  /** The machine that the server runs on. */
  readonly machine: string;
  readonly machines: () => readonly string[];
}

/** A month on one page: what failed, what it cost, what fills, what grew; the month before beside it. */
export async function monthView(
  parts: MonthParts,
  { month, zone }: { readonly month: string; readonly zone: string },
  signal?: AbortSignal,
): Promise<MonthView> {
  const nowMs = parts.store.nowMs();
  const begin = DateTime.fromFormat(month, "yyyy-MM", { zone });
  const [fromMs, endMs] = [begin.toMillis(), begin.plus({ months: 1 }).toMillis()];
  const toMs = Math.min(endMs, Math.max(fromMs + 60_000, nowMs));
  const beforeMs = begin.minus({ months: 1 }).toMillis();
  const own = await factsOf(parts, { from: fromMs, to: toMs }, zone, signal);
  const before = await factsOf(parts, { from: beforeMs, to: fromMs }, zone, signal);
  const isOver = nowMs >= endMs;
  const fills = isOver ? [] : await fillsOf(parts);
  const page: Omit<MonthView, "words"> = {
    month,
    zone,
    fromMs,
    toMs,
    isOver,
    figures: own.figures,
    before: before.figures,
    incidents: own.incidents,
    steadiness: own.steadiness,
    energy: own.energy,
    fills,
    grew: await grownIn(parts.store, await readPlanningSettings(parts.database), { from: fromMs, to: toMs }, signal),
    silent: own.silent,
  };
  return { ...page, words: monthWords(page, nowMs) };
}

type Facts = Pick<MonthView, "figures" | "incidents" | "steadiness" | "energy" | "silent">;

async function factsOf(
  parts: MonthParts,
  window: { readonly from: number; readonly to: number },
  zone: string,
  signal?: AbortSignal,
): Promise<Facts> {
  const { store, names, database } = parts;
  const incidents = (await listIncidents(database, window.from, window.to, mostIncidents)).filter(
    ({ raisedAtMs, clearedAtMs }) => raisedAtMs < window.to && (clearedAtMs ?? Number.POSITIVE_INFINITY) > window.from,
  );
  const lengthOf = ({ raisedAtMs, clearedAtMs }: IncidentView) =>
    Math.min(window.to, clearedAtMs ?? window.to) - Math.max(window.from, raisedAtMs);
  const silences = incidents.filter(({ compare }) => compare === "silent");
  const [tariffs, settings] = [await readTariffs(database), await readPlanningSettings(database)];
  const energy = await energyView({ store, names, tariffs, settings }, { window, per: "machine", zone }, signal);
  const added = energy.lines.filter(({ share, wattHours }) => share !== null && wattHours > 0);
  const together = await energyView({ store, names, tariffs, settings }, { window, per: "together", zone }, signal);
  const sum = together.lines.find(({ estimated }) => !estimated);
  const isKnown = sum !== undefined && sum.missingShare < 1;
  const steady = await steadyDays(store, database, parts.machines(), window, zone, store.nowMs());
  const steadiness = steady
    .flatMap(({ machine, days }) => {
      const [first] = days;
      if (!first) return [];
      const lowest = days.reduce((least, one) => (one.value < least.value ? one : least), first);
      const mean = days.reduce((all, { value }) => all + value, 0) / days.length;
      const lowestDay = lowest.value < 100 ? DateTime.fromMillis(lowest.day, { zone }).toISODate() : null;
      return [{ machine, mean, lowest: lowest.value, lowestDay }];
    })
    .sort((a, b) => a.mean - b.mean);
  const figures: MonthFigures = {
    incidents: incidents.length,
    urgent: incidents.filter(({ severity }) => severity === "urgent").length,
    raisedMs: incidents.reduce((all, one) => all + lengthOf(one), 0),
    wattHours: isKnown ? sum.wattHours : null,
    known: sum ? 1 - sum.missingShare : 0,
    cost: isKnown ? sum.cost : null,
    currency: isKnown ? sum.currency : null,
    steadiness:
      steadiness.length === 0 ? null : steadiness.reduce((all, { mean }) => all + mean, 0) / steadiness.length,
    silentMs: silences.reduce((all, one) => all + lengthOf(one), 0),
  };
  return {
    figures,
    incidents: [...incidents]
      .sort((a, b) => lengthOf(b) - lengthOf(a))
      .slice(0, told)
      .map((one) => ({
        id: one.id,
        machine: one.tags["machine"] ?? "",
        rule: one.ruleName,
        severity: one.severity,
        raisedAtMs: one.raisedAtMs,
        lengthMs: lengthOf(one),
      })),
    steadiness,
    energy: [...added, ...energy.lines.filter(({ estimated, wattHours }) => estimated && wattHours > 0)]
      .sort((a, b) => Number(a.estimated) - Number(b.estimated) || b.wattHours - a.wattHours)
      .map(({ of, wattHours, cost, estimated }) => ({ of, wattHours, cost, estimated })),
    silent: silentOf(silences, lengthOf),
  };
}

function silentOf(silences: readonly IncidentView[], lengthOf: (one: IncidentView) => number): MonthView["silent"] {
  const machines = new Map<string, { silentMs: number; times: number }>();
  for (const one of silences) {
    const machine = one.tags["machine"] ?? "";
    const entry = machines.get(machine) ?? { silentMs: 0, times: 0 };
    machines.set(machine, entry);
    entry.silentMs += lengthOf(one);
    entry.times++;
  }
  return [...machines]
    .map(([machine, { silentMs, times }]) => ({ machine, silentMs, times }))
    .sort((a, b) => b.silentMs - a.silentMs)
    .slice(0, told);
}

async function fillsOf({ store, database, costs, machine }: MonthParts): Promise<MonthView["fills"]> {
  const all = await spaceList(store, await readPlanningSettings(database), await costs(), machine);
  const soon = all.filter(
    ({ fullFromMs, kind, used, size }: SpaceView) => kind !== "tier" && (fullFromMs !== null || used / size > 0.8),
  );
  return soon.slice(0, told).map(({ what, machine: of, used, size, fullFromMs, fullToMs }) => ({
    what,
    machine: of,
    share: used / size,
    fullFromMs,
    fullToMs,
  }));
}
