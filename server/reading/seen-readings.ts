import type { Request } from "express";
import type { ReadingDocument } from "../../core/reading/document.ts";
import { seenReading, sightOf } from "../people/sight.ts";

/** Which readings stand on one of these dashboards. */
export type StandOn = (
  dashboards: readonly number[],
  readings: readonly ReadingDocument[],
) => Promise<readonly boolean[]>;

/**
 * Readings as the one who asks may have them: whole where nothing is held back or they stand on a dashboard that they
 * are held to, otherwise of their machines alone.
 */
export async function seenReadings(
  request: Request,
  documents: readonly ReadingDocument[],
  standOn: StandOn,
): Promise<readonly ReadingDocument[]> {
  const sight = sightOf(request);
  const whole = sight?.readsDashboards ? await standOn([...(sight.dashboards ?? [])], documents) : [];
  return documents.map((one, i) => (whole[i] ? one : seenReading(sight, one)));
}
