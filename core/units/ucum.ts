/** A unit as it is shown: values in it times `factor` are values in `base`. */
export interface ReadUnit {
  /** A UCUM code without prefixes: "By", "By/s", "W.h", "s", "/s"; annotations are counted as 1 and dropped. */
  readonly base: string;
  readonly factor: number;
}

/** UCUM prefixes, §27 (SI) and §28 (powers of 1024). */
const prefixes: Readonly<Record<string, number>> = {
  Y: 1e24,
  Z: 1e21,
  E: 1e18,
  P: 1e15,
  T: 1e12,
  G: 1e9,
  M: 1e6,
  k: 1e3,
  h: 1e2,
  da: 1e1,
  d: 1e-1,
  c: 1e-2,
  m: 1e-3,
  u: 1e-6,
  n: 1e-9,
  p: 1e-12,
  f: 1e-15,
  a: 1e-18,
  z: 1e-21,
  y: 1e-24,
  Ki: 2 ** 10,
  Mi: 2 ** 20,
  Gi: 2 ** 30,
  Ti: 2 ** 40,
};

/** Atoms that take prefixes, with what they are in the unit that is shown. */
const metric: Readonly<Record<string, readonly [base: string, factor: number]>> = {
  By: ["By", 1],
  bit: ["bit", 1],
  s: ["s", 1],
  m: ["m", 1],
  g: ["g", 1],
  K: ["K", 1],
  Cel: ["Cel", 1],
  A: ["A", 1],
  V: ["V", 1],
  W: ["W", 1],
  J: ["J", 1],
  Hz: ["Hz", 1],
  Ohm: ["Ohm", 1],
  Pa: ["Pa", 1],
  bar: ["Pa", 1e5],
  N: ["N", 1],
  C: ["C", 1],
  F: ["F", 1],
  lm: ["lm", 1],
  lx: ["lx", 1],
  cd: ["cd", 1],
  mol: ["mol", 1],
  l: ["L", 1],
  L: ["L", 1],
  t: ["g", 1e6],
  eV: ["eV", 1],
  B: ["B", 1],
};

/** Atoms that take none. */
const plain: Readonly<Record<string, readonly [base: string, factor: number]>> = {
  "1": ["1", 1],
  "%": ["%", 1],
  "[ppth]": ["1", 1e-3],
  "[ppm]": ["1", 1e-6],
  "[ppb]": ["1", 1e-9],
  min: ["s", 60],
  h: ["s", 3600],
  d: ["s", 86_400],
  wk: ["s", 604_800],
  mo: ["s", 2_629_800],
  a: ["s", 31_557_600],
  deg: ["deg", 1],
  rad: ["rad", 1],
  "[degF]": ["[degF]", 1],
  "[in_i]": ["m", 0.0254],
  "[ft_i]": ["m", 0.3048],
  "[mi_i]": ["m", 1609.344],
  "[psi]": ["Pa", 6894.757_293_168_362],
};

/** Codes that are not UCUM and are sent all the same, in UCUM. */
const aliases: Readonly<Record<string, string>> = {
  VA: "V.A",
  kVA: "kV.A",
  MVA: "MV.A",
  var: "V.A",
  Wh: "W.h",
  kWh: "kW.h",
  MWh: "MW.h",
  Bytes: "By",
  bytes: "By",
  B: "By",
  KiB: "KiBy",
  MiB: "MiBy",
  GiB: "GiBy",
  ratio: "1",
  percent: "%",
  seconds: "s",
  milliseconds: "ms",
  celsius: "Cel",
};
/** A volt-ampere is no watt: it is told as itself. */
const printedAs: Readonly<Record<string, string>> = { "V.A": "VA" };

const mostLength = 200;
const mostExponent = 9;

interface Factor {
  readonly base: string;
  readonly exponent: number;
}

/**
 * Reads a unit's code: UCUM's terms of atoms with prefixes and exponents, joined by "." and "/" from left to right,
 * annotations in braces and numbers (The Unified Code
 * for Units of Measure 2.1, §§4 to 12); special atoms beyond those of machines are not known. Undefined where it is
 * none.
 */
