import type { Drawn } from "./drawings.ts";
import type { Axis } from "../units/axis.ts";
import type { Theme } from "./palette.ts";

export type Values = readonly (number | null)[];

export interface PlotLine {
  readonly key: string;
  readonly values: Values;
  /** Least and most within each step: drawn as a light band behind the line. */
  readonly lows?: Values | undefined;
  readonly highs?: Values | undefined;
  /** What is usual at each step: drawn as a band with its middle, behind everything. */
  readonly usual?: { readonly low: Values; readonly mid: Values; readonly high: Values } | undefined;
  readonly colour: string;
  /** Of the stroke, px. */
  readonly width: number;
  /** Drawn thick; where any line is raised the others are faint. */
  readonly raised: boolean;
  /** An earlier time beside the present one. */
  readonly dashed: boolean;
}

export interface PlotModel {
  readonly fromMs: number;
  readonly toMs: number;
  /** Start of the first value's step, and the steps' length. */
  readonly firstMs: number;
  readonly stepMs: number;
  /** The bounds of the steps, one more than there are, where they are not all of one length. */
  readonly edges?: readonly number[] | undefined;
  readonly axis: Axis;
  /** Moments below the plot, about so many at most, with their texts. */
  readonly ticks: (most: number) => readonly { readonly atMs: number; readonly text: string }[];
  readonly lines: readonly PlotLine[];
  readonly drawn: Drawn;
  readonly theme: Theme;
}

/** Where a plot lies on its canvas, px. */
export interface Place {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  /** What is left of the canvas to the right. */
  readonly edge: number;
}
