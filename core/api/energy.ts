import type { NamedMeter } from "../energy/meters.ts";
import type { PowerGuess } from "../energy/estimate.ts";
import type { Tariff } from "../tariffs/tariff.ts";
import { type Nothing, route } from "./route.ts";

/** What a line of energy is of: "tag:site" is one line for each value of the machines' tag "site". */
export type EnergyPer = "machine" | "outlet" | "guest" | "together" | `tag:${string}`;

export interface EnergyBody {
  readonly window: { readonly from: number; readonly to: number };
  readonly per: EnergyPer;
  /** Each line's energy and cost by the zone's hours, days or months as well. */
  readonly step?: "hour" | "day" | "month";
  /** IANA; the server's where absent. */
  readonly zone?: string;
  /** What is missing is filled by what is usual of that hour, and told apart. */
  readonly fill?: boolean;
}

/** Energy of one thing over a window, and what it cost. */
export interface EnergyLine {
  readonly of: string;
  /** What is known of it; what was filled in is told apart. */
  readonly wattHours: number;
  /** The mean while it was known, W. */
  readonly meanWatts: number | null;
  /** Null where no tariff is given, or several with different currencies. */
  readonly cost: number | null;
  readonly currency: string | null;
  /** Of all that was measured together, 0 to 1; null of what is not added: estimates, and what measures others' power. */
  readonly share: number | null;
  /** Of the window up to now, 0 to 1. */
  readonly missingShare: number;
  /** Worked out of idle and full power as a person gave them, and not measured. */
  readonly estimated: boolean;
  /** The processor alone was measured: the machine draws more. */
  readonly isPart: boolean;
  /** It measures what others draw, and is not added to them. */
  readonly feedsOthers: boolean;
  /** By the usual of the hours that are missing, Wh; 0 where nothing was filled. */
  readonly filledWattHours: number;
  /** How it was measured, in words. */
  readonly method: string;
  /** How the cost was worked out, with its numbers; null where there is none. */
  readonly formula: string | null;
  readonly grams: number | null;
  /** What another meter of the same thing says of the hours that both know. */
  readonly compared: { readonly method: string; readonly wattHours: number; readonly against: number } | null;
  /** The mean that the device works out itself, W. */
  readonly ownMeanWatts: number | null;
  /** Wh and cost of each of the steps, where they were asked for; null where nothing is known. */
  readonly steps?: readonly { readonly wattHours: number | null; readonly cost: number | null }[];
}

/** A calendar month of one meter: what it has cost so far, and what it will. */
export interface MonthOutlook {
  readonly tariff: string;
  readonly currency: string;
  /** The month by the tariff's zone, ms. */
  readonly fromMs: number;
  readonly toMs: number;
  readonly soFar: { readonly wattHours: number; readonly cost: number };
  readonly expected: { readonly wattHours: number; readonly cost: number };
  readonly budget: number | null;
  /** How the expected was worked out, with its numbers. */
  readonly formula: string;
}

export interface EnergyView {
  readonly lines: readonly EnergyLine[];
  /** Bounds of the steps, ms, one more than there are; absent where none were asked for. */
  readonly edges?: readonly number[];
  /** Of this month, all meters together in one currency; null without a tariff. */
  readonly monthSoFar: number | null;
  readonly monthExpected: number | null;
  readonly budget: number | null;
  readonly currency: string | null;
  readonly months: readonly MonthOutlook[];
  readonly notes: readonly string[];
}

/** What a person says of machines that nothing measures. */
export interface PlanningSettings {
  /** Machines without a meter. */
  readonly guesses: Readonly<Record<string, PowerGuess>>;
  /** Machines whose meter measures what others draw as well, beside supplies that are known by their counters. */
  readonly feeders: readonly string[];
  /** Counters under names of their own that measure power or energy. */
  readonly meters: readonly NamedMeter[];
  /** How fast a host's processors are beside others, 1 where nothing is said. */
  readonly speeds: Readonly<Record<string, number>>;
  /** How many operations a second a host's disks take at most; they bound nothing where nothing is said. */
  readonly diskOperations: Readonly<Record<string, number>>;
  /** What fills beside what is known of itself: a sentence of one counter, and its limit. */
  readonly fills: readonly { readonly name: string; readonly counter: string; readonly limit: number }[];
}

export const listTariffs = route("GET", "/tariffs")<Nothing, readonly Tariff[]>();
/** The whole list in its place. */
export const putTariffs = route("PUT", "/tariffs")<readonly Tariff[], readonly Tariff[]>();
export const askEnergy = route("POST", "/planning/energy")<EnergyBody, EnergyView>();
export const getPlanningSettings = route("GET", "/planning/settings")<Nothing, PlanningSettings>();
export const putPlanningSettings = route("PUT", "/planning/settings")<PlanningSettings, PlanningSettings>();
