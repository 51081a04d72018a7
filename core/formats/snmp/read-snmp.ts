import { counterInfo } from "../../counters/catalogue.ts";
import type { PickedNumber, PickedReading } from "./picked-numbers.ts";
import { readPicked } from "./picked-numbers.ts";
import { snmpModules } from "./snmp-modules.ts";
import type { SnmpTable } from "./snmp-table.ts";

/**
 * What a device's answers say: by the modules taken, then the numbers that were picked; and what of that could not be
 * taken, by reason.
 */
export function readSnmp(
  table: SnmpTable,
  modules: readonly string[],
  picked: readonly PickedNumber[],
): { readonly readings: readonly PickedReading[]; readonly leftOut: ReadonlyMap<string, number> } {
  const readings: PickedReading[] = [];
  const found = readPicked(table, picked);
  const leftOut = new Map(found.leftOut);
  for (const module of snmpModules) {
    if (!modules.includes(module.name)) continue;
    const before = readings.length;
    module.read(table, (counter, tags, value, falls) => {
      const { unit, kind } = counterInfo(counter);
      readings.push({ counter, tags, value, unit, kind, ...(falls !== undefined && { falls }) });
    });
    // Where all are taken nobody has picked one: most devices lack some.
    if (readings.length === before && modules.length < snmpModules.length)
      leftOut.set(`the device has nothing of it, or its view hides it: ${module.words}`, 1);
  }
  return { readings: [...readings, ...found.readings], leftOut };
}
