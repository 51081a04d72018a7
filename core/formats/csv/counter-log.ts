import type { FileSeries } from "../samples/sample-format.ts";

/** The first heading of a counter log in CSV, as Windows' own tools write it: "(PDH-CSV 4.0) (zone)(bias)"; the bias in minutes is UTC minus local time. */
const firstHeading = /^\(PDH-CSV 4\.0\)(?:\s*\((.*)\)\((-?\d+)\))?$/;
const path = /^\\\\([^\\]+)\\(.+?)\\([^\\]+)$/;

/** Undefined for another heading; `biasMinutes` undefined where the log does not say it. */
export function counterLogHeader(heading: string): { readonly biasMinutes: number | undefined } | undefined {
  const found = firstHeading.exec(heading.trim());
  return found ? { biasMinutes: found[2] === undefined ? undefined : Number(found[2]) } : undefined;
}

/** The series of a heading such as \\DESK\Processor(_Total)\% Processor Time; undefined for one that is no counter's path. */
export function counterLogSeries(heading: string): FileSeries | undefined {
  const found = path.exec(heading.trim());
  if (!found) return undefined;
  const [, machine, object, counter] = found as unknown as [string, string, string, string];
  const open = object.endsWith(")") ? object.indexOf("(") : -1;
  const instance = open < 0 ? undefined : object.slice(open + 1, -1);
  const category = open < 0 ? object : object.slice(0, open);
  return { counter: `windows.${plain(category)}.${plain(counter)}`, unit: unitOf(counter), kind: "level", tags: { machine, ...(instance !== undefined && { instance }) } };
}

/** "% Processor Time" becomes "percent_processor_time", "Disk Read Bytes/sec" "disk_read_bytes_per_sec". */
function plain(text: string): string {
  return text
    .toLowerCase()
    .replace(/%/g, " percent ")
    .replace(/\//g, " per ")
    .trim()
    .replace(/[^a-z0-9]+/g, "_")
    .replace(/^_|_$/g, "");
}

/** By the names that these counters have; rates are worked out by Windows already, so that all are levels. */
function unitOf(counter: string): string {
  if (counter.startsWith("%")) return "%";
  if (/bytes( sent| received)?( total)?\/sec$|bytes (sent|received|total)\/sec$/i.test(counter)) return "By/s";
  if (/\/sec$/i.test(counter)) return "/s";
  if (/^(free )?megabytes$/i.test(counter)) return "MiBy";
  if (/bytes$/i.test(counter)) return "By";
  return /(up time|sec\/(read|write|transfer))$/i.test(counter) ? "s" : "1";
}
