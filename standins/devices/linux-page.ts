import { between, Growth, type Term } from "../world/growth.ts";

/** What a Linux machine of the sample world does; its collector's page is made of it. */
export interface LinuxHabits {
  readonly cores: number;
  readonly memoryBytes: number;
  /** Processors busy. */
  readonly busy: readonly Term[];
  readonly usedShare: (second: number) => number;
  readonly disks: readonly {
    readonly device: string;
    readonly read: readonly Term[];
    readonly written: readonly Term[];
    readonly bytesPerSecond: number;
  }[];
  readonly network: { readonly interface: string; readonly received: readonly Term[]; readonly sent: readonly Term[] };
  readonly filesystems: readonly {
    readonly device: string;
    readonly mountpoint: string;
    readonly sizeBytes: number;
    readonly usedBytes: (second: number) => number;
  }[];
  readonly temperature: (second: number) => number;
  /** The processes that use most. */
  readonly processes: readonly {
    readonly name: string;
    readonly pid: number;
    /** Processors busy. */
    readonly busy: readonly Term[];
    readonly memoryBytes: (second: number) => number;
  }[];
}

/** A page as our own collector sends it, of a machine at a moment; `stamp` adds the time to each line. */
export class LinuxPage {
  readonly #habits: LinuxHabits;
  readonly #bootOf: (second: number) => number;
  readonly #busy: readonly Growth[];
  readonly #disks: readonly {
    readonly device: string;
    readonly read: Growth;
    readonly written: Growth;
    readonly bytesPerSecond: number;
  }[];
  readonly #processes: readonly {
    readonly tags: Readonly<Record<string, string>>;
    readonly cpu: Growth;
    readonly memoryBytes: (second: number) => number;
  }[];
  readonly #received: Growth;
  readonly #sent: Growth;

  constructor(seed: number, habits: LinuxHabits, bootOf: (second: number) => number) {
    this.#habits = habits;
    this.#bootOf = bootOf;
    this.#busy = Array.from(
      { length: habits.cores },
      (_, core) =>
        new Growth(
          seed + core,
          habits.busy.map(
            ([amount, shape]) =>
              [(100 * amount * (0.85 + (0.3 * ((core * 7) % 4)) / 3)) / habits.cores, shape] as const,
          ),
        ),
    );
    this.#disks = habits.disks.map(({ device, read, written, bytesPerSecond }, i) => ({
      device,
      bytesPerSecond,
      read: new Growth(seed + 20 + i, read),
      written: new Growth(seed + 40 + i, written),
    }));
    this.#processes = habits.processes.map(({ name, pid, busy, memoryBytes }, i) => ({
      tags: { process: name, pid: String(pid) },
      cpu: new Growth(
        seed + 80 + i,
        busy.map(([amount, shape]) => [100 * amount, shape] as const),
      ),
      memoryBytes,
    }));
    this.#received = new Growth(seed + 60, habits.network.received);
    this.#sent = new Growth(seed + 61, habits.network.sent);
  }

  // biome-ignore lint/complexity/noExcessiveLinesPerFunction: one table of a device, row by row
  lines(second: number): string[] {
    const { cores, memoryBytes, usedShare, network, filesystems, temperature } = this.#habits;
    const boot = this.#bootOf(second);
    const up = second - boot;
    const lines: string[] = [];
    const emit = (name: string, tags: Readonly<Record<string, string>>, value: number) =>
      lines.push(`${name}${tagsText(tags)} ${Number(value.toFixed(6))}`);
    const modes = { user: 0.66, system: 0.24, softirq: 0.06, iowait: 0.04 } as const;
    const ticks = this.#busy.map((core) => core.at(second, boot));
    const total = ticks.reduce((sum, n) => sum + n, 0);
    for (const [mode, share] of Object.entries(modes))
      emit("system_cpu_time", { mode }, Math.floor(total * share) / 100);
    emit("system_cpu_time", { mode: "idle" }, Math.max(0, Math.floor(up * 100 * cores - total) / 100));
    ticks.forEach((n, core) => {
      emit("system_cpu_core_time", { cpu: String(core), mode: "user" }, Math.floor(n * 0.7) / 100);
      emit("system_cpu_core_time", { cpu: String(core), mode: "system" }, Math.floor(n * 0.3) / 100);
      emit("system_cpu_core_time", { cpu: String(core), mode: "idle" }, Math.max(0, Math.floor(up * 100 - n) / 100));
    });
    emit("system_cpu_logical_count", {}, cores);
    const rate = this.#busy.reduce((sum, core) => sum + core.rate(second), 0) / 100;
    for (const [over, factor] of [
      ["1m", 1.15],
      ["5m", 1.08],
      ["15m", 1.02],
    ] as const)
      emit("system_cpu_load_average", { over }, Math.round(rate * factor * 100) / 100);
    emit("system_uptime", {}, up);
    const used = Math.floor(memoryBytes * usedShare(second));
    const cached = Math.min(memoryBytes - used, Math.floor(memoryBytes * between(0.28, 0.36, 90, second, 9000)));
    emit("system_memory_limit", {}, memoryBytes);
    for (const [state, value] of [
      ["used", used],
      ["cached", cached],
      ["buffers", Math.floor((memoryBytes - used - cached) * 0.1)],
    ] as const)
      emit("system_memory_usage", { state }, value);
    emit(
      "system_memory_usage",
      { state: "free" },
      memoryBytes - used - cached - Math.floor((memoryBytes - used - cached) * 0.1),
    );
    emit("system_memory_linux_available", {}, memoryBytes - used);
    for (const { device, read, written, bytesPerSecond } of this.#disks) {
      const [r, w] = [read.at(second, boot), written.at(second, boot)];
      emit("system_disk_io", { device, direction: "read" }, r);
      emit("system_disk_io", { device, direction: "write" }, w);
      emit("system_disk_operations", { device, direction: "read" }, Math.floor(r / 65_536));
      emit("system_disk_operations", { device, direction: "write" }, Math.floor(w / 49_152));
      emit("system_disk_operation_time", { device, direction: "read" }, Math.floor((r / bytesPerSecond) * 1300) / 1000);
      emit("system_disk_operation_time", { device, direction: "write" }, Math.floor((w / bytesPerSecond) * 900) / 1000);
      emit("system_disk_io_time", { device }, Math.floor(((r + w) / bytesPerSecond) * 1000) / 1000);
      emit("system_disk_weighted_io_time", { device }, Math.floor(((r + w) / bytesPerSecond) * 1700) / 1000);
    }
    const { interface: name } = network;
    for (const [direction, growth] of [
      ["receive", this.#received],
      ["transmit", this.#sent],
    ] as const) {
      const bytes = growth.at(second, boot);
      emit("system_network_io", { interface: name, direction }, bytes);
      emit("system_network_packet_count", { interface: name, direction }, Math.floor(bytes / 930));
      emit("system_network_errors", { interface: name, direction }, 0);
    }
    for (const { device, mountpoint, sizeBytes, usedBytes } of filesystems) {
      const tags = { device, mountpoint, type: "ext4" };
      const usedNow = Math.floor(usedBytes(second));
      emit("system_filesystem_limit", tags, sizeBytes);
      emit("system_filesystem_usage", { ...tags, state: "used" }, usedNow);
      emit("system_filesystem_usage", { ...tags, state: "free" }, sizeBytes - usedNow);
    }
    for (const { tags, cpu, memoryBytes: taken } of this.#processes) {
      const spent = cpu.at(second, boot);
      emit("process_cpu_time", { ...tags, mode: "user" }, Math.floor(spent * 0.7) / 100);
      emit("process_cpu_time", { ...tags, mode: "system" }, Math.floor(spent * 0.3) / 100);
      emit("process_memory_usage", tags, Math.floor(taken(second)));
    }
    // A gathering takes a collector some 40 ms.
    emit("nubrel_collector_cpu_time", {}, Math.floor((up / 15) * 4) / 100);
    emit("hw_temperature", { sensor: "processor" }, Math.round(temperature(second) * 10) / 10);
    return lines;
  }
}

export function tagsText(tags: Readonly<Record<string, string>>): string {
  const names = Object.keys(tags);
  return names.length === 0 ? "" : `{${names.map((name) => `${name}="${tags[name]}"`).join(",")}}`;
}
