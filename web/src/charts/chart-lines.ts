import type { Line } from "../../../core/reading/document.ts";
import { type Axis, axisFor } from "../../../core/units/axis.ts";

/** A line as a chart shows it. */
export interface ChartLine {
  readonly key: string;
  readonly name: string;
  readonly line: Line;
  /** Place in the palette; hiding other lines does not change it. */
  readonly colourIndex: number;
}

/** Gives lines names and colours: by `order` where a name stands in it (states that belong to one another), else in order of their names. */
export function chartLines(lines: readonly Line[], nameOf: (line: Line) => string, order: readonly string[] = []): readonly ChartLine[] {
  const named = lines.map((line) => ({ line, name: nameOf(line) }));
  const place = (name: string) => (order.includes(name) ? order.indexOf(name) : order.length);
  named.sort((a, b) => place(a.name) - place(b.name) || a.name.localeCompare(b.name, "en", { numeric: true }));
  return named.map(({ line, name }, i) => ({ key: `${line.of} ${JSON.stringify(line.tags)}`, name, line, colourIndex: i }));
}

/** The axis that holds the lines, on top of one another where stacked, and the limits. */
export function axisOfLines(lines: readonly ChartLine[], stacked: boolean, unit: string, limits: readonly number[], ceiling?: number): Axis {
  let min = 0;
  let max = 0;
  if (stacked) {
    const count = lines[0]?.line.values.length ?? 0;
    for (let i = 0; i < count; i++) max = Math.max(max, lines.reduce((sum, { line }) => sum + (line.values[i] ?? 0), 0));
  } else {
    for (const { line } of lines) {
      min = Math.min(min, line.min ?? 0);
      max = Math.max(max, line.max ?? 0);
      for (const low of line.lows ?? []) if (low !== null && low < min) min = low;
      for (const high of line.highs ?? []) if (high !== null && high > max) max = high;
    }
  }
  for (const limit of limits) max = Math.max(max, limit);
  return axisFor(unit, min, max, ceiling !== undefined && max <= ceiling * 1.0001 ? ceiling : undefined);
}

/** The index of the value nearest to a moment; the newest one there is where no moment is asked for. -1 where there is none. */
export function indexAt(line: Line, firstMs: number, stepMs: number, atMs: number | null): number {
  if (atMs === null) {
    for (let i = line.values.length - 1; i >= 0; i--) if (line.values[i] !== null) return i;
    return -1;
  }
  const i = Math.floor((atMs - firstMs) / stepMs);
  return i >= 0 && i < line.values.length ? i : -1;
}
