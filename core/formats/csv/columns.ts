import { type DecimalSign, readCell } from "./cell.ts";
import type { CsvRow } from "./csv-rows.ts";

/** What is known of a source's columns from what it sent before. */
export interface KnownColumns {
  /** The column's values are kept as a counter. */
  readonly isCounter: (name: string) => boolean;
  /** The column's words are kept as a tag. */
  readonly isTag: (name: string) => boolean;
}

/** Where in the portion more of a column's cells than this are of the other form, a person decides. */
const mostOfOtherForm = 0.25;

/**
 * Which columns of a wide table tell its rows apart, and are tags: decided over a portion of the rows, never by a
 * single cell. A column that a source has sent as values stays one,
 * and one that it has sent as tags too; one that says a unit holds values. `doubts` name what a person should decide.
 */
export function tagColumns(
  heading: readonly string[],
  rows: readonly CsvRow[],
  timeColumn: number,
  decimal: DecimalSign,
  known?: KnownColumns,
): { readonly tags: readonly string[]; readonly doubts: readonly string[] } {
  const tags: string[] = [];
  const doubts: string[] = [];
  let hasValues = false;
  for (const [i, name] of heading.entries()) {
    if (i === timeColumn) continue;
    const { counter, unit } = headingParts(name);
    const count = { number: 0, words: 0, empty: 0, nothing: 0 };
    for (const { fields } of rows) count[readCell(fields[i] ?? "", decimal).is]++;
    const told = count.number + count.words;
    if (known?.isTag(counter)) tags.push(name);
    else if (known?.isCounter(counter) || unit !== undefined) hasValues = true;
    else if (count.words === 0) hasValues ||= count.number > 0;
    else if (count.number === 0 && count.words > rows.length / 2) tags.push(name);
    else if (count.number === 0)
      doubts.push(
        `Column ${JSON.stringify(name)} holds words in ${count.words} of ${rows.length} rows: it could tell rows apart, or be left out.`,
      );
    else {
      hasValues = true;
      if (count.words / told > mostOfOtherForm)
        doubts.push(
          `Column ${JSON.stringify(name)} holds numbers in ${count.number} rows and words in ${count.words}: it could be values, or tell rows apart.`,
        );
    }
  }
  // Rows without a single value have nothing to tell apart: their words stand where values should.
  return hasValues
    ? { tags, doubts }
    : { tags: tags.filter((name) => known?.isTag(headingParts(name).counter)), doubts };
}

/** "temperature [Cel]": a heading may say its unit in brackets at its end. The counter's name is made of the rest. */
export function headingParts(heading: string): { readonly counter: string; readonly unit: string | undefined } {
  const close = heading.length - 1;
  const open = heading.endsWith("]") ? heading.indexOf("[", heading.lastIndexOf("]", close - 1) + 1) : -1;
  const [name, unit] =
    open < 0 || open === close - 1
      ? [heading, undefined]
      : [heading.slice(0, open).trimEnd(), heading.slice(open + 1, close)];
  return { counter: name.trim().replace(/\s+/g, "_") || "value", unit };
}

/** Columns that would be one and the same series, the first two of them, from 1; undefined where each is its own. */
export function sameColumns(
  names: readonly string[],
): { readonly name: string; readonly first: number; readonly second: number } | undefined {
  const seen = new Map<string, number>();
  for (const [i, name] of names.entries()) {
    const { counter } = headingParts(name);
    const before = seen.get(counter);
    if (before !== undefined) return { name, first: before + 1, second: i + 1 };
    seen.set(counter, i);
  }
  return undefined;
}
