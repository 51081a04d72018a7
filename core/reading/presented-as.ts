import { type CounterKind, onlyGrows } from "../counters/counter.ts";
import { rateUnit } from "../units/rate-unit.ts";
import type { As, ReadingDocument, Sentence } from "./document.ts";
import { asOf } from "./plan.ts";

/** One way to present a counter: how it is read, and a factor that gives another unit. */
export interface Presentation {
  readonly words: string;
  readonly as: As;
  readonly unit: string;
  /** 1 where the unit is the reading's own. */
  readonly factor: number;
}

/**
 * Units that a reader may want in place of another (NIST SP 811 for the factors of time; 8 bits a byte, IEC 80000-13).
 */
const conversions: Readonly<Record<string, readonly (readonly [words: string, unit: string, factor: number])[]>> = {
  "By/s": [["bits per second", "bit/s", 8]],
  By: [["bits", "bit", 8]],
  "1": [["percent", "%", 100]],
  s: [
    ["hours", "h", 1 / 3600],
    ["days", "d", 1 / 86_400],
  ],
  W: [["kilowatts", "kW", 0.001]],
  J: [["kilowatt-hours", "kW.h", 1 / 3.6e6]],
};
const perMinute = ["per minute", "/min", 60] as const;

const ownWords: Readonly<Record<string, string>> = {
  "By/s": "bytes per second",
  By: "bytes",
  "/s": "per second",
  "%": "percent",
  s: "seconds",
  W: "watts",
  J: "joules",
  Cel: "degrees Celsius",
  V: "volts",
  A: "amperes",
  Hz: "hertz",
  "1": "a plain number",
  h: "hours",
  d: "days",
};

/** All ways to present a counter of this kind and unit, the usual one first. */
export function presentations(kind: CounterKind, unit: string): readonly Presentation[] {
  if (!onlyGrows(kind)) return withConversions("value", unit);
  const rate = rateUnit(unit);
  return [
    ...withConversions("rate", rate),
    { words: `growth in each step, in ${unitWords(unit)}`, as: "increase", unit, factor: 1 },
    { words: `the count as it stands, in ${unitWords(unit)}`, as: "value", unit, factor: 1 },
  ];
}

function withConversions(as: As, unit: string): readonly Presentation[] {
  const perSecond = /^(\{[^}]*\})?\/s$/.test(unit);
  const others = perSecond ? [perMinute] : ((Object.hasOwn(conversions, unit) ? conversions[unit] : undefined) ?? []);
  return [
    { words: unitWords(unit), as, unit, factor: 1 },
    ...others.map(([words, to, factor]) => ({ words, as, unit: to, factor })),
  ];
}

/** A unit in words: "bytes per second"; its code where there are none. */
export function unitWords(unit: string): string {
  if (/^\{[^}]*\}\/s$/.test(unit)) return "per second";
  const annotation = /^\{([^}]*)\}$/.exec(unit);
  return annotation ? `${annotation[1]}s` : ((Object.hasOwn(ownWords, unit) ? ownWords[unit] : undefined) ?? unit);
}

type Open = Omit<ReadingDocument, "window">;

/**
 * The way in which a document of one sentence presents it; undefined where its figure is arithmetic of another kind.
 */
export function presentationOf(reading: Open, kind: CounterKind, unit: string): Presentation | undefined {
  const [[name, sentence] = ["", undefined], ...more] = Object.entries(reading.sentences);
  if (!sentence || more.length > 0) return undefined;
  const as = asOf(sentence.as, onlyGrows(kind));
  return presentations(kind, unit).find(
    (one) =>
      one.as === as &&
      (reading.figure === undefined
        ? one.factor === 1
        : reading.unit === one.unit && reading.figure === figureOf(name, one)),
  );
}

/** The document with its one sentence presented in this way. */
export function presentedAs(reading: Open, kind: CounterKind, wanted: Presentation): Open {
  const { figure: _, unit: __, ...rest } = reading;
  const [[name, sentence] = ["", undefined]] = Object.entries(reading.sentences);
  if (!sentence) return reading;
  const natural = asOf(undefined, onlyGrows(kind));
  const { as: ___, ...plain } = sentence;
  const read: Sentence = wanted.as === natural ? plain : { ...plain, as: wanted.as };
  return {
    ...rest,
    sentences: { [name]: read },
    ...(wanted.factor !== 1 && { figure: figureOf(name, wanted), unit: wanted.unit }),
  };
}

const figureOf = (name: string, { factor }: Presentation): string =>
  factor < 1 ? `${name} / ${Number((1 / factor).toPrecision(12))}` : `${name} * ${factor}`;
