/**
 * How times are written in a table. In d.m.y and its like hours and minutes follow after a blank, seconds and fractions
 * may.
 */
export const timeForms = ["iso", "unix seconds", "unix milliseconds", "d.m.y", "m/d/y", "d/m/y", "y/m/d"] as const;
export type TimeForm = (typeof timeForms)[number];

const isoTime = /^(\d{4})-(\d\d)-(\d\d)(?:[T ](\d\d):(\d\d)(?::(\d\d)(?:[.,](\d{1,9}))?)?)?\s*(Z|[+-]\d\d:?\d\d)?$/;
const parts: Readonly<
  Record<string, readonly [pattern: RegExp, order: readonly [day: number, month: number, year: number]]>
> = {
  "d.m.y": [/^(\d{1,2})\.(\d{1,2})\.(\d{4})(?:,?\s+(\d{1,2}):(\d\d)(?::(\d\d)(?:[.,](\d{1,9}))?)?)?$/, [1, 2, 3]],
  "m/d/y": [/^(\d{1,2})\/(\d{1,2})\/(\d{4})(?:,?\s+(\d{1,2}):(\d\d)(?::(\d\d)(?:[.,](\d{1,9}))?)?)?$/, [2, 1, 3]],
  "d/m/y": [/^(\d{1,2})\/(\d{1,2})\/(\d{4})(?:,?\s+(\d{1,2}):(\d\d)(?::(\d\d)(?:[.,](\d{1,9}))?)?)?$/, [1, 2, 3]],
  "y/m/d": [/^(\d{4})\/(\d{1,2})\/(\d{1,2})(?:,?\s+(\d{1,2}):(\d\d)(?::(\d\d)(?:[.,](\d{1,9}))?)?)?$/, [3, 2, 1]],
};

/**
 * The moment that a text names, ms; undefined where it names none in this form. `offsetMinutes` (east positive) holds
 * where the text has no zone of its own.
 */
export function parseTimeText(text: string, form: TimeForm, offsetMinutes: number): number | undefined {
  const trimmed = text.trim();
  if (form === "unix seconds" || form === "unix milliseconds") {
    if (!/^\d{1,15}([.,]\d{1,9})?$/.test(trimmed)) return undefined;
    return Math.round(Number(trimmed.replace(",", ".")) * (form === "unix seconds" ? 1000 : 1));
  }
  if (form === "iso") {
    const found = isoTime.exec(trimmed);
    if (!found) return undefined;
    const [, year, month, day, hour, minute, second, fraction, zone] = found;
    const ms = utcOf(Number(year), Number(month), Number(day), [hour, minute, second, fraction]);
    return ms === undefined ? undefined : ms - (zone === undefined ? offsetMinutes : zoneMinutes(zone)) * 60_000;
  }
  const [pattern, [day, month, year]] = parts[form] as (typeof parts)[string];
  const found = pattern.exec(trimmed);
  if (!found) return undefined;
  const ms = utcOf(Number(found[year]), Number(found[month]), Number(found[day]), found.slice(4, 8));
  return ms === undefined ? undefined : ms - offsetMinutes * 60_000;
}

/** Whether the text says its own zone: then an offset changes nothing. */
export function hasZone(text: string, form: TimeForm): boolean {
  return form.startsWith("unix") || (form === "iso" && /(Z|[+-]\d\d:?\d\d)$/.test(text.trim()));
}

function zoneMinutes(zone: string): number {
  if (zone === "Z") return 0;
  const minutes = Number(zone.slice(1, 3)) * 60 + Number(zone.slice(-2));
  return zone.startsWith("-") ? -minutes : minutes;
}

/** `time` is hour, minute, second and fraction of a second, as far as they are said. Undefined for a day or a time of day that does not exist. */
function utcOf(
  year: number,
  month: number,
  day: number,
  [hour = "0", minute = "0", second = "0", fraction = "0"]: readonly (string | undefined)[],
): number | undefined {
  const ms = Date.UTC(year, month - 1, day, Number(hour), Number(minute), Number(second));
  const made = new Date(ms);
  if (
    made.getUTCMonth() !== month - 1 ||
    made.getUTCDate() !== day ||
    Number(hour) > 23 ||
    Number(minute) > 59 ||
    Number(second) > 59
  )
    return undefined;
  return ms + Math.round(Number(`0.${fraction}`) * 1000);
}
