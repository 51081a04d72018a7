import { readUnit } from "./ucum.ts";

/**
 * How a number in a UCUM unit is shown: with a prefix that suits it, and a unit in the reader's spelling.
 * Prefixes: IEC 80000-13 (Ki, Mi, Gi) for amounts of memory and storage, SI (k, M, G) for rates and everything else.
 */
export interface Scale {
  /** Shown value = value × factor. */
  readonly factor: number;
  /** The unit as shown, "" for a plain number. */
  readonly unit: string;
}

export interface Shown {
  readonly text: string;
  readonly unit: string;
}

interface Spelling {
  readonly unit: string;
  readonly factor: number;
  readonly prefixes: "si" | "iec" | "none" | "time" | "words";
}

const spellings: Readonly<Record<string, Spelling>> = {
  "1": { unit: "", factor: 1, prefixes: "si" },
  "%": { unit: "%", factor: 1, prefixes: "none" },
  By: { unit: "B", factor: 1, prefixes: "iec" },
  "By/s": { unit: "B/s", factor: 1, prefixes: "si" },
  bit: { unit: "bit", factor: 1, prefixes: "si" },
  "bit/s": { unit: "b/s", factor: 1, prefixes: "si" },
  s: { unit: "s", factor: 1, prefixes: "time" },
  ms: { unit: "ms", factor: 1, prefixes: "none" },
  "s/s": { unit: "", factor: 1, prefixes: "si" },
  VA: { unit: "VA", factor: 1, prefixes: "si" },
  Ohm: { unit: "Ω", factor: 1, prefixes: "si" },
  K: { unit: "K", factor: 1, prefixes: "none" },
  deg: { unit: "°", factor: 1, prefixes: "none" },
  "[degF]": { unit: "°F", factor: 1, prefixes: "none" },
  "By.s": { unit: "B·s", factor: 1, prefixes: "si" },
  "Cel.h": { unit: "°C·h", factor: 1, prefixes: "none" },
  "%.h": { unit: "%·h", factor: 1, prefixes: "none" },
  Cel: { unit: "°C", factor: 1, prefixes: "none" },
  V: { unit: "V", factor: 1, prefixes: "si" },
  A: { unit: "A", factor: 1, prefixes: "si" },
  Hz: { unit: "Hz", factor: 1, prefixes: "si" },
  J: { unit: "J", factor: 1, prefixes: "si" },
  W: { unit: "W", factor: 1, prefixes: "si" },
  "W.h": { unit: "Wh", factor: 1, prefixes: "si" },
  "/min": { unit: "/min", factor: 1, prefixes: "none" },
  "/s": { unit: "/s", factor: 1, prefixes: "words" },
};

const si = ["", "k", "M", "G", "T", "P"];
/** Of what has no letter for its unit: "k/s" is no unit that anybody reads. */
const words = ["", "thousand", "million", "billion", "trillion"];
const iec = ["", "Ki", "Mi", "Gi", "Ti", "Pi"];
const times: readonly (readonly [number, string])[] = [
  [86_400, "d"],
  [3600, "h"],
  [60, "min"],
  [1, "s"],
  [0.001, "ms"],
  [0.000_001, "µs"],
];

/**
 * The scale for values up to `most` (by size); every value of one axis takes the same, so that prefixes never mix. The
 * prefix suits what `most` is rounded to: never 1000 kB/s.
 */
export function scaleFor(unit: string, most: number): Scale {
  const spelling = spellingOf(unit);
  const size = Math.abs(most) * spelling.factor;
  if (spelling.prefixes === "none" || !Number.isFinite(size) || size === 0)
    return { factor: spelling.factor, unit: spelling.unit };
  const rounded = (by: number) => Number(figures(size / by));
  if (spelling.prefixes === "time") {
    let at = times.findIndex(([from]) => size >= from);
    if (at < 0) at = times.length - 1;
    const [seconds] = times[at] as (typeof times)[0];
    const above = times[at - 1];
    if (above && rounded(seconds) * seconds >= above[0] * (1 - 1e-12)) at--;
    const [by, name] = times[at] as (typeof times)[0];
    return { factor: spelling.factor / by, unit: name };
  }
  const base = spelling.prefixes === "iec" ? 1024 : 1000;
  const names = { iec, si, words }[spelling.prefixes];
  let power = 0;
  while (power < names.length - 1 && rounded(base ** power) >= base) power++;
  return { factor: spelling.factor / base ** power, unit: `${names[power]}${spelling.unit}` };
}

/** Whether amounts in this unit are counted in powers of 1024. */
export function isBinary(unit: string): boolean {
  return spellingOf(unit).prefixes === "iec";
}

const decimalBytes = /^[kMGTPE]By/;
const known = new Map<string, Spelling>();
const mostKnown = 1000;

function spellingOf(unit: string): Spelling {
  const own = (Object.hasOwn(spellings, unit) ? spellings[unit] : undefined) ?? known.get(unit);
  if (own) return own;
  const made = madeSpelling(unit);
  if (known.size >= mostKnown) known.clear();
  known.set(unit, made);
  return made;
}

/** What UCUM understands is shown in its plain unit with a prefix that suits; anything else as it stands. */
function madeSpelling(unit: string): Spelling {
  const read = readUnit(unit);
  if (!read) return { unit, factor: 1, prefixes: "none" };
  const plain = spellings[read.base];
  // Who sends gigabytes of a thousand is shown such.
  if (plain)
    return {
      ...plain,
      factor: plain.factor * read.factor,
      ...(plain.prefixes === "iec" && decimalBytes.test(unit) && { prefixes: "si" }),
    };
  return { unit: read.base === "1" ? "" : read.base.replaceAll(".", "·"), factor: read.factor, prefixes: "si" };
}

/** A value with three significant figures at most, never in exponents; null is an en dash. */
export function present(value: number | null, unit: string): Shown {
  if (value === null) return { text: "–", unit: "" };
  const scale = scaleFor(unit, value);
  const text = figures(value * scale.factor);
  // All of it is all of it: 99.95 % is not.
  return {
    text:
      unit === "%" && Math.abs(value) < 100 && Math.abs(Number(text)) === 100 ? `${value < 0 ? "-" : ""}99.9` : text,
    unit: scale.unit,
  };
}

/** Three significant figures without trailing zeros after the point; whole numbers keep all their digits. */
export function figures(value: number): string {
  const size = Math.abs(value);
  if (size >= 100 || Number.isInteger(value)) return String(Math.round(value));
  const decimals = size >= 10 ? 1 : size >= 0.995 ? 2 : size >= 0.0005 ? 3 : 0;
  return String(Number(value.toFixed(decimals)));
}

/** A span in ms in words of at most two units: "1 h 56 min". */
export function presentSpan(ms: number): string {
  const seconds = Math.max(0, Math.round(ms / 1000));
  const parts = [
    [Math.floor(seconds / 86_400), "d"],
    [Math.floor(seconds / 3600) % 24, "h"],
    [Math.floor(seconds / 60) % 60, "min"],
    [seconds % 60, "s"],
  ] as const;
  const first = parts.findIndex(([n]) => n > 0);
  if (first < 0) return "0 s";
  return parts
    .slice(first, first + 2)
    .filter(([n]) => n > 0)
    .map(([n, name]) => `${n} ${name}`)
    .join(" ");
}
