import type { Table } from "../tables/table.ts";
import type { MeterLook } from "./meters.ts";

/** What tables call the end of a scale. */
const ends = /(^|[^\p{L}])(limit|capacity|size|total|max|maximum|most|of)([^\p{L}]|$)/iu;
const beginnings = /(^|[^\p{L}])(min|minimum|least)([^\p{L}]|$)/iu;

/**
 * How a table that was pasted is drawn first: its value is the first column of numbers that is not by its name an end of
 * a scale; columns that are by their names, and count in the same unit, are the scale. Nothing where there is one
 * column, or nothing is left to draw.
 */
export function proposedMeter({ columns }: Table): MeterLook | undefined {
  const numbers = columns.filter(({ kind }) => kind === "number");
  if (numbers.length < 2) return undefined;
  const value = numbers.find(({ name }) => !ends.test(name) && !beginnings.test(name));
  if (!value) return undefined;
  const alike = numbers.filter((column) => column !== value && (column.unit ?? "1") === (value.unit ?? "1"));
  const max = alike.find(({ name }) => ends.test(name));
  const min = alike.find(({ name }) => beginnings.test(name));
  return {
    column: value.name,
    ...(min && { min: { column: min.name } }),
    ...(max && { max: { column: max.name } }),
  };
}
