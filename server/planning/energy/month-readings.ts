import type { Reading } from "../../../core/counters/reading.ts";
import type { Database } from "../../db/pool.ts";
import type { Store } from "../../store/store.ts";
import { readPlanningSettings, readTariffs } from "../planning-rows.ts";
import { meteredMachines } from "./metered-things.ts";
import { monthsOf } from "./months.ts";

/** What the month of each tariff costs, as counters: rules warn by them as by any other. */
export async function monthReadings({
  store,
  database,
}: {
  readonly store: Store;
  readonly database: Database;
}): Promise<readonly Reading[]> {
  const tariffs = await readTariffs(database);
  if (tariffs.length === 0) return [];
  const machines = meteredMachines(store, await readPlanningSettings(database));
  const months = await monthsOf({ store, tariffs }, machines);
  return months.flatMap(({ tariff, currency, soFar, expected, budget }): readonly Reading[] => {
    const tags = { tariff };
    const unit = `{${currency}}`;
    return [
      { counter: "nubrel.month.cost", tags, value: soFar.cost, unit },
      { counter: "nubrel.month.expected_cost", tags, value: expected.cost, unit },
      ...(budget === null ? [] : [{ counter: "nubrel.month.budget_share", tags, value: expected.cost / budget }]),
    ];
  });
}
