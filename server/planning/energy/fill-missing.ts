import type { EnergySteps } from "../../../core/energy/energy-steps.ts";
import { usualHours } from "../../../core/energy/expected.ts";
import type { Metered } from "../../../core/energy/meters.ts";
import { zoneOffsets } from "../../../core/time/zone-offsets.ts";
import type { Store } from "../../store/store.ts";
import { bestOf, type Measured } from "./measured.ts";
import { readEnergy } from "./read-energy.ts";

const hourMs = 3_600_000;
/** As far back as what is usual looks. */
export const pastMs = 56 * 24 * hourMs;

/** What is usual of the parts of stretches that are not known, Wh a stretch; of none after `untilMs`. */
export async function fillMissing(
  store: Store,
  things: readonly { readonly metered: Metered; readonly measured: Measured }[],
  edgesMs: Float64Array,
  { zone, untilMs }: { readonly zone: string; readonly untilMs: number },
  signal?: AbortSignal,
): Promise<readonly Float64Array[]> {
  const from = Math.floor((edgesMs[0] as number) / hourMs) * hourMs;
  const to = Math.ceil((edgesMs.at(-1) as number) / hourMs) * hourMs;
  const past = hourMarks(from - pastMs, to);
  const wanted = hourMarks(from, to);
  const read = await readEnergy(
    store,
    things.flatMap(({ metered }) => metered.meters),
    past,
    signal,
  );
  return things.map(({ metered, measured }) => {
    const usual = usualHours(bestOf(metered.meters, read, past).steps, wanted, zoneOffsets(zone));
    return missingOf(measured.steps, usual, untilMs);
  });
}

function missingOf({ edgesMs, knownMs }: EnergySteps, usual: EnergySteps, untilMs: number): Float64Array {
  const first = usual.edgesMs[0] as number;
  return knownMs.map((known, k) => {
    const begin = edgesMs[k] as number;
    const missing = Math.min(edgesMs[k + 1] as number, untilMs) - begin - known;
    // A reading at each end leaves less than a second: nothing is missing.
    return missing <= 1000 ? 0 : ((usual.wattHours[Math.floor((begin - first) / hourMs)] ?? 0) * missing) / hourMs;
  });
}

export function hourMarks(fromMs: number, toMs: number): Float64Array {
  return Float64Array.from(
    { length: Math.max(1, Math.round((toMs - fromMs) / hourMs)) + 1 },
    (_, h) => fromMs + h * hourMs,
  );
}
