import type { Emit } from "../../core/counters/counter.ts";
import { emitTroubles } from "../../core/formats/storage/troubles.ts";
import { always, between } from "../world/growth.ts";
import type { World } from "../world/world.ts";
import { LinuxPage, tagsText } from "./linux-page.ts";

const drives = ["sda", "sdb", "sdc", "sdd", "sde", "sdf", "sdg", "sdh"] as const;

/**
 * `vault`, the storage box: pools `archive` and `work`, eight drives; at night the copy and the scan fight for them.
 */
// biome-ignore lint/complexity/noExcessiveLinesPerFunction: one table of a device, row by row
export function vaultPage(world: World): (second: number) => string {
  const { archiveCopy, integrityScan, shows } = world;
  const page = new LinuxPage(
    300,
    {
      cores: 4,
      memoryBytes: 34_359_738_368,
      busy: [
        [0.22, always],
        [0.5, archiveCopy],
        [0.9, integrityScan],
        [0.15, shows],
      ],
      usedShare: (second) => 0.34 + 0.03 * between(0, 1, 301, second, 20_000),
      disks: drives.map((device, i) => ({
        device,
        read: [
          [90_000, always],
          [21e6, integrityScan],
          [2e6, archiveCopy],
        ],
        written: [
          [60_000 + 4000 * i, always],
          [13e6, archiveCopy],
        ],
        bytesPerSecond: 3.72e7,
      })),
      network: {
        interface: "enp2s0",
        received: [
          [120_000, always],
          [9_000_000, archiveCopy],
          [500_000, shows],
        ],
        sent: [
          [160_000, always],
          [650_000, shows],
        ],
      },
      filesystems: [
        {
          device: "/dev/nvme0n1p2",
          mountpoint: "/",
          sizeBytes: 64e9,
          usedBytes: (second) => 11e9 + 4e8 * between(0, 1, 302, second, 80_000),
        },
      ],
      processes: [
        {
          name: "integrity-scan",
          pid: 2211,
          busy: [[0.88, integrityScan]],
          memoryBytes: (second) => 2.4e8 + 5e8 * integrityScan.rate(second),
        },
        {
          name: "archive-copy",
          pid: 2204,
          busy: [[0.48, archiveCopy]],
          memoryBytes: (second) => 9e7 + 3e8 * archiveCopy.rate(second),
        },
        {
          name: "file-server",
          pid: 918,
          busy: [
            [0.12, always],
            [0.14, shows],
          ],
          memoryBytes: (second) => 1.1e9 * between(0.95, 1.05, 305, second, 7000),
        },
        {
          name: "pool-keeper",
          pid: 731,
          busy: [[0.05, always]],
          memoryBytes: (second) => 6.4e9 * between(0.97, 1.02, 306, second, 15_000),
        },
      ],
      temperature: (second) =>
        38 + 9 * integrityScan.rate(second) + 5 * archiveCopy.rate(second) + between(-1, 2, 303, second, 900),
    },
    (second) => world.bootOf("vault", second),
  );
  return (second) => {
    const lines = page.lines(second);
    const emit = (name: string, tags: Readonly<Record<string, string>>, value: number) =>
      lines.push(`${name}${tagsText(tags)} ${value}`);
    const named: Emit = (counter, tags, value) => emit(counter.replaceAll(".", "_"), tags, value);
    const archive = 8e12;
    const filled = Math.min(archive * 0.995, Math.floor(world.archiveBytes(second)));
    const work = 4e12;
    const inUse = Math.floor(
      1.45e12 + 1.2e11 * between(0, 1, 304, second, 250_000) + 6e10 * shows.rate(second) + world.forgottenBytes(second),
    );
    for (const [pool, size, used] of [
      ["archive", archive, filled],
      ["work", work, inUse],
    ] as const) {
      emit("storage_pool_limit", { pool }, size);
      emit("storage_pool_usage", { pool, state: "used" }, used);
      emit("storage_pool_usage", { pool, state: "free" }, size - used);
      emitTroubles(
        "storage.pool",
        { pool },
        { degraded: false, "not available": false, "device errors": false, "lost data": false },
        named,
      );
    }
    for (const [i, device] of drives.entries()) {
      emitTroubles("drive", { device }, { "its own verdict": false, "attribute at its threshold": false }, named);
      emit(
        "hw_temperature",
        { sensor: `drive ${device}` },
        Math.round(
          31 +
            (i % 4) +
            5 * integrityScan.rate(second) +
            3 * archiveCopy.rate(second) +
            between(-0.6, 0.6, 320 + i, second, 3600),
        ),
      );
      emit(
        "drive_power_on_time",
        { device },
        Math.floor((second - world.bootOf("vault", second)) / 3600) * 3600 + 3.1e7 + 4e6 * i,
      );
      emit(
        "drive_bad_sectors",
        { device, type: "reallocated" },
        device === "sdf" ? 8 + Math.max(0, Math.floor((second - world.began + 12 * 86_400) / (4 * 86_400))) * 8 : 0,
      );
    }
    return `${lines.join("\n")}\n`;
  };
}
