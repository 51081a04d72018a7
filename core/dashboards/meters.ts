import { steadyFirst } from "./steady-first.ts";
import type { Severity } from "../rules/rule.ts";
import { axisFor } from "../units/axis.ts";
import { figures, scaleFor } from "../units/present.ts";
import { passedLimit, type TileLimit } from "./limits.ts";
import type { FigureColumn, ShownFigures } from "./shown-figures.ts";

/**
 * Where a scale ends: a number, or each row's own value of another column or sentence; left out: taken from the data.
 */
export type Bound = number | { readonly column: string };

/** How meters and dials look. Everything left out has its usual way. */
export interface MeterLook {
  /** Only this column or sentence is drawn; all that are no end of the scale where nothing is said. */
  readonly column?: string;
  readonly min?: Bound;
  readonly max?: Bound;
  readonly orientation?: "upright" | "lying";
  /** Before: above an upright meter, left of a lying one. */
  readonly names?: "before" | "after" | "none";
  readonly values?: "meniscus" | "before" | "after" | "none";
  readonly nameSize?: "small" | "plain" | "large";
  readonly valueSize?: "small" | "plain" | "large";
  readonly decimals?: number;
  /** In the place of the data's own, UCUM. */
  readonly unit?: string;
  /** By the limit that is passed, by how full it is, or always the same. */
  readonly fill?: "limit" | "value" | "plain";
  /** What stands where there is no value. */
  readonly none?: string;
  readonly order?: "given" | "highest" | "lowest" | "name";
}

export interface Meter {
  readonly key: string;
  readonly name: string;
  /** Null where there is no value. */
  readonly value: number | null;
  readonly text: string;
  readonly unit: string;
  readonly min: number;
  readonly max: number;
  /** Of the scale, 0 to 1; null where there is no value. */
  readonly share: number | null;
  /** The value lies outside the scale. */
  readonly beyond: boolean;
  readonly passed: Severity | null;
  readonly notches: readonly { readonly share: number; readonly severity: Severity; readonly text: string }[];
  readonly ticks: readonly { readonly share: number; readonly text: string }[];
}

export interface Meters {
  readonly meters: readonly Meter[];
  /** Which values these are: "last", "all rows, first 20 of 31". */
  readonly shown: string;
  /** How their scales were made, in words. */
  readonly scale: string;
  /** Why nothing is drawn, and what to do; null where it is. */
  readonly problem: string | null;
}

export const defaultMost = 20;
/** Who is ahead by so much of the scale has clearly passed. */
const clearShare = 0.05;
const noValue = "no value";

/**
 * Meters of figures: one for each row and column of numbers, columns that give a scale its ends left out. A scale that
 * is taken from the
 * data begins at 0, or below where values are, and ends at a round number at or above the greatest; a share in per cent
 * has 0 to 100. One
 * value alone gives no scale: then its ends are asked for. `before` are the keys as they stood: what is ordered by its
 * value keeps its place until it is clearly passed.
 */
export function metersOf(
  { columns, rows, shown }: ShownFigures,
  look: MeterLook = {},
  limits: readonly TileLimit[] = [],
  most: number = defaultMost,
  before: readonly string[] = [],
): Meters {
  const named = [look.min, look.max].flatMap((bound) => (typeof bound === "object" ? [bound.column] : []));
  const isDrawn = (name: string) => (look.column === undefined ? !named.includes(name) : name === look.column);
  const drawn = columns.flatMap((column, at) => (isDrawn(column.name) ? [{ column, at }] : []));
  const none = { meters: [], shown, scale: "" };
  const undrawable = whyUndrawable(columns, named, look, drawn.length);
  if (undrawable) return { ...none, problem: undrawable };

  const automatic = new Map(
    drawn.map(({ column }) => [
      column.name,
      automaticScale(
        column,
        columns.filter((other) => other.unit === column.unit && isDrawn(other.name)),
        look,
      ),
    ]),
  );
  if ([...automatic.values()].some((scale) => scale === undefined))
    return {
      ...none,
      problem: "One value alone has no scale: say where it ends, by a number or by another column or sentence.",
    };
  const boundAt = (bound: Bound | undefined) =>
    typeof bound === "object" ? columns.findIndex(({ name }) => name === bound.column) : -1;
  const [minAt, maxAt] = [boundAt(look.min), boundAt(look.max)];

  const made = rows.flatMap((row) =>
    drawn.map(({ column, at }): Meter => {
      const scale = automatic.get(column.name) as Scale;
      const min = minAt >= 0 ? (row.values[minAt] ?? Number.NaN) : scale.min;
      const max = maxAt >= 0 ? (row.values[maxAt] ?? Number.NaN) : scale.max;
      const name = drawn.length > 1 ? [row.name, column.name].filter(Boolean).join(" ") : row.name || column.name;
      const figure = { key: `${row.key} ${column.name}`, name, value: row.values[at] ?? null };
      return meterOf(figure, { min, max }, look.unit ?? column.unit, look, limits);
    }),
  );
  const ordered = inOrder(made, look.order ?? "given", before);
  const scale = scaleWords(look, [...automatic.values()] as Scale[], look.unit ?? drawn[0]?.column.unit ?? "1");
  const turned = made.find(({ min, max }) => min >= max);
  if (turned)
    return {
      ...none,
      scale,
      problem: `The scale of ${turned.name} has no length: it begins at ${figures(turned.min)} and ends at ${figures(turned.max)}.`,
    };
  return {
    meters: ordered.slice(0, most),
    shown: ordered.length > most ? `${shown}, first ${most} of ${ordered.length}` : shown,
    scale,
    problem: null,
  };
}

