import type { PlotModel, Place, Values } from "./model.ts";

/** A line's way over a canvas, px; NaN is a gap. */
export interface Way {
  readonly x: Float64Array;
  readonly y: Float64Array;
}

/** What lies between two ways that have the same x. */
export interface Ribbon extends Way {
  readonly base: Float64Array;
}

/** Rectangles of one colour: x, y, width, height each. */
export type Cells = readonly number[];

type Steps = Pick<PlotModel, "fromMs" | "toMs" | "firstMs" | "stepMs" | "edges">;

/** When step `i` begins; the one after the last is the end. */
const stepStartMs = ({ firstMs, stepMs, edges }: Pick<PlotModel, "firstMs" | "stepMs" | "edges">, i: number): number =>
  edges?.[i] ?? firstMs + i * stepMs;

/** Where step `i` begins, and how long it is, px. */
function stepPlace(model: Steps, i: number, place: Place): readonly [x: number, width: number] {
  const perMs = place.width / (model.toMs - model.fromMs);
  const start = stepStartMs(model, i);
  return [place.x + (start - model.fromMs) * perMs, (stepStartMs(model, i + 1) - start) * perMs];
}

/** The middle of each step, px. */
export function middles(model: Steps, count: number, place: Place): Float64Array {
  const perMs = place.width / (model.toMs - model.fromMs);
  const x = new Float64Array(count);
  for (let i = 0; i < count; i++)
    x[i] = place.x + ((stepStartMs(model, i) + stepStartMs(model, i + 1)) / 2 - model.fromMs) * perMs;
  return x;
}

export function heights(values: Values, axis: PlotModel["axis"], place: Place): Float64Array {
  const perUnit = place.height / (axis.max - axis.min);
  const y = new Float64Array(values.length);
  for (let i = 0; i < y.length; i++) {
    const v = values[i];
    y[i] = v === null || v === undefined ? Number.NaN : place.y + place.height - (v - axis.min) * perUnit;
  }
  return y;
}

/**
 * The lines on top of one another: each ribbon rests on the sum of those before it, so that the top edge is the total.
 * A line that has a gap
 * where others have values adds nothing there; where no line has a value there is a gap in all.
 */
export function stacked(
  lines: readonly Values[],
): readonly { readonly base: readonly (number | null)[]; readonly top: readonly (number | null)[] }[] {
  const count = Math.max(0, ...lines.map((line) => line.length));
  const known = Array.from({ length: count }, (_, i) => lines.some((line) => (line[i] ?? null) !== null));
  let below: readonly (number | null)[] = known.map((is) => (is ? 0 : null));
  return lines.map((line) => {
    const base = below;
    const top = base.map((b, i) => (b === null ? null : b + (line[i] ?? 0)));
    below = top;
    return { base, top };
  });
}

/** Values that have gaps on both sides have no line: they are told as dots, x and y each. */
export function lonely({ x, y }: Way): readonly number[] {
  const dots: number[] = [];
  const none = (i: number) => i < 0 || i >= y.length || Number.isNaN(y[i]);
  for (let i = 0; i < y.length; i++) if (!none(i) && none(i - 1) && none(i + 1)) dots.push(x[i], y[i]);
  return dots;
}

/** A bar a step, a hair's breadth apart where there is room. */
export function bars(base: Values, top: Values, model: PlotModel, place: Place): Cells {
  const gap = stepPlace(model, 0, place)[1] > 3 ? 1 : 0;
  const from = heights(base, model.axis, place);
  const to = heights(top, model.axis, place);
  const cells: number[] = [];
  for (let i = 0; i < to.length; i++) {
    if (Number.isNaN(to[i]) || to[i] === from[i]) continue;
    const [x, step] = stepPlace(model, i, place);
    cells.push(x, to[i], step - gap, from[i] - to[i]);
  }
  return cells;
}

const horizonBands = 3;

/**
 * A strip a line, the first at the bottom, each cut into three bands that are laid over one another: the cells of the
 * lowest band, the
 * middle and the highest (Heer, Kong & Agrawala, CHI 2009). All strips have the axis' scale.
 */
export function horizon(values: Values, row: number, rows: number, model: PlotModel, place: Place): readonly Cells[] {
  const whole = place.height / rows;
  const height = whole - 3;
  const bottom = place.y + place.height - row * whole;
  const perBand = (model.axis.max - Math.max(0, model.axis.min)) / horizonBands;
  return Array.from({ length: horizonBands }, (_, band) => {
    const cells: number[] = [];
    values.forEach((v, i) => {
      if (v === null) return;
      const filled = Math.max(0, Math.min(1, (v - band * perBand) / perBand)) * height;
      const [x, step] = stepPlace(model, i, place);
      if (filled > 0) cells.push(x, bottom - filled, step + 0.3, filled);
    });
    return cells;
  });
}

export const heatLevels = 7;

/**
 * A row of cells a line, the first at the bottom: the cells of each level of strength, 0 for none. A level is the
 * value's share of the
 * highest one, by its square root, so that what is rare is still seen.
 */
export function heat(lines: readonly Values[], model: PlotModel, place: Place): readonly Cells[] {
  let most = 0;
  for (const line of lines) for (const v of line) if (v !== null && v > most) most = v;
  const levels: number[][] = Array.from({ length: heatLevels }, () => []);
  if (most === 0) return levels;
  const row = place.height / lines.length;
  lines.forEach((line, k) => {
    const y = place.y + place.height - (k + 1) * row;
    line.forEach((v, i) => {
      if (v === null || v <= 0) return;
      const level = Math.min(heatLevels - 1, Math.floor(Math.sqrt(v / most) * heatLevels));
      const [x, step] = stepPlace(model, i, place);
      (levels[level] as number[]).push(x, y, step + 0.3, row - 0.5);
    });
  });
  return levels;
}
