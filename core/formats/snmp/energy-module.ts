import { emitNumber, type SnmpModule } from "./snmp-module.ts";
import { namesOf } from "./snmp-table.ts";

/** EoPowerEntry of ENERGY-OBJECT-MIB (RFC 7460), by entPhysicalIndex. */
const power = "1.3.6.1.2.1.229.1.2.1.1";
const nameplate = "1.3.6.1.2.1.229.1.2.1.2";
const multiplier = "1.3.6.1.2.1.229.1.2.1.3";
/** ENTITY-MIB (RFC 6933). */
const entityDescr = "1.3.6.1.2.1.47.1.1.1.1.2";
const entityClass = "1.3.6.1.2.1.47.1.1.1.1.5";
const entityName = "1.3.6.1.2.1.47.1.1.1.1.7";
/** PhysicalClass: chassis(3) and stack(11) are the device, everything else is one of its parts. */
const wholeClasses = new Set([3, 11]);
/** pethMainPseEntry of POWER-ETHERNET-MIB (RFC 3621), by the box in a stack: what its ports give to others. */
const ethernetLimit = "1.3.6.1.2.1.105.1.3.1.1.2";
const ethernetPower = "1.3.6.1.2.1.105.1.3.1.1.4";

/**
 * What outlets and whole devices draw (RFC 7460: a number times ten to its multiplier, in watts), and what a switch
 * gives over its ports (RFC 3621).
 */
export const energyModule: SnmpModule = {
  name: "energy",
  words: "what outlets, devices and powered ports draw",
  source: "RFC 7460, RFC 3621",
  columns: [
    [power, nameplate, multiplier],
    [entityDescr, entityClass, entityName],
    [ethernetLimit, ethernetPower],
  ],
  read(table, emit) {
    const indices = table.rows(power);
    const names = namesOf(table, indices, entityName, entityDescr);
    for (const index of indices) {
      const name = names.get(index) as string;
      const tags = wholeClasses.has(table.number(entityClass, index)) ? { sensor: name } : { outlet: name };
      const scale = 10 ** (table.number(multiplier, index) || 0);
      emitNumber(emit, "hw.power", tags, table.number(power, index) * scale);
      // The nameplate counts in the same units; 0 where nobody has written it down.
      if (table.number(nameplate, index) > 0)
        emitNumber(emit, "hw.power.limit", tags, table.number(nameplate, index) * scale);
    }
    const boxes = table.rows(ethernetPower);
    for (const box of boxes) {
      const outlet = boxes.length === 1 ? "powered ports" : `powered ports ${box}`;
      emitNumber(emit, "hw.power", { outlet }, table.number(ethernetPower, box));
      emitNumber(emit, "hw.power.limit", { outlet }, table.number(ethernetLimit, box));
    }
  },
};
