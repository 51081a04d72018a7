/** What is kept of the samples within a step. */
export type OfEvery =
  | "mean"
  | "min"
  | "max"
  | "sum"
  | "last"
  | "first"
  | "count"
  | "p50"
  | "p90"
  | "p95"
  | "p99"
  | "deviation";
