import type { PlanningSettings } from "../../../core/api/energy.ts";
import type { HostSpeed } from "../../../core/api/fit.ts";
import { relativeSpeeds } from "../../../core/fit/relative-speeds.ts";
import { speedCounter } from "../../sources/speed-wishes.ts";
import type { Store } from "../../store/store.ts";

/** A collector's clock may be ahead of the server's. */
const aheadMs = 600_000;

/** How fast hosts are beside each other: as a person says, else as their collectors have measured, else alike. */
export async function hostSpeeds(
  store: Store,
  { speeds }: Pick<PlanningSettings, "speeds">,
): Promise<(machine: string) => HostSpeed> {
  const measured = new Map<string, number>();
  const series = store.series.ofCounter(speedCounter);
  // A machine is measured once: all there is of it is read, for what answered with it goes on without it.
  const columns = await store.read(
    series.map(({ id }) => id),
    0,
    store.nowMs() + aheadMs,
  );
  series.forEach(({ tags }, i) => {
    const last = columns[i]?.value.at(-1);
    if (last !== undefined && last > 0 && tags["machine"] !== undefined) measured.set(tags["machine"], last);
  });
  const relative = relativeSpeeds(measured);
  return (machine) => {
    const said = speeds[machine];
    if (said !== undefined) return { factor: said, by: "a person" };
    const found = relative.get(machine);
    return found === undefined ? { factor: 1, by: "nothing" } : { factor: found, by: "its collector" };
  };
}
