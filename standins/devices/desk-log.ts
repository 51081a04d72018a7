import { between, always, Growth } from "../world/growth.ts";
import { isWithin, type World } from "../world/world.ts";

const counters = [
  "Processor(_Total)\\% Processor Time",
  "Processor(0)\\% Processor Time",
  "Processor(1)\\% Processor Time",
  "Memory\\Available Bytes",
  "Memory\\Pages/sec",
  "PhysicalDisk(0 C:)\\Disk Read Bytes/sec",
  "PhysicalDisk(0 C:)\\Disk Write Bytes/sec",
  "PhysicalDisk(0 C:)\\Current Disk Queue Length",
  "Network Interface(studio)\\Bytes Received/sec",
  "Network Interface(studio)\\Bytes Sent/sec",
  "System\\System Up Time",
  "LogicalDisk(C:)\\% Free Space",
] as const;

/**
 * `desk`, the Windows PC in the studio: its counter log as Windows' own tools write it, of some moments. Empty while it
 * has no power.
 */
export function deskLog(world: World): (seconds: readonly number[]) => string {
  const received = new Growth(800, [
    [20_000, always],
    [150_000, world.office],
    [300_000, world.shows],
  ]);
  const sent = new Growth(801, [
    [6000, always],
    [40_000, world.office],
  ]);
  return (seconds) => {
    const lines = seconds
      .filter((second) => !isWithin(second, { from: world.powerCut.from, to: world.powerCut.to + 300 }))
      .map((second) => {
        const busy =
          4 + 26 * world.office.rate(second) + 18 * world.shows.rate(second) + between(0, 9, 802, second, 40);
        const values = [
          busy,
          busy * 1.12,
          busy * 0.88,
          9.1e9 - 2.6e9 * world.office.rate(second) + 4e8 * between(-1, 1, 803, second, 2000),
          4 + 90 * between(0, 1, 804, second, 50),
          2e5 + 3e6 * between(0, 1, 805, second, 30) * world.office.rate(second),
          3e5 + 2e6 * between(0, 1, 806, second, 30) * world.office.rate(second),
          Math.floor(between(0, 2.2, 807, second, 20)),
          received.rate(second),
          sent.rate(second),
          second - world.bootOf("desk", second),
          41 - ((second - world.began) / 86_400) * 0.12,
        ];
        return [`"${stamp(second)}"`, ...values.map((value) => `"${value.toFixed(6)}"`)].join(",");
      });
    return lines.length === 0
      ? ""
      : `"(PDH-CSV 4.0) (Coordinated Universal Time)(0)",${counters.map((path) => `"\\\\DESK\\${path}"`).join(",")}\r\n${lines.join("\r\n")}\r\n`;
  };
}

function stamp(second: number): string {
  const [date = "", time = ""] = new Date(Math.round(second * 1000)).toISOString().split("T");
  const [year, month, day] = date.split("-");
  return `${month}/${day}/${year} ${time.slice(0, 12)}`;
}
