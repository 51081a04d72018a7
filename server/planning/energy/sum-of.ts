import { emptySteps } from "../../../core/energy/energy-steps.ts";
import type { Used } from "./used.ts";

/** Several things added up; what is known of them is the mean share of each. */
export function sumOf(
  of: string,
  members: readonly Used[],
  edgesMs: Float64Array,
): Used & { readonly members: readonly Used[] } {
  const steps = emptySteps(edgesMs);
  const filled = new Float64Array(steps.wattHours.length);
  for (const { measured, filled: own } of members)
    for (let k = 0; k < filled.length; k++) {
      steps.wattHours[k] = (steps.wattHours[k] as number) + (measured.steps.wattHours[k] as number);
      steps.knownMs[k] = (steps.knownMs[k] as number) + (measured.steps.knownMs[k] as number) / members.length;
      filled[k] = (filled[k] as number) + (own[k] as number);
    }
  const names = members.map((one) => one.of);
  return {
    of,
    machine: names[0] ?? "",
    members,
    measured: {
      steps,
      method: `the sum of ${names.join(", ")}`,
      isPart: members.length > 0 && members.every(({ measured }) => measured.isPart),
      compared: null,
    },
    estimated: members.some(({ estimated }) => estimated),
    feedsOthers: members.length > 0 && members.every(({ feedsOthers }) => feedsOthers),
    filled,
  };
}
