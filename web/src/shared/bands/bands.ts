import type { Condition, Sentence } from "../../../../core/reading/document.ts";
import * as common from "../../../../core/reading/common-readings.ts";
import { type Band, of, one, scaled, tag, tags, type TopList, withDirection } from "./band.ts";
import type { OpenReading } from "../../sentence/reading-address.ts";
import { deviceBands } from "./device-bands.ts";
import { windowsBands } from "./windows-bands.ts";

const notIdle: Condition = { tag: "mode", not: ["idle", "iowait"] };
export const processorBusy = (machine: string): OpenReading => common.processorBusy(of(machine));
export const memoryUsed = (machine: string): OpenReading => common.memoryUsed(of(machine));
export const diskBusy = (machine: string): OpenReading => common.diskBusy(of(machine));
/** What flows or connections tell of one direction, in bits a second. */
export const flowBits = (machine: string, direction: "receive" | "transmit", more: Partial<Sentence>): OpenReading =>
  scaled("system.network.protocol.io", machine, "value * 8", "bit/s", {
    where: of(machine, { tag: "direction", is: [direction] }),
    ...more,
  });
export const networkBits = (machine: string): OpenReading => common.networkBits(of(machine));
export const fullestFilesystem = (machine: string): OpenReading => common.filesystemUsed(of(machine));

/** The load over so long. */
const loadOver = (over: "1m" | "5m"): Band["figure"] => ({
  words: `load over ${over.replace("m", " min")}`,
  unit: "1",
  reading: (machine) =>
    one("system.cpu.load_average", machine, {
      where: of(machine, { tag: "over", is: [over] }),
      lines: { per: ["machine"] },
    }),
  commonLimit: 4,
});

const processesBy = (counter: "process.cpu.time" | "process.memory.usage"): TopList => {
  const sentence = {
    lines: { per: ["machine", "process", "pid"] },
    combine: "sum",
    keep: { highest: 8, by: "mean" },
  } as const;
  const processor = counter === "process.cpu.time";
  return {
    title: processor ? "processes by processor, 100 % is one core" : "processes by memory",
    unit: processor ? "%" : "By",
    nameOf: tag("process"),
    reading: (machine) =>
      processor ? scaled(counter, machine, "value * 100", "%", sentence) : one(counter, machine, sentence),
  };
};

