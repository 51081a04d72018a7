import type { CounterKind, Falls, Tags } from "../counters/counter.ts";
import { wholeOf } from "./whole-power.ts";
import { readUnit } from "../units/ucum.ts";

/** A series that may measure power or energy. */
export interface MeteringSeries {
  readonly id: number;
  readonly counter: string;
  readonly tags: Tags;
  /** UCUM. */
  readonly unit: string;
  readonly kind: CounterKind;
  readonly falls?: Falls;
  /** A person has said that it measures the whole of the machine or the outlet. */
  readonly isNamed?: true;
}

/** Series that together measure what a thing draws. */
export interface Meter {
  readonly of: "energy" | "power";
  readonly series: readonly MeteringSeries[];
  /** How that is measured, in words that follow "by". */
  readonly words: string;
  /** It measures the processor alone: what the machine draws is more. */
  readonly isPart: boolean;
}

/** What is measured of one thing: the first meter that knows is told, others are compared with it. */
export interface Metered {
  readonly meters: readonly Meter[];
}

export const powerCounters = ["hw.host.power", "hw.power"] as const;
export const energyCounters = ["hw.host.energy", "hw.energy"] as const;
/** Marks the kernel's powercap zones among sensors of energy. */
const powercapTag = "zone";
/** A zone that measures the platform and not the processor alone (kernel: powercap, Intel's name for it). */
const platformZone = /^psys/;
const packageZone = /^package/;
/** Tags that name one of several outputs of a device. */
const outletTag = "outlet";

/**
 * What measures a machine as a whole, best first: a counter of energy, what it draws, sensors that are it, and last its
 * processor's own account. Sensors of inputs, outputs and parts tell of the same power and are never added.
 */
export function metersOf(series: readonly MeteringSeries[]): Metered {
  const named = series.filter(({ isNamed, tags }) => isNamed && tags[outletTag] === undefined);
  const plain = series.filter(({ isNamed, tags }) => !isNamed && tags[outletTag] === undefined);
  const of = (counter: string) => plain.filter((one) => one.counter === counter);
  const zones = of("hw.energy").filter(({ tags }) => tags[powercapTag] !== undefined);
  const sensors = of("hw.energy").filter(({ tags }) => tags[powercapTag] === undefined);
  const platform = zones.filter(({ tags }) => platformZone.test(tags[powercapTag] as string));
  const packages = zones.filter(({ tags }) => packageZone.test(tags[powercapTag] as string));
  const said = (of: CounterKind) => named.filter(({ kind }) => (kind === "total") === (of === "total"));
  const meters: (Meter | undefined)[] = [
    meter("energy", said("total"), `${counterNames(said("total"))}, as somebody has said`),
    meter("power", said("level"), `${counterNames(said("level"))}, as somebody has said, added up over time`),
    meter("energy", of("hw.host.energy").slice(0, 1), "its own counter of energy"),
    meter("energy", whole(sensors), "its own counter of energy"),
    meter("energy", platform.slice(0, 1), "the kernel's counter of the whole platform"),
    meter("power", of("hw.host.power").slice(0, 1), "its power, added up over time"),
    meter("power", whole(of("hw.power")), "its power, added up over time"),
    meter("energy", packages, "the counters of its processors alone", true),
  ];
  return { meters: meters.filter((one) => one !== undefined) };
}

/** A counter under a name of its own that measures power or energy, as a person says. */
export interface NamedMeter {
  readonly counter: string;
  /** The tag by whose values its outlets are told apart; without one it measures machines as a whole. */
  readonly outlets?: string;
}

/** Series of such a counter as series of what they measure; a series without the outlet's tag is left out. */
export function namedSeries({ outlets }: NamedMeter, series: readonly MeteringSeries[]): readonly MeteringSeries[] {
  return series.flatMap((one): MeteringSeries[] => {
    const { [outletTag]: _, ...tags } = one.tags;
    if (outlets === undefined) return [{ ...one, tags, isNamed: true }];
    const outlet = one.tags[outlets];
    return outlet === undefined ? [] : [{ ...one, tags: { ...tags, [outletTag]: outlet }, isNamed: true }];
  });
}

/** What measures each outlet of a device, by its name. */
export function outletsOf(series: readonly MeteringSeries[]): ReadonlyMap<string, Metered> {
  const names = [...new Set(series.flatMap(({ tags }) => tags[outletTag] ?? []))].sort((a, b) =>
    a.localeCompare(b, "en", { numeric: true }),
  );
  return new Map(
    names.map((name) => {
      const own = series
        .filter(({ tags }) => tags[outletTag] === name)
        .map((one) => ({ ...one, tags: withoutOutlet(one.tags) }));
      return [name, metersOf(own)];
    }),
  );
}

function meter(of: Meter["of"], series: readonly MeteringSeries[], words: string, isPart = false): Meter | undefined {
  return series.length > 0 ? { of, series, words, isPart } : undefined;
}

function whole(sensors: readonly MeteringSeries[]): readonly MeteringSeries[] {
  const named = sensors.map((one) => ({ one, sensor: one.tags["sensor"] ?? "" }));
  const chosen = wholeOf(named.map(({ sensor }) => ({ sensor, watts: 1 })));
  return named.filter(({ sensor }) => chosen?.includes(sensor)).map(({ one }) => one);
}

const counterNames = (series: readonly MeteringSeries[]): string =>
  [...new Set(series.map(({ counter }) => counter))].join(" and ");

const withoutOutlet = ({ [outletTag]: _, ...tags }: Tags): Tags => tags;

/** Whether what counts in a unit is power or energy; undefined where it is neither. A level of energy is none. */
export function meteredUnit(unit: string, kind: CounterKind): Meter["of"] | undefined {
  const of = kind === "total" ? "energy" : "power";
  return kind !== "distribution" && factorOf({ unit }, of) !== undefined ? of : undefined;
}

/** What a value of a series is multiplied by to be in W or J; undefined where its unit is neither. */
export function factorOf({ unit }: Pick<MeteringSeries, "unit">, of: Meter["of"]): number | undefined {
  const read = readUnit(unit);
  if (!read) return undefined;
  if (of === "power") return read.base === "W" || read.base === "J/s" ? read.factor : undefined;
  if (read.base === "J" || read.base === "W.s" || read.base === "s.W") return read.factor;
  return read.base === "W.h" ? read.factor * 3600 : undefined;
}
