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
  readonly prefixes: "si" | "iec" | "none" | "time";
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
  Cel: { unit: "°C", factor: 1, prefixes: "none" },
  V: { unit: "V", factor: 1, prefixes: "si" },
  A: { unit: "A", factor: 1, prefixes: "si" },
  Hz: { unit: "Hz", factor: 1, prefixes: "si" },
  J: { unit: "J", factor: 1, prefixes: "si" },
  W: { unit: "W", factor: 1, prefixes: "si" },
  "W.h": { unit: "Wh", factor: 1, prefixes: "si" },
  "/min": { unit: "/min", factor: 1, prefixes: "none" },
  "/s": { unit: "/s", factor: 1, prefixes: "si" },
};

const si = ["", "k", "M", "G", "T", "P"];
const iec = ["", "Ki", "Mi", "Gi", "Ti", "Pi"];
const times: readonly (readonly [number, string])[] = [
  [86_400, "d"],
  [3600, "h"],
  [60, "min"],
  [1, "s"],
  [0.001, "ms"],
  [0.000_001, "µs"],
];

/** The scale for values up to `most` (by size); every value of one axis takes the same, so that prefixes never mix. */
export function scaleFor(unit: string, most: number): Scale {
  const spelling = spellings[unit] ?? annotated(unit);
  const size = Math.abs(most) * spelling.factor;
  if (spelling.prefixes === "none" || !Number.isFinite(size) || size === 0) return { factor: spelling.factor, unit: spelling.unit };
  if (spelling.prefixes === "time") {
    const [seconds, name] = times.find(([from]) => size >= from) ?? (times[times.length - 1] as readonly [number, string]);
    return { factor: 1 / seconds, unit: name };
  }
  const base = spelling.prefixes === "iec" ? 1024 : 1000;
  const names = spelling.prefixes === "iec" ? iec : si;
  let power = 0;
  while (power < names.length - 1 && size >= base ** (power + 1)) power++;
  return { factor: spelling.factor / base ** power, unit: `${names[power]}${spelling.unit}` };
}

/** `{packet}/s` is shown as "/s": the annotation is a word that the counter's own name already says, UCUM counts it as 1. */
function annotated(unit: string): Spelling {
  const parts = /^\{[^}]*\}(\/s|\/min)?$/.exec(unit);
  if (!parts) return { unit, factor: 1, prefixes: "none" };
  return { unit: parts[1] ?? "", factor: 1, prefixes: parts[1] === "/min" ? "none" : "si" };
}

/** A value with three significant figures at most, never in exponents; null is an en dash. */
export function present(value: number | null, unit: string): Shown {
  if (value === null) return { text: "–", unit: "" };
  const scale = scaleFor(unit, value);
  return { text: figures(value * scale.factor), unit: scale.unit };
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
  return parts.slice(first, first + 2).filter(([n]) => n > 0).map(([n, name]) => `${n} ${name}`).join(" ");
}
