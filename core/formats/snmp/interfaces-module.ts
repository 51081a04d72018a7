import { emitNumber, type SnmpModule } from "./snmp-module.ts";
import { namesOf, type SnmpTable } from "./snmp-table.ts";

const ifEntry = "1.3.6.1.2.1.2.2.1";
const ifXEntry = "1.3.6.1.2.1.31.1.1.1";
const descr = `${ifEntry}.2`;
const type = `${ifEntry}.3`;
const speed = `${ifEntry}.5`;
const adminStatus = `${ifEntry}.7`;
const operStatus = `${ifEntry}.8`;
const name = `${ifXEntry}.1`;
const highSpeed = `${ifXEntry}.15`;
const alias = `${ifXEntry}.18`;
const connectorPresent = `${ifXEntry}.17`;
/** IANAifType-MIB: what carries only what others carry, or nothing. */
const softwareLoopback = 24;
// propVirtual, tunnel, l2vlan, l3ipvlan, ieee8023adLag, bridge
const carriedByOthers: ReadonlySet<number> = new Set([53, 131, 135, 136, 161, 209]);

/** Counter, direction, its column in 64 bits where there is one, in 32 bits. */
const counted: readonly (readonly [
  counter: string,
  direction: "receive" | "transmit",
  wide: string | undefined,
  narrow: string,
])[] = [
  ["system.network.io", "receive", `${ifXEntry}.6`, `${ifEntry}.10`],
  ["system.network.io", "transmit", `${ifXEntry}.10`, `${ifEntry}.16`],
  ["system.network.packet.count", "receive", `${ifXEntry}.7`, `${ifEntry}.11`],
  ["system.network.packet.count", "transmit", `${ifXEntry}.11`, `${ifEntry}.17`],
  ["system.network.packet.dropped", "receive", undefined, `${ifEntry}.13`],
  ["system.network.packet.dropped", "transmit", undefined, `${ifEntry}.19`],
  ["system.network.errors", "receive", undefined, `${ifEntry}.14`],
  ["system.network.errors", "transmit", undefined, `${ifEntry}.20`],
];

/**
 * Interfaces (RFC 2863). Rows are told apart by their names, not by their indices, which a device may give out anew;
 * 64-bit counters are
 * taken where the device has them (§3.1.6: 32 bits of octets last 34 s at 1 Gbit/s). What interfaces without a device
 * of their own carry is a counter apart: it is
 * counted where it goes in and out.
 */
export const interfacesModule: SnmpModule = {
  name: "interfaces",
  words: "network interfaces",
  source: "RFC 2863",
  columns: [
    [descr, type, speed, adminStatus, operStatus],
    [name, highSpeed, alias, connectorPresent],
    counted.flatMap(([, , wide]) => (wide ? [wide] : [])),
    counted.map(([, , , narrow]) => narrow),
  ],
  read(table, emit) {
    const indices = table.rows(descr).length > 0 ? table.rows(descr) : table.rows(name);
    const names = namesOf(table, indices, name, descr);
    const anyDevice = indices.some(
      (index) => table.number(type, index) !== softwareLoopback && !isCarried(table, index),
    );
    for (const index of indices) {
      if (table.number(type, index) === softwareLoopback) continue;
      const tags = { interface: names.get(index) as string };
      const isVirtual = anyDevice && isCarried(table, index);
      const bits = bitsPerSecond(table, index);
      emitNumber(
        emit,
        "hw.network.up",
        tags,
        table.number(operStatus, index) === 1 ? 1 : table.has(operStatus) ? 0 : Number.NaN,
      );
      if (bits > 0) emit("hw.network.bandwidth.limit", tags, bits / 8);
      for (const [counter, direction, wide, narrow] of counted) {
        const column = wide !== undefined && Number.isFinite(table.number(wide, index)) ? wide : narrow;
        if (!isVirtual)
          emitNumber(emit, counter, { ...tags, direction }, table.number(column, index), table.falls(column, index));
        else if (counter === "system.network.io")
          emitNumber(
            emit,
            "system.network.virtual.io",
            { ...tags, direction },
            table.number(column, index),
            table.falls(column, index),
          );
      }
    }
  },
};

/**
 * Bridges, tunnels, VLANs and bonds, by their type or because the device says that there is no connector
 * (ifConnectorPresent false, RFC 2863 §6).
 */
function isCarried(table: SnmpTable, index: string): boolean {
  return carriedByOthers.has(table.number(type, index)) || table.number(connectorPresent, index) === 2;
}

/** RFC 2863 §3.1.7: ifHighSpeed is in millions of bits a second, for what ifSpeed cannot hold. */
function bitsPerSecond(table: SnmpTable, index: string): number {
  const millions = table.number(highSpeed, index);
  return millions > 0 ? millions * 1e6 : table.number(speed, index);
}
