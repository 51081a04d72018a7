import type { Line } from "../../../core/reading/document.ts";
import { earlierWords } from "../../../core/reading/sentence-words.ts";
import { type Axis, axisFor } from "../../../core/units/axis.ts";
import { stacked } from "../../../core/drawing/geometry.ts";

const noColours: ReadonlyMap<string, number> = new Map();

/** A line as a chart shows it. */
export interface ChartLine {
  readonly key: string;
  readonly name: string;
  readonly line: Line;
  /** Place in the palette; hiding other lines does not change it. */
  readonly colourIndex: number;
}

/**
 * Gives lines names and colours: by `order` where a name stands in it (states that belong to one another), else in
 * order of their names; an earlier time has its present line's colour, a machine its own where each line is another
 * machine's.
 */
export function chartLines(
  lines: readonly Line[],
  nameOf: (line: Line) => string,
  order: readonly string[] = [],
  machineColours: ReadonlyMap<string, number> = noColours,
): readonly ChartLine[] {
  const named = lines.map((line) => ({
    line,
    plain: nameOf(line),
    name: line.earlier === undefined ? nameOf(line) : `${nameOf(line)}, ${earlierWords(line.earlier)}`,
  }));
  const place = (name: string) => (order.includes(name) ? order.indexOf(name) : order.length);
  named.sort(
    (a, b) =>
      place(a.plain) - place(b.plain) ||
      a.plain.localeCompare(b.plain, "en", { numeric: true }) ||
      (a.line.earlier === undefined ? 0 : 1) - (b.line.earlier === undefined ? 0 : 1),
  );
  const machines = new Set(lines.map(({ tags }) => tags["machine"]));
  const byMachine = machines.size > 1 && machines.size === lines.filter(({ earlier }) => earlier === undefined).length;
  let next = 0;
  const given = new Map<string, number>();
  return named.map(({ line, name }) => {
    const own = `${line.of} ${JSON.stringify(line.tags)}`;
    const colourIndex =
      given.get(own) ?? (byMachine ? machineColours.get(line.tags["machine"] ?? "") : undefined) ?? next;
    if (!given.has(own)) next++;
    given.set(own, colourIndex);
    return {
      key: `${own}${line.earlier === undefined ? "" : ` ${line.earlier}`}`,
      name,
      line: toldOf(line),
      colourIndex,
    };
  });
}

/** A line as far as all that it is made of has told: what follows would still change, a sum would stand too low. */
function toldOf(line: Line): Line {
  const { whole } = line;
  if (whole === undefined || line.values.slice(whole).every((value) => value === null)) return line;
  const told = (values: readonly (number | null)[]) => values.map((value, i) => (i < whole ? value : null));
  return {
    ...line,
    values: told(line.values),
    ...(line.lows && { lows: told(line.lows) }),
    ...(line.highs && { highs: told(line.highs) }),
  };
}

/** The axis that holds the lines, on top of one another where stacked, and the limits. */
export function axisOfLines(
  lines: readonly ChartLine[],
  onTop: boolean,
  unit: string,
  limits: readonly number[],
  ceiling?: number,
): Axis {
  let min = 0;
  let max = 0;
  if (onTop) {
    for (const top of stacked(lines.map(({ line }) => line.values)).slice(-1))
      for (const v of top.top) if (v !== null && v > max) max = v;
  } else {
    for (const { line } of lines) {
      for (const v of line.values) {
        if (v === null) continue;
        if (v < min) min = v;
        if (v > max) max = v;
      }
      for (const low of line.lows ?? []) if (low !== null && low < min) min = low;
      for (const high of line.highs ?? []) if (high !== null && high > max) max = high;
      for (const low of line.usual?.low ?? []) if (low !== null && low < min) min = low;
      for (const high of line.usual?.high ?? []) if (high !== null && high > max) max = high;
    }
  }
  for (const limit of limits) max = Math.max(max, limit);
  return axisFor(unit, min, max, ceiling !== undefined && max <= ceiling * 1.0001 ? ceiling : undefined);
}

/**
 * The index of the value nearest to a moment; the newest one there is where no moment is asked for. -1 where there is
 * none.
 */
export function indexAt(
  line: Line,
  firstMs: number,
  stepMs: number,
  atMs: number | null,
  edges?: readonly number[],
): number {
  if (atMs === null) {
    for (let i = line.values.length - 1; i >= 0; i--) if (line.values[i] !== null) return i;
    return -1;
  }
  const i = edges ? edges.findLastIndex((edge) => edge <= atMs) : Math.floor((atMs - firstMs) / stepMs);
  return i >= 0 && i < line.values.length ? i : -1;
}
