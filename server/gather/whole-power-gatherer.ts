import type { Reading } from "../../core/counters/reading.ts";
import { WholePower } from "../../core/energy/whole-power.ts";
import type { DeviceGatherer, Gathered } from "./device-gatherer.ts";

/** Adds to what a device says of its power what the machine draws as a whole. */
export class WholePowerGatherer implements DeviceGatherer {
  readonly #inner: DeviceGatherer;
  readonly #whole = new WholePower();

  constructor(inner: DeviceGatherer) {
    this.#inner = inner;
  }

  async gather(nowMs: number, only?: ReadonlySet<string>): Promise<Gathered> {
    const gathered = await this.#inner.gather(
      nowMs,
      only?.has("hw.host.power") ? new Set([...only, "hw.power"]) : only,
    );
    return { ...gathered, readings: [...gathered.readings, ...hostPower(this.#whole, gathered.readings)] };
  }

  close(): Promise<void> {
    return this.#inner.close();
  }
}

export function hostPower(whole: WholePower, readings: readonly Reading[]): readonly Reading[] {
  const power = whole.of(
    readings.flatMap(({ counter, tags, value }) =>
      counter === "hw.power" ? [{ sensor: tags["sensor"] ?? "", watts: value }] : [],
    ),
  );
  return power ? [{ counter: "hw.host.power", tags: { sensor: power.sensor }, value: power.watts }] : [];
}
