import type { Line } from "../../../../core/reading/document.ts";
import { poolUsed } from "../../../../core/reading/common-readings.ts";
import type { OpenReading } from "../../sentence/reading-address.ts";
import { type Band, of, one, scaled, tag, withDirection } from "./band.ts";

const sum = { lines: { per: ["machine"] }, combine: "sum" } as const;
const highest = { lines: { per: ["machine"] }, combine: "max" } as const;
const perGuest = { lines: { per: ["machine", "guest"] }, combine: "sum" } as const;
const perContainer = { lines: { per: ["machine", "container"] }, combine: "sum" } as const;

const withWhy =
  (name: string) =>
  ({ tags }: Line) =>
    `${tags[name] ?? ""}: ${tags["why"] ?? ""}`;

const partPath =
  (kind: "guest" | "container") =>
  ({ tags }: Line) =>
    `/machines/${encodeURIComponent(tags["machine"] ?? "")}/${kind}s/${encodeURIComponent(tags[kind] ?? "")}`;

/** Bands of what devices, hypervisors and container engines report. */
export const deviceBands: readonly Band[] = [
  {
    id: "processors",
    title: "Processors",
    counters: ["system.cpu.utilization"],
    figure: {
      words: "busiest processor",
      unit: "%",
      reading: (machine) => scaled("system.cpu.utilization", machine, "value * 100", "%", highest),
      commonLimit: 75,
    },
    views: [
      {
        id: "each",
        shows: "processor load as the device says",
        split: "one line per processor",
        unit: "%",
        ceiling: 100,
        nameOf: (line) => `core ${line.tags["cpu"] ?? ""}`,
        reading: (machine) => scaled("system.cpu.utilization", machine, "value * 100", "%"),
      },
    ],
  },
  {
    id: "guests",
    title: "Guests",
    counters: ["guest.state.running"],
    top: {
      title: "guests by processor (of one)",
      unit: "%",
      nameOf: tag("guest"),
      pathOf: partPath("guest"),
      reading: (machine) =>
        scaled("guest.cpu.time", machine, "value * 100", "%", { ...perGuest, keep: { highest: 8, by: "mean" } }),
    },
    figure: {
      words: "guests running",
      unit: "1",
      reading: (machine) => one("guest.state.running", machine, sum),
      commonLimit: 100,
    },
    views: [
      {
        id: "processor",
        shows: "processors that guests keep busy",
        split: "one line per guest",
        unit: "1",
        nameOf: tag("guest"),
        reading: (machine) => one("guest.cpu.time", machine, perGuest),
      },
      {
        id: "memory",
        shows: "memory in use within guests",
        split: "by guest, stacked",
        unit: "By",
        stacked: true,
        nameOf: tag("guest"),
        reading: (machine) => one("guest.memory.usage", machine, perGuest),
      },
      {
        id: "resident",
        shows: "memory that guests hold on the host",
        split: "by guest, stacked",
        unit: "By",
        stacked: true,
        needs: "guest.memory.resident",
        nameOf: tag("guest"),
        reading: (machine) => one("guest.memory.resident", machine, perGuest),
      },
      {
        id: "network",
        shows: "guests' network traffic",
        split: "one line per guest",
        unit: "bit/s",
        nameOf: tag("guest"),
        reading: (machine) => scaled("guest.network.io", machine, "value * 8", "bit/s", perGuest),
      },
      {
        id: "disks",
        shows: "guests' disk throughput",
        split: "one line per guest",
        unit: "By/s",
        nameOf: tag("guest"),
        reading: (machine) => one("guest.disk.io", machine, perGuest),
      },
    ],
  },
  {
    id: "containers",
    title: "Containers",
    counters: ["container.state.running", "container.cpu.time"],
    top: {
      title: "containers by memory",
      unit: "By",
      nameOf: tag("container"),
      pathOf: partPath("container"),
      reading: (machine) =>
        one("container.memory.usage", machine, { ...perContainer, keep: { highest: 8, by: "mean" } }),
    },
    figure: {
      words: "processors busy",
      unit: "1",
      reading: (machine) => one("container.cpu.time", machine, sum),
      commonLimit: 4,
    },
    views: [
      {
        id: "processor",
        shows: "processors that containers keep busy",
        split: "one line per container",
        unit: "1",
        nameOf: tag("container"),
        reading: (machine) => one("container.cpu.time", machine, perContainer),
      },
      {
        id: "memory",
        shows: "containers' memory",
        split: "one line per container",
        unit: "By",
        nameOf: tag("container"),
        reading: (machine) => one("container.memory.usage", machine, perContainer),
      },
      {
        id: "network",
        shows: "containers' network traffic",
        split: "one line per container",
        unit: "bit/s",
        nameOf: tag("container"),
        reading: (machine) => scaled("container.network.io", machine, "value * 8", "bit/s", perContainer),
      },
      {
        id: "disk",
        shows: "containers' disk throughput",
        split: "one line per container",
        unit: "By/s",
        nameOf: tag("container"),
        reading: (machine) => one("container.disk.io", machine, perContainer),
      },
      {
        id: "images",
        shows: "processors that containers keep busy",
        split: "one line per image",
        unit: "1",
        nameOf: tag("image"),
        reading: (machine) =>
          one("container.cpu.time", machine, { lines: { per: ["machine", "image"] }, combine: "sum" }),
      },
    ],
  },
  {
    id: "pools",
    title: "Pools",
    counters: ["storage.pool.usage"],
    top: { title: "pools by share used", unit: "%", most: 100, nameOf: tag("pool"), reading: poolShare },
    figure: { words: "fullest pool", unit: "%", reading: poolShare, commonLimit: 80 },
    views: [
      {
        id: "share",
        shows: "pool space used",
        split: "one line per pool",
        unit: "%",
        ceiling: 100,
        nameOf: tag("pool"),
        reading: poolShare,
      },
      {
        id: "bytes",
        shows: "pool space",
        split: "by pool and state",
        unit: "By",
        nameOf: (line) => `${line.tags["pool"] ?? ""} ${line.tags["state"] ?? ""}`,
        reading: (machine) => one("storage.pool.usage", machine),
      },
      {
        id: "troubles",
        shows: "what ails pools, 1 while it does",
        split: "by pool and reason",
        unit: "1",
        nameOf: withWhy("pool"),
        reading: (machine) => one("storage.pool.trouble", machine),
      },
    ],
  },
  {
    id: "drives",
    title: "Drives",
    counters: ["drive.healthy"],
    figure: {
      words: "drives well",
      unit: "1",
      reading: (machine) => one("drive.healthy", machine, sum),
      commonLimit: 1,
    },
    views: [
      {
        id: "sectors",
        shows: "bad sectors",
        split: "by drive and kind",
        unit: "1",
        nameOf: (line) => `${line.tags["device"] ?? ""} ${line.tags["type"] ?? ""}`,
        reading: (machine) => one("drive.bad_sectors", machine),
      },
      {
        id: "health",
        shows: "what ails drives, 1 while it does",
        split: "by drive and reason",
        unit: "1",
        nameOf: withWhy("device"),
        reading: (machine) => one("drive.trouble", machine),
      },
    ],
  },
  {
    id: "arrays",
    title: "Arrays",
    counters: ["storage.array.healthy"],
    figure: {
      words: "arrays well",
      unit: "1",
      reading: (machine) => one("storage.array.healthy", machine, sum),
      commonLimit: 1,
    },
    views: [
      {
        id: "health",
        shows: "what ails arrays, 1 while it does",
        split: "by array and reason",
        unit: "1",
        nameOf: withWhy("array"),
        reading: (machine) => one("storage.array.trouble", machine),
      },
    ],
  },
  {
    id: "power",
    title: "Power",
    counters: ["hw.power"],
    figure: {
      words: "power",
      unit: "W",
      reading: (machine) => scaled("hw.host.power", machine, "value * 1", "W", sum),
      commonLimit: 300,
    },
    checksMean: true,
    views: [
      {
        id: "whole",
        shows: "power that it draws",
        split: "by the sensor decided on",
        unit: "W",
        needs: "hw.host.power",
        nameOf: tag("sensor"),
        reading: (machine) => one("hw.host.power", machine),
      },
      {
        id: "watts",
        shows: "power of each sensor, which are not to be added",
        split: "one line per sensor",
        unit: "W",
        nameOf: tag("sensor"),
        reading: (machine) => one("hw.power", machine),
      },
      {
        id: "volts",
        shows: "voltage",
        split: "one line per sensor",
        unit: "V",
        nameOf: tag("sensor"),
        reading: (machine) => one("hw.voltage", machine),
      },
      {
        id: "fans",
        shows: "fan speed",
        split: "one line per fan",
        unit: "/min",
        nameOf: tag("sensor"),
        reading: (machine) => scaled("hw.fan.speed", machine, "value * 1", "/min"),
      },
    ],
  },
  {
    id: "battery",
    title: "Battery",
    counters: ["hw.battery.charge"],
    figure: {
      words: "battery charge",
      unit: "%",
      reading: (machine) =>
        scaled("hw.battery.charge", machine, "value * 100", "%", {
          lines: { per: ["machine"] },
          combine: "min",
          of_every: "min",
        }),
      commonLimit: 50,
    },
    views: [
      {
        id: "charge",
        shows: "battery charge",
        split: "together",
        unit: "%",
        ceiling: 100,
        nameOf: () => "charge",
        reading: (machine) =>
          scaled("hw.battery.charge", machine, "value * 100", "%", { lines: { per: ["machine"] }, combine: "min" }),
      },
      {
        id: "left",
        shows: "how long the battery would last",
        split: "together",
        unit: "s",
        nameOf: () => "time left",
        reading: (machine) => one("hw.battery.time_left", machine),
      },
      {
        id: "load",
        shows: "the supply's load",
        split: "one line per output",
        unit: "%",
        ceiling: 100,
        nameOf: tag("sensor"),
        reading: (machine) => scaled("ups.load", machine, "value * 100", "%"),
      },
      {
        id: "mains",
        shows: "runs on battery, 1 is yes",
        split: "together",
        unit: "1",
        nameOf: () => "on battery",
        reading: (machine) => one("ups.on_battery", machine),
      },
    ],
  },
  {
    id: "links",
    title: "Links",
    counters: ["hw.network.up"],
    figure: {
      words: "links up",
      unit: "1",
      reading: (machine) => one("hw.network.up", machine, { ...sum, of_every: "last" }),
      commonLimit: 1,
    },
    views: [
      {
        id: "use",
        shows: "share of a link's speed in use",
        split: "by interface and direction",
        unit: "%",
        ceiling: 100,
        nameOf: withDirection("interface"),
        reading: (machine) => ({
          sentences: {
            bytes: { counter: "system.network.io", where: of(machine) },
            speed: { counter: "hw.network.bandwidth.limit", where: of(machine) },
          },
          figure: "bytes / speed * 100",
          unit: "%",
        }),
      },
      {
        id: "up",
        shows: "links that are up, 1 is up",
        split: "one line per interface",
        unit: "1",
        nameOf: tag("interface"),
        reading: (machine) => one("hw.network.up", machine),
      },
    ],
  },
];

export function poolShare(machine: string): OpenReading {
  return poolUsed(of(machine));
}
