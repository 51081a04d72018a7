import type { FileSeries } from "../../pages/file-series.ts";
import { counterPath } from "./counter-path.ts";
import { englishName } from "./names.ts";

/**
 * The first heading of a counter log in CSV, as Windows' own tools write it: "(PDH-CSV 4.0) (zone)(bias)"; the bias in
 * minutes is UTC minus local time.
 */
const firstHeading = /^\(PDH-CSV 4\.0\)(?:\s*\((.*)\)\((-?\d+)\))?$/;

/** Undefined for another heading; `biasMinutes` undefined where the log does not say it. */
export function counterLogHeader(heading: string): { readonly biasMinutes: number | undefined } | undefined {
  const found = firstHeading.exec(heading.trim());
  return found ? { biasMinutes: found[2] === undefined ? undefined : Number(found[2]) } : undefined;
}

/**
 * The series of a heading such as \\DESK\Processor(_Total)\% Processor Time, by its English name in whatever language
 * it stands; undefined for one that is no counter's path.
 */
export function counterLogSeries(heading: string): FileSeries | undefined {
  const path = counterPath(heading);
  if (path?.machine === undefined) return undefined;
  const { machine, instance } = path;
  const counter = englishName(path.counter);
  return {
    counter: `windows.${plain(englishName(path.category))}.${plain(counter)}`,
    unit: unitOf(counter),
    kind: "level",
    tags: { machine, ...(instance !== undefined && { instance }) },
  };
}

/**
 * "% Processor Time" becomes "percent_processor_time", "Disk Read Bytes/sec" "disk_read_bytes_per_sec"; names that are
 * not known stay in their own language.
 */
function plain(text: string): string {
  return text
    .normalize("NFD")
    .replace(/\p{M}/gu, "")
    .toLowerCase()
    .replace(/ß/g, "ss")
    .replace(/%/g, " percent ")
    .replace(/\//g, " per ")
    .trim()
    .replace(/[^\p{L}\p{N}]+/gu, "_")
    .replace(/^_|_$/g, "");
}

const perSecond = /\/(s|sec|sek|seg)\.?$/i;
/** Bytes, in the four languages of the table. */
const bytes = /\b(bytes?|octets?)\b/i;

/**
 * By the names that these counters have; rates are worked out by Windows already, so that all are levels. A share is
 * marked by its sign in every language, before or behind.
 */
function unitOf(counter: string): string {
  if (/^%|%\)?$|^(pourcentage|porcentaje)\b/i.test(counter)) return "%";
  if (/sec\/(read|write|transfer)$|up time$/i.test(counter)) return "s";
  if (perSecond.test(counter)) return bytes.test(counter) ? "By/s" : "/s";
  if (/^(free )?megabytes$/i.test(counter)) return "MiBy";
  return /^bytes\b|\bbytes$|\boctets\b/i.test(counter) ? "By" : "1";
}
