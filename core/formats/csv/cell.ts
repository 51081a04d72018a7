import { parseNumber } from "../../text/number-text.ts";

export type DecimalSign = "." | ",";

/** What a cell holds: a number (a share where a percent sign follows it), nothing, or words. */
export type Cell =
  | { readonly is: "number"; readonly value: number; readonly isPercent: boolean }
  | { readonly is: "empty" | "nothing" | "words" };

/** How people and programs write that there is no value (common practice, no source). */
const nothing = /^(n\/?a|#n\/a|nan|null|none|nil|-+|–|—|\?|unavailable|unknown)$/i;
/** Thousands may be apart by a space of any width, an apostrophe, or the sign that is not the decimal one. */
const grouped: Readonly<Record<DecimalSign, RegExp>> = {
  ".": /^[+-]?\d{1,3}(?:([, \u00a0\u202f'’])\d{3})(?:\1\d{3})*(?:\.\d+)?$/,
  ",": /^[+-]?\d{1,3}(?:([. \u00a0\u202f'’])\d{3})(?:\1\d{3})*(?:,\d+)?$/,
};
const groupSigns = /[ \u00a0\u202f'’]/g;

export function readCell(text: string, decimal: DecimalSign): Cell {
  const trimmed = text.trim();
  if (trimmed === "") return { is: "empty" };
  if (trimmed.length > 400) return { is: "words" }; // no number of use is as long
  if (nothing.test(trimmed)) return { is: "nothing" };
  const isPercent = trimmed.endsWith("%");
  const digits = isPercent ? trimmed.slice(0, -1).trimEnd() : trimmed;
  const value = parseNumber(plainDigits(digits, decimal) ?? "");
  return value === undefined ? { is: "words" } : { is: "number", value, isPercent };
}

/** Digits with a point as the decimal sign and without groups; undefined where a comma stands that is neither. */
function plainDigits(text: string, decimal: DecimalSign): string | undefined {
  const joined = grouped[decimal].test(text)
    ? (decimal === "." ? text.replaceAll(",", "") : text.replaceAll(".", "")).replace(groupSigns, "")
    : text;
  if (decimal === ".") return joined.includes(",") ? undefined : joined;
  return /[.]/.test(joined) && joined.includes(",") ? undefined : joined.replace(",", ".");
}

/**
 * Which decimal signs the cells speak for. A comma or a point with three digits after it could be one or part the
 * thousands.
 */
export function decimalSigns(cells: Iterable<string>): {
  readonly point: string | undefined;
  readonly comma: string | undefined;
  readonly either: string | undefined;
} {
  let [point, comma, either]: (string | undefined)[] = [];
  for (const text of cells) {
    const trimmed = text.trim().replace(/ ?%$/, "");
    if (trimmed.length > 400 || !/^[+-]?\d[\d., \u00a0\u202f'’]*$/.test(trimmed)) continue;
    const plain = trimmed.replace(groupSigns, "");
    if (/,\d{3}(,\d{3})+$|,\d{3}(,\d{3})*\.\d+$|^[+-]?\d+\.\d+$/.test(plain)) point ??= text.trim();
    else if (
      /\.\d{3}(\.\d{3})+$|\.\d{3}(\.\d{3})*,\d+$/.test(plain) ||
      /^[+-]?\d+,(\d{1,2}|\d{4,})$|^[+-]?(\d{4,}|0\d*),\d+$/.test(plain)
    )
      comma ??= text.trim();
    else if (/^[+-]?\d{1,3},\d{3}$/.test(plain)) either ??= text.trim();
  }
  return { point, comma, either };
}

/** A cell's number, a percentage as a share; undefined where none stands there. */
export function cellNumber(text: string, decimal: DecimalSign): number | undefined {
  const cell = readCell(text, decimal);
  return cell.is === "number" ? (cell.isPercent ? cell.value / 100 : cell.value) : undefined;
}
