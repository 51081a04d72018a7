/**
 * Base units that the OpenMetrics 1.0 specification recommends ("Units and Base Units"), with their UCUM codes; and
 * what else is common in names.
 */
const codes: Readonly<Record<string, string>> = {
  seconds: "s",
  milliseconds: "ms",
  bytes: "By",
  bits: "bit",
  joules: "J",
  grams: "g",
  meters: "m",
  ratio: "1",
  ratios: "1",
  volts: "V",
  amperes: "A",
  celsius: "Cel",
  watts: "W",
  hertz: "Hz",
  percent: "%",
};

/**
 * The UCUM code of a unit by its name in a page. Annotations stand for what UCUM has no code for, as in `{requests}`.
 */
export function unitOfWord(word: string): string {
  return codes[word] ?? (/^[a-zA-Z0-9_]+$/.test(word) ? `{${word}}` : "1");
}

/** The unit that a name ends in, as names of this format do by rule; "1" where it ends in none that is known. */
export function unitOfName(name: string): string {
  return codes[name.slice(name.lastIndexOf("_") + 1)] ?? "1";
}
