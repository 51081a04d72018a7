import { route } from "./route.ts";
import type { WindowQuery } from "./window-query.ts";
import type { LinesOf, Nothing } from "./route.ts";
import type { ReadingAnswer, ReadingDocument } from "../reading/document.ts";

/** How much was gathered in each of `counts.length` equal parts of a window. */
export interface DensityView {
  readonly from: number;
  readonly stepMs: number;
  readonly counts: readonly number[];
}

/** The answer to one of several readings, by its place among them, or why there is none. */
export interface ReadingLine {
  readonly index: number;
  readonly answer?: ReadingAnswer;
  readonly problem?: { readonly status: number };
}

/** Answered line by line of the document, as one JSON value. */
export const askReading = route("POST", "/readings")<ReadingDocument, ReadingAnswer>();
export const askReadings = route("POST", "/readings/several")<
  { readonly readings: readonly ReadingDocument[] },
  LinesOf<ReadingLine>
>();
export const getDensity = route("GET", "/density")<Nothing, DensityView, WindowQuery & { readonly parts?: number }>();
