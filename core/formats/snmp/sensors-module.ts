import { emitNumber, type SnmpModule } from "./snmp-module.ts";
import { namesOf } from "./snmp-table.ts";

const sensor = "1.3.6.1.2.1.99.1.1.1";
const entityDescr = "1.3.6.1.2.1.47.1.1.1.1.2";
const entityName = "1.3.6.1.2.1.47.1.1.1.1.7";
const [type, scale, precision, value, status] = [1, 2, 3, 4, 5].map((n) => `${sensor}.${n}`) as [
  string,
  string,
  string,
  string,
  string,
];

/** EntitySensorDataType, of those that measure something. */
const counterOfType: Readonly<Record<number, string>> = {
  3: "hw.voltage",
  4: "hw.voltage",
  5: "hw.current",
  6: "hw.power",
  7: "hw.frequency",
  8: "hw.temperature",
  9: "hw.humidity",
  10: "hw.fan.speed",
};
const scaleOfUnits = 9; // EntitySensorDataScale: units(9), each step a factor of 1000

/** Sensors (RFC 3433): value × 1000^(scale − units) / 10^precision. Sensors that say they are not well are left out. */
export const sensorsModule: SnmpModule = {
  name: "sensors",
  words: "temperatures, fans, voltages, power",
  source: "RFC 3433",
  columns: [
    [type, scale, precision, value, status],
    [entityDescr, entityName],
  ],
  read(table, emit) {
    const indices = table.rows(value);
    const names = namesOf(table, indices, entityName, entityDescr);
    for (const index of indices) {
      const counter = counterOfType[table.number(type, index)];
      if (!counter || table.number(status, index) !== 1) continue;
      const exponent =
        3 * ((Number.isFinite(table.number(scale, index)) ? table.number(scale, index) : scaleOfUnits) - scaleOfUnits) -
        (table.number(precision, index) || 0);
      const scaled =
        exponent < 0 ? table.number(value, index) / 10 ** -exponent : table.number(value, index) * 10 ** exponent;
      emitNumber(
        emit,
        counter,
        { sensor: names.get(index) as string },
        counter === "hw.humidity" ? scaled / 100 : scaled,
      );
    }
  },
};
