import type { Emit } from "../../counters/counter.ts";
import { emitMemory } from "../../counters/memory-states.ts";
import { emitNumber, type SnmpModule } from "./snmp-module.ts";
import { namesOf, type SnmpTable } from "./snmp-table.ts";

const host = "1.3.6.1.2.1.25";
const users = `${host}.1.5`;
const processes = `${host}.1.6`;
const storage = `${host}.2.3.1`;
const processorLoad = `${host}.3.3.1.2`;
const deviceDescr = `${host}.3.2.1.3`;
/** hrStorageTypes (RFC 2790 §3). */
const storageType = {
  other: `${host}.2.1.1`,
  ram: `${host}.2.1.2`,
  virtual: `${host}.2.1.3`,
  fixed: `${host}.2.1.4`,
  removable: `${host}.2.1.5`,
  network: `${host}.2.1.10`,
} as const;
const [type, descr, unit, size, used] = ["2", "3", "4", "5", "6"].map((column) => `${storage}.${column}`) as [
  string,
  string,
  string,
  string,
  string,
];

/** Host resources (RFC 2790): processors, memory, filesystems. */
export const hostModule: SnmpModule = {
  name: "host resources",
  words: "processors, memory and filesystems",
  source: "RFC 2790",
  columns: [[users], [processes], [type, descr, unit, size, used], [processorLoad], [deviceDescr]],
  read(table, emit) {
    emitNumber(emit, "system.process.count", { state: "all" }, table.number(processes));
    emitNumber(emit, "system.user.count", {}, table.number(users));
    for (const [i, index] of table.rows(processorLoad).entries())
      emitNumber(emit, "system.cpu.utilization", { cpu: String(i) }, table.number(processorLoad, index) / 100);
    readMemory(table, emit);
    const rows = table
      .rows(descr)
      .filter((index) => ([storageType.fixed, storageType.removable] as string[]).includes(table.text(type, index)));
    const names = namesOf(table, rows, descr);
    for (const index of rows) {
      const bytes = amounts(table, index);
      if (!(bytes.size > 0)) continue;
      const tags = { mountpoint: mountpointOf(names.get(index) as string) };
      emit("system.filesystem.limit", tags, bytes.size);
      emit("system.filesystem.usage", { ...tags, state: "used" }, bytes.used);
      emit("system.filesystem.usage", { ...tags, state: "free" }, Math.max(0, bytes.size - bytes.used));
    }
  },
};

/**
 * Agents of Linux count cache and buffers into what is used and tell them in rows of their own, shared memory too, and
 * newer ones what is available: used is what is not
 * available, as /proc/meminfo has it. Others tell used and free only.
 */
function readMemory(table: SnmpTable, emit: Emit): void {
  const rows = table.rows(descr);
  const ram = rows.find((index) => table.text(type, index) === storageType.ram);
  if (ram !== undefined) {
    const bytes = amounts(table, ram);
    const usedBy = (word: RegExp) =>
      rows
        .filter((index) => table.text(type, index) === storageType.other && word.test(table.text(descr, index)))
        .reduce((sum, index) => sum + amounts(table, index).used, 0);
    const [cached, buffers, shared] = [
      usedBy(/^cached memory/i),
      usedBy(/^memory buffers/i),
      usedBy(/^shared memory/i),
    ];
    const told = rows.find(
      (index) => table.text(type, index) === storageType.other && /^available memory/i.test(table.text(descr, index)),
    );
    const inner = cached + buffers <= bytes.used ? cached + buffers : 0;
    const free = bytes.size - bytes.used;
    if (bytes.size > 0) {
      emit("system.memory.limit", {}, bytes.size);
      if (inner > 0 || told !== undefined) {
        const available = told === undefined ? free + inner - Math.min(shared, cached) : amounts(table, told).size;
        emitMemory({ total: bytes.size, available: Math.min(available, bytes.size), free, buffers, shared }, emit);
      } else {
        emit("system.memory.usage", { state: "used" }, bytes.used);
        emit("system.memory.usage", { state: "free" }, free);
      }
    }
  }
  const swap = rows.find(
    (index) => table.text(type, index) === storageType.virtual && /swap/i.test(table.text(descr, index)),
  );
  if (swap === undefined) return;
  const bytes = amounts(table, swap);
  if (!(bytes.size > 0)) return;
  emit("system.paging.usage", { state: "used" }, bytes.used);
  emit("system.paging.usage", { state: "free" }, bytes.size - bytes.used);
}

/** Sizes are Integer32 by the module; on large disks agents let them run over into the sign. */
function amounts(table: SnmpTable, index: string): { readonly size: number; readonly used: number } {
  const bytes = table.number(unit, index);
  const whole = (column: string) => {
    const blocks = table.number(column, index);
    return (blocks < 0 ? blocks + 2 ** 32 : blocks) * bytes;
  };
  return { size: whole(size), used: whole(used) };
}

/** Windows' agents write "C:\ Label:x  Serial Number y". */
function mountpointOf(text: string): string {
  return /^[A-Z]:\\/.test(text) ? text.slice(0, 2) : text;
}
