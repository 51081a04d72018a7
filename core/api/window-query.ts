/** The window that is asked for, ms; half-open. */
export interface WindowQuery {
  readonly from: number;
  readonly to: number;
}
