/**
 * A number as text that gives the same number back: shortest decimal digits (ECMAScript Number::toString), −0 with its
 * sign.
 */
export function numberText(v: number, infinity = "Infinity"): string {
  if (Number.isNaN(v)) return "NaN";
  if (!Number.isFinite(v)) return v > 0 ? `+${infinity}` : `-${infinity}`;
  return Object.is(v, -0) ? "-0" : String(v);
}

/** The number that `numberText` or a common writer of numbers wrote; undefined for text that is none. */
export function parseNumber(text: string): number | undefined {
  // Each digit can be matched in one way only: what follows many of them is found wrong in linear time.
  if (/^[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:e[+-]?\d+)?$/i.test(text)) return Number(text);
  if (/^nan$/i.test(text)) return Number.NaN;
  const infinity = /^([+-]?)inf(inity)?$/i.exec(text);
  return infinity ? (infinity[1] === "-" ? Number.NEGATIVE_INFINITY : Number.POSITIVE_INFINITY) : undefined;
}
