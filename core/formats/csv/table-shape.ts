import { decimalSigns, type DecimalSign } from "./cell.ts";
import { type KnownColumns, sameColumns, tagColumns } from "./columns.ts";
import { counterLogHeader } from "../windows/counter-log.ts";
import { type CsvRow, csvRows } from "./csv-rows.ts";
import { hasZone, parseTimeText, type TimeForm, timeForms } from "./time-text.ts";

/**
 * How a table is read. wide: a column for each counter. long: a column of counters' names and one of values. counter
 * log: as Windows' own tools write it.
 */
export interface TableShape {
  readonly layout: "wide" | "long" | "counter log";
  readonly delimiter: string;
  readonly decimal: DecimalSign;
  /** The name of the time's column. */
  readonly timeColumn: string;
  readonly timeForm: TimeForm;
  /** Where times say no zone: minutes east of UTC. */
  readonly offsetMinutes: number;
  /** Of a wide table: the columns that are tags. Absent where that is decided over the rows of each table. */
  readonly tags?: readonly string[];
}

/** What a person or a parameter of the address has decided; the rest is found. */
export type GivenShape = Partial<Pick<TableShape, "decimal" | "timeForm" | "offsetMinutes" | "tags">>;

/** What was found, and what another reading of the same text could be: then a person should confirm. */
export interface FoundShape {
  readonly shape: TableShape;
  readonly doubts: readonly string[];
}

const delimiters = [",", ";", "\t", "|"] as const;
/** The portion of a table by which it is decided how it is read: so many rows. */
export const looksAtRows = 50;
const timeNames = /^(time|timestamp|date|datetime|zeit|datum|when|moment|ts)\b/i;
/** Columns of the long layout, by what people call them. */
export const longColumns = {
  counter: /^(counter|name|metric|series)$/i,
  value: /^(value|reading)$/i,
  unit: /^unit$/i,
  kind: /^kind$/i,
  tags: /^tags$/i,
} as const;

/**
 * Finds how a table is to be read from its first rows, where `given` leaves it open; `known` are the columns that its
 * source sent before. Undefined where it is no table with times.
 */
export function findTableShape(text: string, given: GivenShape = {}, known?: KnownColumns): FoundShape | undefined {
  for (const delimiter of delimiters) {
    const rows = firstRows(text, delimiter);
    const [header, ...data] = rows;
    if (!header || header.fields.length < 2 || data.length === 0) continue;
    const heading = header.fields.map((name) => name.trim());
    if (counterLogHeader(heading[0] ?? ""))
      return {
        shape: {
          layout: "counter log",
          delimiter,
          decimal: given.decimal ?? decimalOf(data, 0, []),
          timeColumn: heading[0] as string,
          timeForm: "m/d/y",
          offsetMinutes: 0,
        },
        doubts: [],
      };
    const found = findTime(header, data, given.timeForm);
    if (!found) continue;
    const { column, forms } = found;
    const doubts: string[] = [];
    const [timeForm] = forms as [TimeForm];
    if (forms.length > 1) doubts.push(`The times can be read as ${forms.join(" or as ")}.`);
    if (given.offsetMinutes === undefined && !data.every(({ fields }) => hasZone(fields[column] ?? "", timeForm)))
      doubts.push("The times say no zone; they are taken as UTC.");
    const decimal = given.decimal ?? decimalOf(data, column, doubts);
    const isLong =
      heading.some((name) => longColumns.counter.test(name)) && heading.some((name) => longColumns.value.test(name));
    const shape: TableShape = {
      layout: isLong ? "long" : "wide",
      delimiter,
      decimal,
      timeColumn: heading[column] as string,
      timeForm,
      offsetMinutes: given.offsetMinutes ?? 0,
    };
    const same = sameColumns(heading);
    if (same)
      doubts.push(
        `Columns ${same.first} and ${same.second} are both called ${JSON.stringify(same.name)}: give each a name of its own.`,
      );
    if (isLong) return { shape, doubts };
    if (given.tags) return { shape: { ...shape, tags: given.tags }, doubts };
    const columns = tagColumns(heading, data, column, decimal, known);
    return { shape: { ...shape, tags: columns.tags }, doubts: [...doubts, ...columns.doubts] };
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
function findTime(
  header: CsvRow,
  data: readonly CsvRow[],
  given: TimeForm | undefined,
): { readonly column: number; readonly forms: readonly TimeForm[] } | undefined {
  const order = [...header.fields.keys()].sort(
    (a, b) =>
      Number(timeNames.test((header.fields[b] as string).trim())) -
        Number(timeNames.test((header.fields[a] as string).trim())) || a - b,
  );
  for (const column of order) {
    const forms = (given ? [given] : timeForms).filter((form) =>
      data.every(({ fields }) => isLikely(parseTimeText(fields[column] ?? "", form, 0))),
    );
    if (forms.length > 0) return { column, forms };
  }
  return undefined;
}

/** Between 1990 and 2100: small numbers are values, not times. */
function isLikely(ms: number | undefined): boolean {
  return ms !== undefined && ms > 631_152_000_000 && ms < 4_102_444_800_000;
}

/** The sign that numbers have; where they speak for both, or for neither of two readings, that is a doubt. */
function decimalOf(data: readonly CsvRow[], timeColumn: number, doubts: string[]): DecimalSign {
  const { point, comma, either } = decimalSigns(
    data.flatMap(({ fields }) => fields.filter((_, i) => i !== timeColumn)),
  );
  if (point !== undefined && comma !== undefined)
    doubts.push(`${point} has a decimal point and ${comma} a decimal comma.`);
  else if (either !== undefined && point === undefined && comma === undefined)
    doubts.push(`${either} could be a thousand and some, or one and some.`);
  return comma !== undefined && point === undefined ? "," : ".";
}
