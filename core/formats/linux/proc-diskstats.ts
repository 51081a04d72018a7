import type { Emit } from "../../counters/counter.ts";
import { eachLine, numberIn } from "./lines.ts";

/**
 * A sector of the block layer is 512 bytes whatever the device's own is (kernel,
 * Documentation/admin-guide/iostats.rst).
 */
const sectorBytes = 512;

/**
 * /proc/diskstats: fields as numbered in the kernel's Documentation/admin-guide/iostats.rst, after major, minor and
 * name.
 * `isDisk` says which devices are whole disks, so that a partition is not counted beside its disk.
 */
export function readProcDiskstats(text: string, emit: Emit, isDisk: (name: string) => boolean): void {
  eachLine(text, (fields) => {
    const device = fields[2];
    if (device === undefined || fields.length < 14 || !isDisk(device)) return;
    const field = (number: number) => numberIn(fields[number + 2]);
    if (field(1) === 0 && field(5) === 0) return; // never used: a loop device without a file, an empty card reader
    emit("system.disk.operations", { device, direction: "read" }, field(1));
    emit("system.disk.merged", { device, direction: "read" }, field(2));
    emit("system.disk.io", { device, direction: "read" }, field(3) * sectorBytes);
    emit("system.disk.operation_time", { device, direction: "read" }, field(4) / 1000);
    emit("system.disk.operations", { device, direction: "write" }, field(5));
    emit("system.disk.merged", { device, direction: "write" }, field(6));
    emit("system.disk.io", { device, direction: "write" }, field(7) * sectorBytes);
    emit("system.disk.operation_time", { device, direction: "write" }, field(8) / 1000);
    emit("system.disk.pending_operations", { device }, field(9));
    emit("system.disk.io_time", { device }, field(10) / 1000);
    emit("system.disk.weighted_io_time", { device }, field(11) / 1000);
  });
}
