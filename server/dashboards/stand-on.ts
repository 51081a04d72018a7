import { isOnDashboard } from "../../core/dashboards/reading-on.ts";
import type { ReadingDocument } from "../../core/reading/document.ts";
import type { Database } from "../db/pool.ts";
import { dashboardOf } from "./dashboard-rows.ts";

/** Which of some readings stand on one of these dashboards as they are now. */
export async function standOn(
  database: Database,
  ids: readonly number[],
  readings: readonly ReadingDocument[],
): Promise<readonly boolean[]> {
  const found = await Promise.all(ids.map((id) => dashboardOf(database, id)));
  return readings.map((reading) => found.some((one) => one !== undefined && isOnDashboard(one.document, reading)));
}
