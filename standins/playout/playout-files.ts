import { always, Growth, pulses } from "../world/growth.ts";
import { wander } from "../world/noise.ts";
import type { World } from "../world/world.ts";

const cores = 4;
const memoryKib = 8 * 1024 * 1024;
const ticks = 100;

const programs = [
  { pid: 1, name: "init", share: 0.001, mib: 12 },
  { pid: 412, name: "playout", share: 0.22, mib: 890 },
  { pid: 431, name: "mixer", share: 0.16, mib: 310 },
  { pid: 455, name: "cartwall", share: 0.03, mib: 420 },
  { pid: 502, name: "loudness", share: 0.11, mib: 95 },
  { pid: 517, name: "stream-feed", share: 0.14, mib: 140 },
  { pid: 530, name: "silence-watch", share: 0.02, mib: 38 },
  { pid: 611, name: "library", share: 0.05, mib: 760 },
  { pid: 640, name: "programme-log", share: 0.02, mib: 110 },
  { pid: 655, name: "clock-sync", share: 0.004, mib: 9 },
  { pid: 702, name: "web-desk", share: 0.04, mib: 260 },
  { pid: 733, name: "backup-agent", share: 0.006, mib: 55 },
] as const;
/** Where the kernel's counters of energy wrap, microjoules. */
const energyWraps = 262_143_328_850;
const encoder = { pid: 820, name: "encoder", mib: 640 } as const;

/**
 * The files below /proc and /sys of `playout`, the small computer that puts Kestrel Quay on air, at the moment that
 * `clock` tells.
 * Texts have the kernel's own form: the product reads them as it reads a real machine's.
 */
export class PlayoutFiles {
  readonly #clock: () => number;
  readonly #world: World;
  readonly #busy: readonly Growth[];
  readonly #read: Growth;
  readonly #written: Growth;
  readonly #received: Growth;
  readonly #sent: Growth;
  readonly #faults: Growth;
  /** Microjoules of the processor, and of the whole small computer. */
  readonly #package: Growth;
  readonly #platform: Growth;

