import type { PlanningSettings } from "../../../core/api/energy.ts";
import type { HostSpeed } from "../../../core/api/fit.ts";
import { relativeSpeeds } from "../../../core/fit/relative-speeds.ts";
import { speedCounter } from "../../sources/speed-wishes.ts";
import type { Store } from "../../store/store.ts";

/** How fast hosts are beside each other: as a person says, else as their collectors have measured, else alike. */
export async function hostSpeeds(
  store: Store,
  { speeds }: Pick<PlanningSettings, "speeds">,
): Promise<(machine: string) => HostSpeed> {
  const measured = new Map<string, number>();
  for (const { id, tags } of store.series.ofCounter(speedCounter)) {
    const lastMs = store.lastTimeMs(id);
    if (lastMs === undefined || tags["machine"] === undefined) continue;
    const [column] = await store.read([id], lastMs, lastMs + 1);
    const last = column?.value.at(-1);
    if (last !== undefined && last > 0) measured.set(tags["machine"], last);
  }
  const relative = relativeSpeeds(measured);
  return (machine) => {
    const said = speeds[machine];
    if (said !== undefined) return { factor: said, by: "a person" };
    const found = relative.get(machine);
    return found === undefined ? { factor: 1, by: "nothing" } : { factor: found, by: "its collector" };
  };
}
