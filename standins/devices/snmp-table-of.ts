import { SnmpTable } from "../../core/formats/snmp/snmp-table.ts";
import { snmpModules } from "../../core/formats/snmp/snmp-modules.ts";
import { isBelow, snmpType } from "../../core/formats/snmp/var-bind.ts";
import type { AgentType, AgentVariable } from "./snmp-devices.ts";

const types: Readonly<Record<AgentType, number>> = {
  Integer: snmpType.integer,
  OctetString: snmpType.text,
  OID: snmpType.oid,
  Counter: snmpType.counter32,
  Gauge: snmpType.gauge32,
  TimeTicks: snmpType.timeTicks,
  Counter64: snmpType.counter64,
};
const columns = [...new Set(snmpModules.flatMap((module) => module.columns.flat()))];
const encoder = new TextEncoder();
const columnOf = new Map<string, string | undefined>();

/** A device's variables as a walk would have brought them: for its past, when nobody could ask. */
export function tableOf(variables: readonly AgentVariable[]): SnmpTable {
  const table = new SnmpTable();
  for (const { oid, type, value } of variables) {
    if (!columnOf.has(oid))
      columnOf.set(
        oid,
        columns.find((one) => isBelow(oid, one)),
      );
    const column = columnOf.get(oid);
    if (column !== undefined)
      table.set(column, oid.slice(column.length + 1), {
        oid,
        type: types[type],
        value: type === "OctetString" ? encoder.encode(value as string) : value,
      });
  }
  return table;
}
