import { Problem } from "../http/problem.ts";
import type { SourceRun } from "./source-run.ts";
import type { Sources } from "./sources.ts";

/** The source, where it is there. Throws Problem. */
export function thereSource(run: SourceRun | undefined): SourceRun {
  if (!run) throw new Problem(404, "no-such-source", "This source is not there; it may have been removed.");
  return run;
}

/** The source with this number. Throws Problem where there is none. */
export const foundSource = (sources: Sources, id: number): SourceRun => thereSource(sources.find(id));
