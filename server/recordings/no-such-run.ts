import { Problem } from "../http/problem.ts";

export const noSuchRecording = (which: number | string): Problem =>
  new Problem(404, "no-such-recording", `There is no recording ${which}; it may have been removed meanwhile.`);

export const noSuchRun = (run: number): Problem =>
  new Problem(404, "no-such-run", `This recording has no run ${run}; it may have been removed meanwhile.`);
