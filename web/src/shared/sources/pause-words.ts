import type { Pause } from "../../../../core/sources/source.ts";
import { momentText } from "../../time/moments.ts";

/** "paused until 16:00 by Ines: new drives" */
export function pauseWords({ by, why, untilMs }: Pause, nowMs: number): string {
  return `paused until ${momentText(untilMs, nowMs)}${by && ` by ${by}`}${why && `: ${why}`}`;
}
