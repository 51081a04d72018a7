import { counterInfo } from "../../counters/catalogue.ts";
import type { PickedNumber, PickedReading } from "./picked-numbers.ts";
import { readPicked } from "./picked-numbers.ts";
import { snmpModules } from "./snmp-modules.ts";
import type { SnmpTable } from "./snmp-table.ts";

/** What a device's answers say: by the modules taken, then the numbers that were picked. */
export function readSnmp(table: SnmpTable, modules: readonly string[], picked: readonly PickedNumber[]): readonly PickedReading[] {
  const readings: PickedReading[] = [];
  for (const module of snmpModules) {
    if (!modules.includes(module.name)) continue;
    module.read(table, (counter, tags, value, falls) => {
      const { unit, kind } = counterInfo(counter);
      readings.push({ counter, tags, value, unit, kind, ...(falls !== undefined && { falls }) });
    });
  }
  return [...readings, ...readPicked(table, picked)];
}
