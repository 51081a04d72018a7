import { parseNumber } from "../samples/sample-format.ts";
import { counterLogHeader } from "./counter-log.ts";
import { type CsvRow, csvRows } from "./csv-rows.ts";
import { hasZone, parseTimeText, type TimeForm, timeForms } from "./time-text.ts";

/** How a table is read. wide: a column for each counter. long: a column of counters' names and one of values. counter log: as Windows' own tools write it. */
export interface TableShape {
  readonly layout: "wide" | "long" | "counter log";
  readonly delimiter: string;
  readonly decimal: "." | ",";
  /** The name of the time's column. */
  readonly timeColumn: string;
  readonly timeForm: TimeForm;
  /** Where times say no zone: minutes east of UTC. */
  readonly offsetMinutes: number;
}

/** What was found, and what another reading of the same text could be: then a person should confirm. */
export interface FoundShape {
  readonly shape: TableShape;
  readonly doubts: readonly string[];
}

const delimiters = [",", ";", "\t", "|"] as const;
const looksAtRows = 50;
const timeNames = /^(time|timestamp|date|datetime|zeit|datum|when|moment|ts)\b/i;
/** Columns of the long layout, by what people call them. */
export const longColumns = { counter: /^(counter|name|metric|series)$/i, value: /^(value|reading)$/i, unit: /^unit$/i, kind: /^kind$/i, tags: /^tags$/i } as const;

/** Finds how a table is to be read from its first rows. Undefined where it is no table with times. */
export function findTableShape(text: string): FoundShape | undefined {
  for (const delimiter of delimiters) {
    const rows = firstRows(text, delimiter);
    const [header, ...data] = rows;
    if (!header || header.fields.length < 2 || data.length === 0) continue;
    if (counterLogHeader(header.fields[0] ?? "")) return { shape: { layout: "counter log", delimiter, decimal: decimalOf(data, 0), timeColumn: header.fields[0] as string, timeForm: "m/d/y", offsetMinutes: 0 }, doubts: [] };
    const found = findTime(header, data);
    if (!found) continue;
    const { column, forms } = found;
    const decimal = decimalOf(data, column);
    const [timeForm] = forms as [TimeForm];
    const doubts: string[] = [];
    if (forms.length > 1) doubts.push(`The times can be read as ${forms.join(" or as ")}.`);
    if (!data.every(({ fields }) => hasZone(fields[column] ?? "", timeForm))) doubts.push("The times say no zone; they are taken as UTC.");
    if (decimal === "," && delimiter === ";" && hasThreeDigits(data, column)) doubts.push("1,234 could be a thousand and some, or one and some.");
    const isLong = header.fields.some((name) => longColumns.counter.test(name.trim())) && header.fields.some((name) => longColumns.value.test(name.trim()));
    return { shape: { layout: isLong ? "long" : "wide", delimiter, decimal, timeColumn: (header.fields[column] as string).trim(), timeForm, offsetMinutes: 0 }, doubts };
  }
  return undefined;
}

function firstRows(text: string, delimiter: string): CsvRow[] {
  const rows: CsvRow[] = [];
  try {
    for (const row of csvRows(text, delimiter)) {
      rows.push(row);
      if (rows.length > looksAtRows) break;
    }
  } catch {
    return []; // with this delimiter it is no table; the reading itself tells what is wrong
  }
  return rows;
}

/** The first column that reads as times throughout, those that are called so before others; and the ways it reads. */
function findTime(header: CsvRow, data: readonly CsvRow[]): { readonly column: number; readonly forms: readonly TimeForm[] } | undefined {
  const order = [...header.fields.keys()].sort((a, b) => Number(timeNames.test((header.fields[b] as string).trim())) - Number(timeNames.test((header.fields[a] as string).trim())) || a - b);
  for (const column of order) {
    const forms = timeForms.filter((form) => data.every(({ fields }) => isLikely(parseTimeText(fields[column] ?? "", form, 0))));
    if (forms.length > 0) return { column, forms };
  }
  return undefined;
}

/** Between 1990 and 2100: small numbers are values, not times. */
function isLikely(ms: number | undefined): boolean {
  return ms !== undefined && ms > 631_152_000_000 && ms < 4_102_444_800_000;
}

/** A comma, where numbers have one and none has a point. */
function decimalOf(data: readonly CsvRow[], timeColumn: number): "." | "," {
  const numbers = data.flatMap(({ fields }) => fields.filter((_, i) => i !== timeColumn));
  return numbers.some((text) => /^-?\d+,\d+$/.test(text.trim())) && !numbers.some((text) => /^-?\d+\.\d+$/.test(text.trim())) ? "," : ".";
}

function hasThreeDigits(data: readonly CsvRow[], timeColumn: number): boolean {
  const withComma = data.flatMap(({ fields }) => fields.filter((text, i) => i !== timeColumn && /^-?\d+,\d+$/.test(text.trim())));
  return withComma.length > 0 && withComma.every((text) => /,\d{3}$/.test(text.trim()));
}

/** A cell's number; undefined where none stands there. */
export function cellNumber(text: string, decimal: "." | ","): number | undefined {
  const trimmed = text.trim();
  return parseNumber(decimal === "," ? trimmed.replace(",", ".") : trimmed);
}
