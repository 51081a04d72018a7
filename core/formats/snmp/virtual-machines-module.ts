import { emitNumber, type SnmpModule } from "./snmp-module.ts";
import { namesOf } from "./snmp-table.ts";

// Numbers from memory of RFC 7666 §6: vmTable is { vmObjects 4 }, vmStorageTable 7, vmNetworkTable 8.
const objects = "1.3.6.1.2.1.236.1";
const vm = (n: number) => `${objects}.4.1.${n}`;
const disk = (n: number) => `${objects}.7.1.${n}`;
const network = (n: number) => `${objects}.8.1.${n}`;
const ifIn = ["1.3.6.1.2.1.31.1.1.1.6", "1.3.6.1.2.1.2.2.1.10"] as const;
const ifOut = ["1.3.6.1.2.1.31.1.1.1.10", "1.3.6.1.2.1.2.2.1.16"] as const;
const running = 4; // VirtualMachineOperState: running(4)

/** Guests of a hypervisor (RFC 7666). What the host's side of an interface sends is what its guest receives. */
export const virtualMachinesModule: SnmpModule = {
  name: "virtual machines",
  words: "guests of a hypervisor",
  source: "RFC 7666",
  columns: [
    [vm(2), vm(6), vm(9), vm(12), vm(13), vm(17)],
    [disk(5), disk(13), disk(14), disk(15), disk(16)],
    [network(2)],
    [ifIn[0], ifOut[0]],
    [ifIn[1], ifOut[1]],
  ],
  read(table, emit) {
    const guests = table.rows(vm(2));
    const names = namesOf(table, guests, vm(2));
    for (const index of guests) {
      const tags = { guest: names.get(index) as string };
      const state = table.number(vm(6), index);
      if (Number.isFinite(state)) emit("guest.state.running", tags, state === running ? 1 : 0);
      emitNumber(emit, "guest.cpu.count", tags, table.number(vm(9), index));
      emitNumber(emit, "guest.memory.limit", tags, table.number(vm(13), index) * table.number(vm(12), index));
      emitNumber(emit, "guest.cpu.time", tags, table.number(vm(17), index) / 1e6);
    }
    for (const index of table.rows(disk(15))) {
      const [guest, row] = index.split(".");
      const tags = {
        guest: names.get(guest as string) ?? (guest as string),
        device: table.text(disk(5), index) || (row as string),
      };
      emitNumber(emit, "guest.disk.operations", { ...tags, direction: "read" }, table.number(disk(13), index));
      emitNumber(emit, "guest.disk.operations", { ...tags, direction: "write" }, table.number(disk(14), index));
      emitNumber(emit, "guest.disk.io", { ...tags, direction: "read" }, table.number(disk(15), index));
      emitNumber(emit, "guest.disk.io", { ...tags, direction: "write" }, table.number(disk(16), index));
    }
    for (const index of table.rows(network(2))) {
      const [guest, row] = index.split(".");
      const tags = { guest: names.get(guest as string) ?? (guest as string), interface: row as string };
      const ifIndex = String(table.number(network(2), index));
      const of = (columns: readonly string[]) =>
        columns.map((column) => table.number(column, ifIndex)).find(Number.isFinite) ?? Number.NaN;
      emitNumber(emit, "guest.network.io", { ...tags, direction: "receive" }, of(ifOut));
      emitNumber(emit, "guest.network.io", { ...tags, direction: "transmit" }, of(ifIn));
    }
  },
};
