import type { FitFound, FitProblem } from "../../../core/fit/fit-problem.ts";
import { searchFit } from "../../../core/fit/search.ts";
import { workKind } from "../../work/work-kind.ts";

/** Places in the shared numbers by which a search is watched and stopped. */
export const watched = { stop: 0, progress: 1, bound: 2, on: 3, length: 4 } as const;

export interface FitTask {
  readonly problem: FitProblem;
  /** Shared by who asks and who searches: see `watched`. Progress is in thousandths. */
  readonly shared: Int32Array;
  readonly mostMs: number;
}

export const searchFitKind = workKind<FitTask, FitFound>("search fit");

/** Searches until it knows, is stopped, or its time is over. */
export function searchFitWork({ problem, shared, mostMs }: FitTask): FitFound {
  const end = performance.now() + mostMs;
  return searchFit(problem, {
    isOver: () => Atomics.load(shared, watched.stop) !== 0 || performance.now() > end,
    progress: (share) => Atomics.store(shared, watched.progress, Math.round(share * 1000)),
    found: ({ on }, bound) => {
      Atomics.store(shared, watched.bound, bound);
      Atomics.store(shared, watched.on, on);
    },
  });
}
