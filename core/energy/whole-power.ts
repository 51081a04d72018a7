/** A sensor of power and what it tells, in W. */
export interface PowerSensor {
  readonly sensor: string;
  readonly watts: number;
}

/**
 * Names of sensors that tell of the whole machine, those before that say it more plainly (names of controllers and of
 * Redfish's schemas; common practice, no source).
 */
const wholes: readonly RegExp[] = [
  /\b(total|whole)\b/i,
  /\bsys(tem)?[\s_]*(board[\s_]*)?(pwr|power)\b/i,
  /power control/i,
  /\b(pwr|power)[\s_]*(meter|consumption|usage|cons)\b/i,
  /\b(node|chassis|server|board)[\s_]*(level[\s_]*)?(pwr|power)\b/i,
  /environment ?metrics/i,
];
/** A part's power is not the machine's. */
const parts = /cpu|proc|mem|dimm|gpu|drive|disk|hdd|fan|psu|ps\d|suppl|pcie|domain/i;
const input = /(^|[\s_.-])(p?in|input|ac)([\s_.-]|\d|$)/i;
const output = /(^|[\s_.-])(p?out|output|dc)([\s_.-]|\d|$)/i;
const supply = /\b(psu?[\s_]*\d|power suppl)/i;

/**
 * Which sensors together are what a machine draws: its own whole, else the inputs of its supplies, else their outputs,
 * else its only sensor. Undefined where none can be.
 */
export function wholeOf(sensors: readonly PowerSensor[]): readonly string[] | undefined {
  for (const form of wholes) {
    const found = sensors.find(({ sensor, watts }) => form.test(sensor) && !parts.test(sensor) && watts > 0);
    if (found) return [found.sensor];
  }
  const inputs = sensors.filter(({ sensor }) => input.test(sensor));
  // of the machine itself, before those of its supplies
  const ownInputs = inputs.filter(({ sensor }) => !parts.test(sensor));
  for (const some of [
    ownInputs,
    inputs,
    sensors.filter(({ sensor }) => output.test(sensor)),
    sensors.filter(({ sensor }) => supply.test(sensor)),
  ]) {
    if (some.some(({ watts }) => watts > 0)) return some.map(({ sensor }) => sensor);
  }
  return sensors.length === 1 ? sensors.map(({ sensor }) => sensor) : undefined;
}

/**
 * What a machine draws, as `hw.host.power` with the sensor that it is: inputs, outputs and the whole are the same power
 * told three times, and are never added. Which it is, is
 * decided once, so that a sensor that is silent for a moment does not make another one the whole.
 */
export class WholePower {
  #chosen: readonly string[] | undefined;

  of(sensors: readonly PowerSensor[]): PowerSensor | undefined {
    this.#chosen ??= wholeOf(sensors);
    const chosen = this.#chosen?.map((name) => sensors.find(({ sensor }) => sensor === name));
    if (!chosen || chosen.length === 0 || chosen.includes(undefined)) return undefined;
    const its = chosen as readonly PowerSensor[];
    return {
      sensor: its.length === 1 ? (its[0] as PowerSensor).sensor : its.map(({ sensor }) => sensor).join(" + "),
      watts: its.reduce((sum, { watts }) => sum + watts, 0),
    };
  }
}
