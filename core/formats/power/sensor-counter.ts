/**
 * Which counter a sensor's reading is, by the unit that the device writes beside it, and what it is multiplied with.
 * Undefined for what measures nothing that is kept.
 */
export function sensorCounter(unit: string): { readonly counter: string; readonly factor: number } | undefined {
  switch (unit.trim().toLowerCase()) {
    case "degrees c":
    case "cel":
      return { counter: "hw.temperature", factor: 1 };
    case "degrees f":
      return undefined; // a scale, not a factor; no device of ours was seen to use it
    case "rpm":
    case "{rev}/min":
      return { counter: "hw.fan.speed", factor: 1 };
    case "volts":
    case "v":
      return { counter: "hw.voltage", factor: 1 };
    case "amps":
    case "a":
      return { counter: "hw.current", factor: 1 };
    case "watts":
    case "w":
      return { counter: "hw.power", factor: 1 };
    case "hz":
      return { counter: "hw.frequency", factor: 1 };
    default:
      return undefined;
  }
}