export function readUnit(code: string): ReadUnit | undefined {
  if (code.length > mostLength) return undefined;
  const meant = Object.hasOwn(aliases, code) ? (aliases[code] as string) : code;
  const term = new TermReader(meant).read();
  if (!term) return undefined;
  const energy = wattHours(meant);
  if (energy) return energy;
  const counts = new Map<string, number>();
  for (const { base, exponent } of term.factors) if (base !== "1") counts.set(base, (counts.get(base) ?? 0) + exponent);
  const over = [...counts].filter(([, exponent]) => exponent > 0).map(written);
  const under = [...counts]
    .filter(([, exponent]) => exponent < 0)
    .map(([base, exponent]) => written([base, -exponent]));
  const base = `${over.join(".")}${under.map((one) => `/${one}`).join("")}` || "1";
  return { base: Object.hasOwn(printedAs, base) ? (printedAs[base] as string) : base, factor: term.factor };
}

const written = ([base, exponent]: readonly [string, number]): string => (exponent === 1 ? base : `${base}${exponent}`);

/** Watts times hours are energy as it is billed: it stays in watt-hours. */
function wattHours(code: string): ReadUnit | undefined {
  const parts = /^(da|Ki|Mi|Gi|Ti|[YZEPTGMkhdcmunpfazy])?W\.h$/.exec(code);
  return parts ? { base: "W.h", factor: parts[1] === undefined ? 1 : prefixes[parts[1]] } : undefined;
}

/** Reads a term piece by piece; `read` answers undefined where something is not understood. */
class TermReader {
  readonly #text: string;
  #at = 0;

  constructor(text: string) {
    this.#text = text;
  }

  read(): { readonly factor: number; readonly factors: readonly Factor[] } | undefined {
    const factors: Factor[] = [];
    let factor = 1;
    let sign = 1;
    if (this.#text.startsWith("/")) {
      sign = -1;
      this.#at++;
    }
    for (;;) {
      const component = this.#component();
      if (!component) return undefined;
      factor *= component.factor ** sign;
      for (const one of component.factors) factors.push({ base: one.base, exponent: one.exponent * sign });
      if (this.#at === this.#text.length) return { factor, factors };
      const joint = this.#text[this.#at++];
      if (joint !== "." && joint !== "/") return undefined;
      sign = joint === "/" ? -1 : 1;
    }
  }

  #component(): { readonly factor: number; readonly factors: readonly Factor[] } | undefined {
    const rest = this.#text.slice(this.#at);
    const annotation = /^\{[^{}]*\}/.exec(rest);
    if (annotation) {
      this.#at += annotation[0].length;
      return { factor: 1, factors: [] };
    }
    const parts =
      /^(?:(\d{1,15})|((?:\[[^[\]]*\]|[A-Za-z%])(?:[A-Za-z]|\[[^[\]]*\])*)([+-]?\d{1,2})?)(\{[^{}]*\})?/.exec(rest);
    if (!parts || parts[0] === "") return undefined;
    this.#at += parts[0].length;
    if (parts[1] !== undefined) return { factor: Number(parts[1]), factors: [] };
    const atom = atomOf(parts[2] as string);
    const exponent = Number(parts[3] ?? 1);
    if (!atom || exponent === 0 || Math.abs(exponent) > mostExponent) return undefined;
    return { factor: atom.factor ** exponent, factors: [{ base: atom.base, exponent }] };
  }
}

function atomOf(text: string): ReadUnit | undefined {
  const alone =
    (Object.hasOwn(plain, text) ? plain[text] : undefined) ?? (Object.hasOwn(metric, text) ? metric[text] : undefined);
  if (alone) return { base: alone[0], factor: alone[1] };
  for (const length of [2, 1]) {
    const prefix = text.slice(0, length);
    const rest = text.slice(length);
    if (!Object.hasOwn(prefixes, prefix) || !Object.hasOwn(metric, rest)) continue;
    const [base, factor] = metric[rest] as readonly [string, number];
    return { base, factor: factor * prefixes[prefix] };
  }
  return undefined;
}
