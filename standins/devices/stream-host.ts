import { always, between, Growth, type Term } from "../world/growth.ts";
import type { World } from "../world/world.ts";
import { type LinuxHabits, LinuxPage } from "./linux-page.ts";

/** The page of `stream`'s own collector. */
export function streamPage(world: World): (second: number) => string {
  const { shows } = world;
  const page = new LinuxPage(
    400,
    {
      cores: 4,
      memoryBytes: 17_179_869_184,
      busy: [
        [0.45, always],
        [1.35, shows],
      ],
      usedShare: (second) => 0.38 + 0.06 * shows.rate(second) + leakedBytes(world, second) / 17_179_869_184,
      disks: [
        {
          device: "nvme0n1",
          read: [
            [80_000, always],
            [300_000, shows],
          ],
          written: [
            [210_000, always],
            [500_000, shows],
          ],
          bytesPerSecond: 2.5e8,
        },
      ],
      network: {
        interface: "enp1s0",
        received: [
          [310_000, always],
          [900_000, shows],
        ],
        sent: [
          [640_000, always],
          [6_800_000, shows],
        ],
      },
      filesystems: [
        {
          device: "/dev/nvme0n1p1",
          mountpoint: "/",
          sizeBytes: 250e9,
          usedBytes: (second) => 88e9 + 2e9 * between(0, 1, 401, second, 90_000),
        },
      ],
      processes: streamProcesses(world),
      temperature: (second) => 44 + 13 * shows.rate(second) + between(-1, 2, 402, second, 600),
    },
    (second) => world.bootOf("stream", second),
  );
  return (second) => `${page.lines(second).join("\n")}\n`;
}

/** What runs in its containers, as its own collector sees it. */
function streamProcesses(world: World): LinuxHabits["processes"] {
  const { shows } = world;
  return [
    {
      name: "relay",
      pid: 1840,
      busy: [
        [0.18, always],
        [0.9, shows],
      ],
      memoryBytes: (second) => 7.1e8 * between(0.94, 1.06, 403, second, 2400),
    },
    {
      name: "chat",
      pid: 1903,
      busy: [
        [0.06, always],
        [0.11, shows],
      ],
      memoryBytes: (second) => 2.4e8 + leakedBytes(world, second),
    },
    {
      name: "stats",
      pid: 1877,
      busy: [
        [0.08, always],
        [0.2, shows],
      ],
      memoryBytes: (second) => 4.3e8 * between(0.95, 1.05, 404, second, 3000),
    },
    {
      name: "proxy",
      pid: 1722,
      busy: [
        [0.04, always],
        [0.12, shows],
      ],
      memoryBytes: (second) => 1.3e8 * between(0.97, 1.03, 405, second, 3000),
    },
  ];
}

function leakedBytes(world: World, second: number): number {
  return 2600 * (second - world.chatRestartBefore(second)); // 1.3 GB in six days
}

interface Container {
  readonly name: string;
  readonly image: string;
  readonly command: string;
  readonly labels: Readonly<Record<string, string>>;
  readonly busy: readonly Term[];
  readonly memory: (second: number) => number;
  readonly limit: number;
  readonly received: readonly Term[];
  readonly sent: readonly Term[];
  readonly written: number;
}

const MiB = 1_048_576;