  /** `clock` gives ms since 1970 UTC. */
  constructor(world: World, clock: () => number) {
    const { shows, encodes } = world;
    this.#clock = clock;
    this.#world = world;
    this.#busy = Array.from(
      { length: cores },
      (_, core) =>
        new Growth(30 + core, [
          [ticks * (0.1 - 0.012 * core), always],
          [ticks * (0.2 + 0.015 * core), shows],
          [ticks * (0.68 - 0.03 * core), encodes],
        ]),
    );
    this.#read = new Growth(41, [
      [450_000, always],
      [9e6, encodes],
    ]);
    this.#written = new Growth(42, [
      [240_000, always],
      [4e6, encodes],
    ]);
    this.#received = new Growth(43, [
      [55_000, always],
      [150_000, shows],
      [1.5e6, pulses(3600, 0, 120)],
    ]);
    this.#sent = new Growth(44, [
      [270_000, always],
      [900_000, shows],
    ]);
    this.#package = new Growth(46, [
      [4.2e6, always],
      [2.5e6, shows],
      [13e6, encodes],
    ]);
    this.#platform = new Growth(47, [
      [13.5e6, always],
      [3.2e6, shows],
      [15.5e6, encodes],
    ]);
    this.#faults = new Growth(45, [
      [1300, always],
      [600, shows],
      [2100, encodes],
    ]);
  }

  read(path: string): string | undefined {
    const now = this.#clock() / 1000;
    const boot = this.#world.bootOf("playout", now);
    switch (path) {
      case "/proc/stat":
        return this.#stat(now);
      case "/proc/meminfo":
        return this.#meminfo(now);
      case "/proc/vmstat":
        return `pgpgin ${Math.floor(this.#read.at(now, boot) / 1024)}\npgpgout ${Math.floor(this.#written.at(now, boot) / 1024)}\npswpin 0\npswpout 0\npgfault ${this.#faults.at(now, boot)}\npgmajfault ${Math.floor(this.#faults.at(now, boot) / 9000)}\n`;
      case "/proc/diskstats":
        return this.#diskstats(now);
      case "/proc/net/dev":
        return this.#netDev(now);
      case "/proc/net/tcp":
        return this.#netTcp(now);
      case "/proc/loadavg":
        return this.#loadavg(now);
      case "/proc/uptime":
        return `${(now - boot).toFixed(2)} ${((now - boot) * 3.4).toFixed(2)}\n`;
      case "/proc/pressure/cpu":
        return pressure(Math.floor(40_000 * (this.#world.encodes.since(now) - this.#world.encodes.since(boot))));
      case "/proc/pressure/memory":
        return pressure(0);
      case "/proc/pressure/io":
        return pressure(
          Math.floor(4000 * (now - boot) + 56_000 * (this.#world.encodes.since(now) - this.#world.encodes.since(boot))),
        );
      case "/proc/self/mounts":
        return "proc /proc proc rw 0 0\n/dev/nvme0n1p2 / ext4 rw,relatime 0 0\ntmpfs /run tmpfs rw 0 0\n/dev/sda1 /srv/audio ext4 rw,relatime 0 0\n";
      case "/sys/class/hwmon/hwmon0/name":
        return "coretemp\n";
      case "/sys/class/hwmon/hwmon0/temp1_label":
        return "Package id 0\n";
      case "/sys/class/hwmon/hwmon0/temp1_input":
        return `${Math.round(1000 * (39 + 24 * this.#share(now - 20) + 2 * wander(22, now, 300)))}\n`;
      case "/sys/class/powercap/intel-rapl:0/name":
        return "package-0\n";
      case "/sys/class/powercap/intel-rapl:1/name":
        return "psys\n";
      case "/sys/class/powercap/intel-rapl:0/max_energy_range_uj":
      case "/sys/class/powercap/intel-rapl:1/max_energy_range_uj":
        return `${energyWraps}\n`;
      case "/sys/class/powercap/intel-rapl:0/energy_uj":
        return `${this.#package.at(now, boot) % energyWraps}\n`;
      case "/sys/class/powercap/intel-rapl:1/energy_uj":
        return `${this.#platform.at(now, boot) % energyWraps}\n`;
      default:
        return this.#process(path, now);
    }
  }

  list(path: string): readonly string[] {
    switch (path) {
      case "/proc":
        return [
          "stat",
          "meminfo",
          ...programs.map(({ pid }) => String(pid)),
          ...(this.#encodes(this.#clock() / 1000) ? [String(encoder.pid)] : []),
        ];
      case "/sys/block":
        return ["nvme0n1", "sda", "loop0"];
      case "/sys/block/nvme0n1/device":
      case "/sys/block/sda/device":
        return ["model"];
      case "/sys/class/net":
        return ["lo", "enp1s0", "br0"];
      case "/sys/class/net/enp1s0/device":
        return ["vendor"];
      case "/sys/class/powercap":
        return ["intel-rapl", "intel-rapl:0", "intel-rapl:1"];
      case "/sys/class/hwmon":
        return ["hwmon0"];
      case "/sys/class/hwmon/hwmon0":
        return ["name", "temp1_input", "temp1_label"];
      default:
        return [];
    }
  }

  space(
    mountpoint: string,
  ): Promise<
    { bsize: number; blocks: number; bfree: number; bavail: number; files: number; ffree: number } | undefined
  > {
    const now = this.#clock() / 1000;
    const size = mountpoint === "/" ? 118e9 : mountpoint === "/srv/audio" ? 980e9 : 0;
    if (size === 0) return Promise.resolve(undefined);
    const used = mountpoint === "/" ? 27e9 + 1e9 * wander(23, now, 86_400) : 590e9 + 38e9 * ((now % 604_800) / 604_800);
    const bsize = 4096;
    const blocks = Math.floor(size / bsize);
    const bfree = blocks - Math.floor(used / bsize);
    return Promise.resolve({
      bsize,
      blocks,
      bfree,
      bavail: bfree - Math.floor(blocks * 0.05),
      files: Math.floor(size / 16_384),
      ffree: Math.floor((size - used * 0.2) / 16_384),
    });
  }

  /** Share of the cores that is busy. */
  #share(now: number): number {
    return this.#busy.reduce((sum, core) => sum + core.rate(now), 0) / cores / ticks;
  }

  #encodes(now: number): boolean {
    return this.#world.encodes.rate(now) > 0;
  }

  #stat(now: number): string {
    const boot = this.#world.bootOf("playout", now);
    const lines = this.#busy.map((core) => {
      const exact = core.at(now, boot);
      const idle = Math.max(0, Math.floor(ticks * (now - boot)) - exact);
      return [
        Math.floor(exact * 0.74),
        0,
        Math.floor(exact * 0.2),
        Math.floor(idle * 0.985),
        Math.floor(idle * 0.015),
        0,
        Math.floor(exact * 0.06),
        0,
      ];
    });
    const sum = (lines[0] as number[]).map((_, i) => lines.reduce((total, line) => total + (line[i] as number), 0));
    const text = [`cpu  ${sum.join(" ")} 0 0`, ...lines.map((line, core) => `cpu${core} ${line.join(" ")} 0 0`)];
    return `${text.join("\n")}\nprocesses ${Math.floor((now - boot) * 1.4)}\nprocs_running ${this.#encodes(now) ? 5 : 1}\nprocs_blocked ${this.#encodes(now) ? 1 : 0}\n`;
  }

  #meminfo(now: number): string {
    const used =
      Math.floor(memoryKib * (0.36 + 0.03 * wander(24, now, 1800) + 0.05 * this.#world.shows.rate(now))) +
      (this.#encodes(now) ? encoder.mib * 1024 : 0);
    const cached = Math.floor(memoryKib * (0.33 + 0.04 * wander(25, now, 3600)));
    const buffers = Math.floor(memoryKib * 0.03);
    const slab = Math.floor(memoryKib * 0.02);
    const free = memoryKib - used - cached - buffers - slab;
    const rows = {
      MemTotal: memoryKib,
      MemFree: free,
      MemAvailable: free + cached + buffers + slab - 52_000,
      Buffers: buffers,
      Cached: cached,
      Active: used,
      Inactive: cached,
      Dirty: Math.floor(900 + 4000 * wander(26, now, 60)),
      Writeback: 0,
      Mapped: 640_000,
      Shmem: 52_000,
      SReclaimable: slab,
      SUnreclaim: 70_000,
      SwapTotal: 2_097_152,
      SwapFree: 2_093_000,
      Committed_AS: used * 2,
    };
    return Object.entries(rows)
      .map(([name, kib]) => `${name}: ${kib} kB\n`)
      .join("");
  }

  #diskstats(now: number): string {
    const boot = this.#world.bootOf("playout", now);
    const row = (minor: number, device: string, share: number) => {
      const read = Math.floor(this.#read.at(now, boot) * share);
      const written = Math.floor(this.#written.at(now, boot) * share);
      const busy = Math.floor(((read + written) / 2.2e7) * 1000);
      const reads = Math.floor(read / 65_536);
      const writes = Math.floor(written / 32_768);
      return `   8 ${minor} ${device} ${reads} ${Math.floor(reads / 9)} ${Math.floor(read / 512)} ${Math.floor(busy * 0.7)} ${writes} ${Math.floor(writes / 5)} ${Math.floor(written / 512)} ${Math.floor(busy * 0.9)} ${this.#encodes(now) ? 2 : 0} ${busy} ${Math.floor(busy * 1.6)}`;
    };
    return `${row(0, "nvme0n1", 0.25)}\n${row(1, "nvme0n1p2", 0.25)}\n${row(16, "sda", 0.75)}\n   7 0 loop0 0 0 0 0 0 0 0 0 0 0 0\n`;
  }

  /**
   * Connections of the kernel's form: the studio's browsers, the feed to the relay, the archive's mounts, a shell or
   * two.
   */
  #netTcp(now: number): string {
    const line = (local: number, remote: string, state: string, i: number) =>
      `${String(i).padStart(4)}: 0A14140A:${hex(local)} ${remote} ${state} 00000000:00000000 00:00000000 00000000  1000        0 ${4000 + i} 1 0000000000000000 20 4 30 10 -1\n`;
    const shows = this.#world.shows.rate(now);
    const some = (least: number, more: number, seed: number) =>
      Math.round(least + more * (0.5 + 0.5 * wander(seed, now, 1200)));
    const open = [
      [443, some(4 + 5 * shows, 3, 61), true],
      [22, some(1, 1, 62), true],
      [2049, 2, false],
      [554, 1 + Math.round(2 * shows), false],
      [5432, some(3, 2, 63), false],
      [8000, 2, false],
    ] as const;
    let text = "  sl  local_address rem_address   st tx_queue rx_queue tr tm->when retrnsmt   uid  timeout inode\n";
    let i = 0;
    for (const [port, count, listens] of open) {
      if (listens) text += line(port, "00000000:0000", "0A", i++);
      for (let k = 0; k < count; k++)
        text += listens
          ? line(port, `${hex(0x1514 + k)}140A:${hex(40_000 + k)}`, "01", i++)
          : line(50_000 + i, `1E14140A:${hex(port)}`, "01", i++);
    }
    return text;
  }

  #netDev(now: number): string {
    const boot = this.#world.bootOf("playout", now);
    const received = this.#received.at(now, boot);
    const sent = this.#sent.at(now, boot);
    const drops = Math.floor(received / 4e9);
    return `Inter-|   Receive                                                |  Transmit\n face |bytes    packets errs drop fifo frame compressed multicast|bytes    packets errs drop fifo colls carrier compressed\n    lo: 100 1 0 0 0 0 0 0 100 1 0 0 0 0 0 0\nenp1s0: ${received} ${Math.floor(received / 900)} 0 ${drops} 0 0 0 0 ${sent} ${Math.floor(sent / 1100)} 0 0 0 0 0 0\n   br0: ${Math.floor(received * 0.97)} ${Math.floor(received / 900)} 0 0 0 0 0 0 ${Math.floor(sent * 0.98)} ${Math.floor(sent / 1100)} 0 0 0 0 0 0\n`;
  }

  #loadavg(now: number): string {
    const over = (seconds: number) => {
      let sum = 0;
      for (let i = 0; i < 40; i++) sum += this.#share(now - (i * seconds) / 40) * cores * 1.15;
      return (sum / 40).toFixed(2);
    };
    return `${over(60)} ${over(300)} ${over(900)} ${this.#encodes(now) ? 5 : 1}/214 9120\n`;
  }

  #process(path: string, now: number): string | undefined {
    const pid = Number(/^\/proc\/(\d+)\/stat$/.exec(path)?.[1] ?? Number.NaN);
    const boot = this.#world.bootOf("playout", now);
    if (pid === encoder.pid && this.#encodes(now)) {
      const began = now - (now % 900) + 240;
      const used = Math.floor((now - began) * ticks * 2.6);
      return statLine(
        pid,
        encoder.name,
        "R",
        { user: Math.floor(used * 0.94), system: Math.floor(used * 0.06) },
        Math.floor((began - boot) * ticks),
        encoder.mib,
      );
    }
    const program = programs.find((one) => one.pid === pid);
    if (!program) return undefined;
    const used = Math.floor(program.share * 0.35 * this.#busy.reduce((sum, core) => sum + core.at(now, boot), 0));
    return statLine(
      pid,
      program.name,
      "S",
      { user: Math.floor(used * 0.8), system: Math.floor(used * 0.2) },
      300 + pid,
      program.mib * (0.96 + 0.08 * wander(pid, now, 900)),
    );
  }
}

function statLine(
  pid: number,
  name: string,
  state: string,
  { user, system }: { readonly user: number; readonly system: number },
  startTicks: number,
  mib: number,
): string {
  return `${pid} (${name}) ${state} 1 ${pid} ${pid} 0 -1 4194304 9000 0 12 0 ${user} ${system} 0 0 20 0 4 0 ${startTicks} ${Math.floor(mib * 3 * 1_048_576)} ${Math.floor(mib * 256)} 18446744073709551615 0 0\n`;
}

function pressure(someMicroseconds: number): string {
  return `some avg10=0.00 avg60=0.00 avg300=0.00 total=${someMicroseconds}\nfull avg10=0.00 avg60=0.00 avg300=0.00 total=${Math.floor(someMicroseconds / 3)}\n`;
}

const hex = (n: number) => n.toString(16).toUpperCase().padStart(4, "0");