/** The bands of a machine's page, from top to bottom. */
export const bands: readonly Band[] = [
  {
    id: "processor",
    title: "Processor",
    counters: ["system.cpu.time"],
    figure: {
      words: "processor busy",
      explains: common.formulas.processorBusy,
      unit: "%",
      reading: processorBusy,
      commonLimit: 75,
    },
    top: processesBy("process.cpu.time"),
    views: [
      {
        id: "modes",
        shows: "processor busy",
        split: "by mode, stacked",
        unit: "%",
        stacked: true,
        ceiling: 100,
        order: ["user", "system", "nice", "interrupt", "softirq", "steal"],
        nameOf: tag("mode"),
        reading: (machine) => ({
          sentences: {
            time: {
              counter: "system.cpu.time",
              where: of(machine, notIdle),
              lines: { per: ["machine", "mode"] },
              combine: "sum",
            },
            processors: common.processors(of(machine)),
          },
          figure: "time / processors * 100",
          unit: "%",
        }),
      },
      {
        id: "total",
        shows: "processor busy",
        split: "together",
        unit: "%",
        ceiling: 100,
        nameOf: () => "busy",
        reading: processorBusy,
      },
      {
        id: "cores",
        shows: "processor busy",
        split: "one line per core",
        unit: "%",
        ceiling: 100,
        nameOf: (line) => `core ${line.tags["cpu"] ?? ""}`,
        reading: (machine) =>
          scaled("system.cpu.core.time", machine, "value * 100", "%", {
            where: of(machine, notIdle),
            lines: { per: ["machine", "cpu"] },
            combine: "sum",
          }),
      },
      {
        id: "waiting",
        shows: "processor idle while it waits for disks",
        split: "together",
        unit: "%",
        ceiling: 100,
        needs: "system.disk.io",
        nameOf: () => "waiting for disks",
        reading: (machine) => ({
          sentences: {
            time: {
              counter: "system.cpu.time",
              where: of(machine, { tag: "mode", is: ["iowait"] }),
              lines: { per: ["machine"] },
              combine: "sum",
            },
            processors: common.processors(of(machine)),
          },
          figure: "time / processors * 100",
          unit: "%",
        }),
      },
    ],
  },
  {
    id: "memory",
    title: "Memory",
    counters: ["system.memory.usage"],
    figure: {
      words: "memory used",
      explains: common.formulas.memoryUsed,
      unit: "%",
      reading: memoryUsed,
      commonLimit: 90,
    },
    top: processesBy("process.memory.usage"),
    views: [
      {
        id: "states",
        shows: "memory",
        split: "by state, stacked",
        unit: "By",
        stacked: true,
        plain: ["free"],
        order: ["used", "shared", "buffers", "cached", "free"],
        nameOf: tag("state"),
        reading: (machine) => one("system.memory.usage", machine),
      },
      {
        id: "activity",
        shows: "memory by last use",
        split: "active and inactive",
        unit: "By",
        nameOf: tag("state"),
        reading: (machine) => one("system.memory.linux.activity", machine),
      },
      {
        id: "faults",
        shows: "page faults",
        split: "minor and major",
        unit: "/s",
        nameOf: tag("type"),
        reading: (machine) => scaled("system.paging.faults", machine, "value * 1", "/s"),
      },
      {
        id: "paging",
        shows: "paging traffic",
        split: "in and out",
        unit: "By/s",
        needs: "system.paging.io",
        nameOf: tag("direction"),
        reading: (machine) => one("system.paging.io", machine),
      },
      {
        id: "swap",
        shows: "swap operations",
        split: "in and out",
        unit: "/s",
        nameOf: tag("direction"),
        reading: (machine) => scaled("system.paging.operations", machine, "value * 1", "/s"),
      },
    ],
  },
  {
    id: "load",
    title: "Load",
    counters: ["system.cpu.load_average"],
    figure: { ...loadOver("5m"), instead: loadOver("1m") },
    views: [
      {
        id: "load",
        shows: "load",
        split: "over 1, 5 and 15 minutes",
        unit: "1",
        order: ["1 min", "5 min", "15 min"],
        nameOf: (line) => (line.tags["over"] ?? "").replace("m", " min"),
        reading: (machine) => one("system.cpu.load_average", machine),
      },
    ],
  },
  {
    id: "pressure",
    title: "Pressure",
    counters: ["system.pressure.stalled_time"],
    figure: {
      words: "time stalled",
      unit: "%",
      reading: (machine) =>
        scaled("system.pressure.stalled_time", machine, "value * 100", "%", {
          where: of(machine, { tag: "who", is: ["some"] }),
          lines: { per: ["machine"] },
          combine: "max",
        }),
      commonLimit: 20,
    },
    views: [
      {
        id: "some",
        shows: "time during which some tasks waited",
        split: "by resource",
        unit: "%",
        nameOf: tag("resource"),
        reading: (machine) =>
          scaled("system.pressure.stalled_time", machine, "value * 100", "%", {
            where: of(machine, { tag: "who", is: ["some"] }),
          }),
      },
      {
        id: "full",
        shows: "time during which all tasks waited",
        split: "by resource",
        unit: "%",
        nameOf: tag("resource"),
        reading: (machine) =>
          scaled("system.pressure.stalled_time", machine, "value * 100", "%", {
            where: of(machine, { tag: "who", is: ["full"] }),
          }),
      },
    ],
  },
  {
    id: "disks",
    title: "Disks",
    counters: ["system.disk.io"],
    top: {
      title: "disks by throughput",
      unit: "By/s",
      nameOf: tag("device"),
      reading: (machine) =>
        one("system.disk.io", machine, {
          lines: { per: ["machine", "device"] },
          combine: "sum",
          keep: { highest: 8, by: "mean" },
        }),
    },
    figure: {
      words: "busiest disk",
      explains: common.formulas.diskBusy,
      unit: "%",
      reading: diskBusy,
      commonLimit: 90,
    },
    views: [
      {
        id: "bytes",
        shows: "disk throughput",
        split: "by disk and direction",
        unit: "By/s",
        nameOf: withDirection("device"),
        reading: (machine) => one("system.disk.io", machine),
      },
      {
        id: "busy",
        shows: "disk busy time",
        split: "one line per disk",
        unit: "%",
        ceiling: 100,
        nameOf: tag("device"),
        reading: (machine) => scaled("system.disk.io_time", machine, "value * 100", "%"),
      },
      {
        id: "operations",
        shows: "disk operations",
        split: "by disk and direction",
        unit: "/s",
        nameOf: withDirection("device"),
        reading: (machine) => scaled("system.disk.operations", machine, "value * 1", "/s"),
      },
      {
        id: "queue",
        shows: "mean length of the disk queue",
        split: "one line per disk",
        unit: "1",
        nameOf: tag("device"),
        reading: (machine) => one("system.disk.weighted_io_time", machine),
      },
    ],
  },
  {
    id: "filesystems",
    title: "Filesystems",
    counters: ["system.filesystem.usage"],
    top: {
      title: "filesystems by share used",
      unit: "%",
      most: 100,
      nameOf: tag("mountpoint"),
      reading: fullestFilesystem,
    },
    figure: {
      words: "space used",
      explains: common.formulas.filesystemUsed,
      unit: "%",
      reading: fullestFilesystem,
      commonLimit: 90,
    },
    views: [
      {
        id: "share",
        shows: "space used",
        split: "one line per filesystem",
        unit: "%",
        ceiling: 100,
        nameOf: tag("mountpoint"),
        reading: fullestFilesystem,
      },
      {
        id: "bytes",
        shows: "space",
        split: "by filesystem and state",
        unit: "By",
        nameOf: tags("mountpoint", "state"),
        reading: (machine) => one("system.filesystem.usage", machine),
      },
      {
        id: "inodes",
        shows: "inodes",
        split: "by filesystem and state",
        unit: "1",
        nameOf: tags("mountpoint", "state"),
        reading: (machine) => one("system.filesystem.inodes", machine),
      },
    ],
  },
  {
    id: "network",
    title: "Network",
    counters: ["system.network.io"],
    top: {
      title: "interfaces by traffic",
      unit: "bit/s",
      nameOf: tag("interface"),
      reading: (machine) =>
        scaled("system.network.io", machine, "value * 8", "bit/s", {
          lines: { per: ["machine", "interface"] },
          combine: "sum",
          keep: { highest: 8, by: "mean" },
        }),
    },
    figure: {
      words: "network traffic",
      explains: common.formulas.networkBits,
      unit: "bit/s",
      reading: networkBits,
      commonLimit: 100e6,
    },
    views: [
      {
        id: "bits",
        shows: "network traffic",
        split: "by interface and direction",
        unit: "bit/s",
        nameOf: withDirection("interface"),
        reading: (machine) => scaled("system.network.io", machine, "value * 8", "bit/s"),
      },
      {
        id: "stacked",
        shows: "network traffic",
        split: "by interface, stacked",
        unit: "bit/s",
        stacked: true,
        nameOf: tag("interface"),
        reading: (machine) =>
          scaled("system.network.io", machine, "value * 8", "bit/s", {
            lines: { per: ["machine", "interface"] },
            combine: "sum",
          }),
      },
      {
        id: "protocols",
        shows: "network connections",
        split: "by application protocol, stacked",
        unit: "1",
        stacked: true,
        needs: "system.network.connection.count",
        nameOf: tag("protocol"),
        reading: (machine) => one("system.network.connection.count", machine),
      },
      {
        id: "virtual",
        shows: "traffic of bridges, tunnels and the like, counted at a device as well",
        split: "by interface and direction",
        unit: "bit/s",
        needs: "system.network.virtual.io",
        nameOf: withDirection("interface"),
        reading: (machine) => scaled("system.network.virtual.io", machine, "value * 8", "bit/s"),
      },
      {
        id: "packets",
        shows: "network packets",
        split: "by interface and direction",
        unit: "/s",
        nameOf: withDirection("interface"),
        reading: (machine) => scaled("system.network.packet.count", machine, "value * 1", "/s"),
      },
      {
        id: "dropped",
        shows: "network packets dropped",
        split: "by interface and direction",
        unit: "/s",
        nameOf: withDirection("interface"),
        reading: (machine) => scaled("system.network.packet.dropped", machine, "value * 1", "/s"),
      },
      {
        id: "errors",
        shows: "network errors",
        split: "by interface and direction",
        unit: "/s",
        nameOf: withDirection("interface"),
        reading: (machine) => scaled("system.network.errors", machine, "value * 1", "/s"),
      },
    ],
  },
  {
    id: "traffic",
    title: "Traffic by protocol",
    counters: ["system.network.protocol.io"],
    top: {
      title: "protocols by traffic received",
      unit: "bit/s",
      nameOf: tag("protocol"),
      reading: (machine) =>
        flowBits(machine, "receive", {
          lines: { per: ["machine", "protocol"] },
          combine: "sum",
          keep: { highest: 8, by: "mean" },
        }),
    },
    figure: {
      words: "received",
      unit: "bit/s",
      reading: (machine) => flowBits(machine, "receive", { lines: { per: ["machine"] }, combine: "sum" }),
      commonLimit: 100e6,
    },
    views: [
      {
        id: "received",
        shows: "received",
        split: "by application protocol, stacked",
        unit: "bit/s",
        stacked: true,
        nameOf: tag("protocol"),
        reading: (machine) => flowBits(machine, "receive", { lines: { per: ["machine", "protocol"] }, combine: "sum" }),
      },
      {
        id: "transmitted",
        shows: "transmitted",
        split: "by application protocol, stacked",
        unit: "bit/s",
        stacked: true,
        nameOf: tag("protocol"),
        reading: (machine) =>
          flowBits(machine, "transmit", { lines: { per: ["machine", "protocol"] }, combine: "sum" }),
      },
      {
        id: "interface-received",
        shows: "received",
        split: "by interface and application protocol",
        unit: "bit/s",
        stacked: true,
        nameOf: tags("interface", "protocol"),
        reading: (machine) =>
          flowBits(machine, "receive", {
            lines: { per: ["machine", "interface", "protocol"] },
            combine: "sum",
            keep: { highest: 16, by: "mean" },
          }),
      },
      {
        id: "interface-transmitted",
        shows: "transmitted",
        split: "by interface and application protocol",
        unit: "bit/s",
        stacked: true,
        nameOf: tags("interface", "protocol"),
        reading: (machine) =>
          flowBits(machine, "transmit", {
            lines: { per: ["machine", "interface", "protocol"] },
            combine: "sum",
            keep: { highest: 16, by: "mean" },
          }),
      },
    ],
  },
  {
    id: "temperature",
    title: "Temperature",
    counters: ["hw.temperature"],
    figure: {
      words: "hottest sensor",
      unit: "Cel",
      reading: (machine) =>
        scaled("hw.temperature", machine, "value * 1", "Cel", { lines: { per: ["machine"] }, combine: "max" }),
      commonLimit: 80,
    },
    views: [
      {
        id: "sensors",
        shows: "temperature",
        split: "one line per sensor",
        unit: "Cel",
        nameOf: tag("sensor"),
        reading: (machine) => one("hw.temperature", machine),
      },
    ],
  },
  {
    id: "processes",
    title: "Processes",
    counters: ["system.process.count"],
    figure: {
      words: "processes",
      unit: "1",
      reading: (machine) => one("system.process.count", machine, { lines: { per: ["machine"] }, combine: "sum" }),
      commonLimit: 1000,
    },
    views: [
      {
        id: "states",
        shows: "processes",
        split: "by state",
        unit: "1",
        nameOf: tag("state"),
        reading: (machine) => one("system.process.count", machine),
      },
      {
        id: "processor",
        shows: "processor time of processes",
        split: "the 8 highest",
        unit: "%",
        nameOf: tag("process"),
        reading: (machine) =>
          scaled("process.cpu.time", machine, "value * 100", "%", {
            lines: { per: ["machine", "process", "pid"] },
            combine: "sum",
            keep: { highest: 8, by: "mean" },
          }),
      },
      {
        id: "memory",
        shows: "memory of processes",
        split: "the 8 highest",
        unit: "By",
        nameOf: tag("process"),
        reading: (machine) => one("process.memory.usage", machine, { keep: { highest: 8, by: "mean" } }),
      },
    ],
  },
  ...windowsBands,
  ...deviceBands,
];