/** The container engine of `stream`, as its socket answers; `chat` leaks memory until somebody restarts it. */
export class StreamEngine {
  readonly #world: World;
  readonly #containers: readonly (Container & {
    readonly id: string;
    readonly cpu: Growth;
    readonly rx: Growth;
    readonly tx: Growth;
    readonly disk: Growth;
  })[];

  // biome-ignore lint/complexity/noExcessiveLinesPerFunction: one table of a device, row by row
  constructor(world: World) {
    const { shows, office } = world;
    this.#world = world;
    const steady = (mib: number, seed: number) => (second: number) =>
      Math.floor(MiB * mib * between(0.94, 1.06, seed, second, 2400));
    const containers: readonly Container[] = [
      {
        name: "relay",
        image: "quay/relay:4.2",
        command: "relay --listen 8000",
        labels: { role: "air", tier: "front" },
        busy: [
          [0.12, always],
          [0.7, shows],
        ],
        memory: steady(310, 501),
        limit: 1024 * MiB,
        received: [
          [160_000, always],
          [200_000, shows],
        ],
        sent: [
          [420_000, always],
          [6_100_000, shows],
        ],
        written: 2e6,
      },
      {
        name: "site",
        image: "quay/site:11",
        command: "serve site",
        labels: { role: "web", tier: "front" },
        busy: [
          [0.05, always],
          [0.12, office],
        ],
        memory: steady(420, 502),
        limit: 1024 * MiB,
        received: [[12_000, always]],
        sent: [
          [90_000, always],
          [160_000, office],
        ],
        written: 9e6,
      },
      {
        name: "chat",
        image: "quay/chat:2.7",
        command: "chat --rooms studio",
        labels: { role: "web", tier: "back" },
        busy: [
          [0.03, always],
          [0.16, shows],
        ],
        memory: (second) => 180 * MiB + leakedBytes(world, second),
        limit: 2048 * MiB,
        received: [
          [6000, always],
          [30_000, shows],
        ],
        sent: [
          [9000, always],
          [44_000, shows],
        ],
        written: 4e6,
      },
      {
        name: "stats",
        image: "quay/stats:1.9",
        command: "stats --every 30",
        labels: { role: "office" },
        busy: [[0.06, always]],
        memory: steady(260, 504),
        limit: 512 * MiB,
        received: [[4000, always]],
        sent: [[2500, always]],
        written: 3.1e8,
      },
      {
        name: "ledger",
        image: "quay/ledger:7",
        command: "ledger serve",
        labels: { role: "office" },
        busy: [
          [0.02, always],
          [0.05, office],
        ],
        memory: steady(380, 505),
        limit: 1024 * MiB,
        received: [[1500, always]],
        sent: [
          [2200, always],
          [4000, office],
        ],
        written: 1.2e8,
      },
      {
        name: "proxy",
        image: "quay/proxy:3.1",
        command: "proxy -c /etc/proxy",
        labels: { role: "web", tier: "front" },
        busy: [
          [0.04, always],
          [0.2, shows],
        ],
        memory: steady(95, 506),
        limit: 256 * MiB,
        received: [
          [110_000, always],
          [150_000, office],
        ],
        sent: [
          [120_000, always],
          [190_000, office],
        ],
        written: 1e6,
      },
    ];
    this.#containers = containers.map((one, i) => ({
      ...one,
      id: `${(i + 1).toString(16).repeat(2)}c0ffee`.padEnd(64, "0123456789abcdef").slice(0, 64),
      cpu: new Growth(
        510 + i,
        one.busy.map(([amount, shape]) => [amount * 1e9, shape] as const),
      ),
      rx: new Growth(520 + i, one.received),
      tx: new Growth(530 + i, one.sent),
      disk: new Growth(540 + i, [[9000 + 4000 * i, always]]),
    }));
  }

  /** The answer to GET `path` at a moment; undefined where there is no such thing. */
  // biome-ignore lint/complexity/noExcessiveLinesPerFunction: one table of a device, row by row
  answer(path: string, second: number): unknown {
    const url = new URL(path, "http://engine");
    if (url.pathname === "/containers/json")
      return this.#containers.map((one) => ({
        Id: one.id,
        Names: [`/${one.name}`],
        Image: one.image,
        ImageID: `sha256:${one.id}`,
        Command: one.command,
        Created: Math.floor(this.#startOf(one.name, second)) - 60,
        Ports: [],
        Labels: one.labels,
        State: "running",
        Status: `Up 2 hours${one.name === "chat" ? (leakedBytes(this.#world, second) > 1.15e9 ? " (unhealthy)" : " (healthy)") : one.name === "relay" ? " (healthy)" : ""}`,
        ...(url.searchParams.get("size") === "1" && {
          SizeRw: Math.floor(one.written * between(0.9, 1.1, 550, second, 40_000)),
        }),
      }));
    const [, id, what] = /^\/containers\/([0-9a-f]+)\/(json|stats)$/.exec(url.pathname) ?? [];
    const one = this.#containers.find((container) => container.id === id);
    if (!one) return undefined;
    const start = this.#startOf(one.name, second);
    if (what === "json")
      return {
        Id: one.id,
        Name: `/${one.name}`,
        RestartCount: one.name === "chat" ? Math.floor((start - this.#world.began) / (6 * 86_400)) + 7 : 0,
        State: { Status: "running", StartedAt: new Date(start * 1000).toISOString() },
      };
    const total = one.cpu.at(second, start);
    const memory = one.memory(second);
    const [read, written] = [one.disk.at(second, start) * 2, one.disk.at(second, start) * 5];
    return {
      read: new Date(second * 1000).toISOString(),
      pids_stats: { current: 4 + (one.name.length % 5) },
      blkio_stats: {
        io_service_bytes_recursive: [
          { major: 259, minor: 0, op: "read", value: read },
          { major: 259, minor: 0, op: "write", value: written },
        ],
        io_serviced_recursive: [
          { major: 259, minor: 0, op: "read", value: Math.floor(read / 16_384) },
          { major: 259, minor: 0, op: "write", value: Math.floor(written / 8192) },
        ],
      },
      cpu_stats: {
        cpu_usage: {
          total_usage: total,
          usage_in_usermode: Math.floor(total * 0.72),
          usage_in_kernelmode: Math.floor(total * 0.28),
        },
        online_cpus: 4,
        throttling_data: {
          periods: 0,
          throttled_periods: 0,
          throttled_time: one.name === "relay" ? Math.floor(total * 0.004) : 0,
        },
      },
      memory_stats: {
        usage: memory,
        limit: one.limit,
        stats: {
          file: Math.floor(memory * 0.22),
          anon: Math.floor(memory * 0.74),
          active_anon: Math.floor(memory * 0.5),
          inactive_anon: Math.floor(memory * 0.24),
          active_file: Math.floor(memory * 0.1),
          inactive_file: Math.floor(memory * 0.12),
          pgfault: Math.floor(total / 3e6),
          pgmajfault: Math.floor(total / 4e10),
        },
      },
      networks: {
        eth0: {
          rx_bytes: one.rx.at(second, start),
          rx_packets: Math.floor(one.rx.at(second, start) / 700),
          tx_bytes: one.tx.at(second, start),
          tx_packets: Math.floor(one.tx.at(second, start) / 900),
        },
      },
      name: `/${one.name}`,
      id: one.id,
    };
  }

  /** What the engine would have told between two moments. */
  events(fromSecond: number, toSecond: number): readonly object[] {
    const restarted = this.#world.chatRestartBefore(toSecond);
    if (restarted <= fromSecond) return [];
    const chat = this.#containers.find(({ name }) => name === "chat");
    return ["die", "restart"].map((Action) => ({
      Type: "container",
      Action,
      id: chat?.id,
      Actor: {
        ID: chat?.id,
        Attributes: { name: "chat", image: chat?.image, ...(Action === "die" && { exitCode: "143" }) },
      },
      time: restarted,
      timeNano: restarted * 1e9,
    }));
  }

  #startOf(name: string, second: number): number {
    return name === "chat" ? this.#world.chatRestartBefore(second) : this.#world.bootOf("stream", second) + 30;
  }
}
