/** How much was gathered in each of `counts.length` equal parts of a window. */
export interface DensityView {
  readonly from: number;
  readonly stepMs: number;
  readonly counts: readonly number[];
}