/** Why nothing of these columns can be drawn, and what there is; undefined where something can. */
function whyUndrawable(
  columns: readonly FigureColumn[],
  ends: readonly string[],
  { column }: MeterLook,
  drawn: number,
): string | undefined {
  const there = `there are ${columns.map(({ name }) => name).join(", ") || "none"}`;
  const absent = ends.find((name) => !columns.some((one) => one.name === name));
  if (absent !== undefined) return `There is no column or sentence "${absent}" for an end of the scale; ${there}.`;
  if (drawn > 0) return undefined;
  if (column !== undefined) return `There is no column or sentence "${column}" to draw; ${there}.`;
  return columns.length === 0
    ? "There are no numbers to draw."
    : "Every column gives an end of the scale: none is left to draw.";
}

interface Scale {
  readonly min: number;
  readonly max: number;
  readonly from: "fixed" | "share" | "data";
}

/** Undefined where the data gives none. */
function automaticScale(
  column: FigureColumn,
  alike: readonly FigureColumn[],
  { min, max }: MeterLook,
): Scale | undefined {
  const least = alike.reduce((a, b) => Math.min(a, b.least ?? a), Number.POSITIVE_INFINITY);
  const most = alike.reduce((a, b) => Math.max(a, b.most ?? a), Number.NEGATIVE_INFINITY);
  const bottom = typeof min === "number" ? min : Math.min(0, Number.isFinite(least) ? least : 0);
  if (typeof max === "number") return { min: bottom, max, from: "fixed" };
  if (typeof max === "object") return { min: bottom, max: Number.NaN, from: "data" };
  if (column.unit === "%" && !(most > 100)) return { min: bottom, max: 100, from: "share" };
  // nothing is drawn in it but its scale
  if (!Number.isFinite(most)) return { min: bottom, max: bottom + 1, from: "data" };
  if (least === most) return undefined;
  const axis = axisFor(column.unit, Math.min(bottom, least), Math.max(most, bottom));
  return { min: typeof min === "number" ? min : axis.min, max: axis.max, from: "data" };
}

function meterOf(
  { key, name, value }: { readonly key: string; readonly name: string; readonly value: number | null },
  { min, max }: { min: number; max: number },
  unit: string,
  look: MeterLook,
  limits: readonly TileLimit[],
): Meter {
  const length = max - min;
  const isKnown = value !== null && Number.isFinite(min) && Number.isFinite(max);
  const place = (at: number) => (at - min) / length;
  const scale = scaleFor(unit, Math.max(Math.abs(min), Math.abs(max)));
  const shown = (at: number, decimals?: number) =>
    decimals === undefined ? figures(at * scale.factor) : (at * scale.factor).toFixed(decimals);
  return {
    key,
    name,
    value,
    text:
      value === null ? (look.none ?? noValue) : Number.isFinite(length) ? shown(value, look.decimals) : figures(value),
    unit: value === null ? "" : scale.unit,
    min,
    max,
    share: isKnown ? Math.min(1, Math.max(0, place(value))) : null,
    beyond: isKnown && (value < min || value > max),
    passed: value === null ? null : passedLimit(limits, value),
    notches: limits.flatMap(({ at, severity }) =>
      place(at) >= 0 && place(at) <= 1 ? [{ share: place(at), severity, text: shown(at) }] : [],
    ),
    ticks: ticksOf(min, max, unit).map((at) => ({ share: place(at), text: shown(at) })),
  };
}

const leastTickShare = 0.12;

/** Round values inside a scale, at least its two ends. */
function ticksOf(min: number, max: number, unit: string): readonly number[] {
  if (!(max > min)) return [];
  const inside = axisFor(unit, min, max, max).ticks.filter((tick) => tick >= min && tick <= max);
  if (inside.length < 2) return [min, max];
  // A scale tells where it ends, unless a tick stands there or near.
  const last = inside.at(-1) as number;
  return (max - last) / (max - min) > leastTickShare ? [...inside, max] : inside;
}

function inOrder(
  meters: readonly Meter[],
  order: NonNullable<MeterLook["order"]>,
  before: readonly string[],
): readonly Meter[] {
  if (order === "given") return meters;
  if (order === "name") return [...meters].sort((a, b) => a.name.localeCompare(b.name, "en", { numeric: true }));
  const sign = order === "highest" ? 1 : -1;
  const known = ({ value }: Meter) => (value === null ? Number.NEGATIVE_INFINITY : sign * value);
  const sorted = [...meters].sort((a, b) => known(b) - known(a));
  return steadyFirst(sorted, before, (one, other) => known(one) > known(other) + clearShare * (other.max - other.min));
}

/** "0 to 100 %, as it is a share", "0 to each one's capacity". */
function scaleWords({ min, max }: MeterLook, scales: readonly Scale[], unit: string): string {
  const ends = scales[0] as Scale;
  const shown = scaleFor(unit, Math.max(Math.abs(ends.min), Number.isFinite(ends.max) ? Math.abs(ends.max) : 0));
  const one = (bound: Bound | undefined, at: number) =>
    typeof bound === "object" ? `each one's ${bound.column}` : figures(at * shown.factor);
  const span = `${one(min, ends.min)} to ${one(max, ends.max)}${typeof max === "object" || shown.unit === "" ? "" : ` ${shown.unit}`}`;
  if (scales.some((scale) => scale.max !== ends.max || scale.min !== ends.min) && max === undefined)
    return "scales by unit, from the data";
  if (typeof max === "object") return span;
  return ends.from === "fixed"
    ? `${span}, as it was set`
    : ends.from === "share"
      ? `${span}, as it is a share`
      : `${span}, from the data`;
}
