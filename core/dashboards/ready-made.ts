import type { Sentence } from "../reading/document.ts";
import { filesystemUsed, memoryUsed, poolUsed, processorBusy, processors } from "../reading/common-readings.ts";
import { type Dashboard, dashboardFormat, dashboardVersion, type Tile } from "./dashboard.ts";
import type { TileLimit } from "./limits.ts";
import type { Picker } from "./pickers.ts";

/**
 * A dashboard that the product keeps, offered where all of `needs` are gathered; whoever changes one changes a copy.
 */
export interface ReadyMade {
  readonly id: string;
  readonly needs: readonly string[];
  readonly document: Dashboard;
}

type Part = Omit<Tile, "id">;

const perMachine = { lines: { per: ["machine"] } } as const;
const summed = { ...perMachine, combine: "sum" } as const;
const is = (tag: string, ...values: readonly string[]) => ({ tag, is: values });
const reading = (
  sentences: Readonly<Record<string, Sentence>>,
  figure?: string,
  unit?: string,
): NonNullable<Tile["reading"]> => ({
  sentences,
  ...(figure !== undefined && { figure }),
  ...(unit !== undefined && { unit }),
});
const at = (x: number, y: number, width: number, height: number) => ({ x, y, width, height });

const bits = (counter: string, ...per: readonly string[]) =>
  reading({ bytes: { counter, lines: { per }, combine: "sum" } }, "bytes * 8", "bit/s");
function made(
  id: string,
  needs: readonly string[],
  title: string,
  description: string,
  parts: readonly Part[],
  pickers: readonly Picker[] = [],
): ReadyMade {
  return {
    id,
    needs,
    document: {
      format: dashboardFormat,
      version: dashboardVersion,
      title,
      description,
      tags: ["ready-made"],
      start: { lastSeconds: 21_600, everySeconds: 15 },
      ...(pickers.length > 0 && { pickers }),
      tiles: parts.map((part, i) => ({ id: `tile-${i + 1}`, ...part })),
    },
  };
}

const machines = (choose: Picker["choose"]): Picker => ({ id: "machine", tag: "machine", choose });
/** Common practice, no source: a filesystem is looked at from 80 %, and is urgent at 90 %. */
const nearlyFull: readonly TileLimit[] = [
  { at: 80, compare: "above", severity: "notice" },
  { at: 90, compare: "above", severity: "urgent" },
];
/** Common practice (needs.md). */
const busy: readonly TileLimit[] = [{ at: 75, compare: "above", severity: "notice" }];

export const readyMade: readonly ReadyMade[] = [
  made(
    "machine",
    ["system.cpu.time", "system.memory.usage"],
    "One machine",
    "Everything usual of the machine that is picked.",
    [
      { title: "Processor", kind: "dial", place: at(0, 0, 3, 5), reading: processorBusy(), limits: busy },
      { title: "Memory used", kind: "dial", place: at(3, 0, 3, 5), reading: memoryUsed(), limits: nearlyFull },
      {
        title: "Filesystems",
        kind: "meter",
        place: at(6, 0, 6, 5),
        reading: filesystemUsed(),
        limits: nearlyFull,
        meter: { order: "highest" },
        most: 6,
      },
      {
        title: "Processor by mode",
        kind: "stacked",
        place: at(0, 5, 6, 6),
        reading: reading(
          {
            time: {
              counter: "system.cpu.time",
              where: [{ tag: "mode", not: ["idle", "iowait"] }],
              lines: { per: ["machine", "mode"] },
              combine: "sum",
            },
            processors: processors(),
          },
          "time / processors * 100",
          "%",
        ),
      },
      {
        title: "Memory by use",
        kind: "stacked",
        place: at(6, 5, 6, 6),
        reading: reading({ memory: { counter: "system.memory.usage", lines: { per: ["state"] }, combine: "sum" } }),
      },
      {
        title: "Network",
        kind: "lines",
        place: at(0, 11, 6, 6),
        reading: bits("system.network.io", "interface", "direction"),
      },
      {
        title: "Disks",
        kind: "lines",
        place: at(6, 11, 6, 6),
        reading: reading({
          io: {
            counter: "system.disk.io",
            lines: { per: ["device", "direction"] },
            combine: "sum",
            keep: { highest: 8, by: "mean" },
          },
        }),
      },
      {
        title: "Load",
        kind: "lines",
        place: at(0, 17, 6, 5),
        reading: reading({ load: { counter: "system.cpu.load_average", lines: { per: ["over"] }, combine: "mean" } }),
      },
      {
        title: "Processes by processor",
        kind: "top",
        place: at(6, 17, 3, 5),
        reading: reading(
          {
            time: {
              counter: "process.cpu.time",
              lines: { per: ["process"] },
              combine: "sum",
              keep: { highest: 8, by: "mean" },
            },
          },
          "time * 100",
          "%",
        ),
        shows: "mean",
      },
      { title: "What happened", kind: "events", place: at(9, 17, 3, 5) },
    ],
    [machines("one")],
  ),
  made(
    "fleet",
    ["system.cpu.time", "system.memory.usage"],
    "The fleet",
    "Every machine's processor, memory, network and volumes beside one another.",
    [
      { title: "Processor, every machine", kind: "lines", place: at(0, 0, 6, 6), reading: processorBusy() },
      { title: "Memory, every machine", kind: "lines", place: at(6, 0, 6, 6), reading: memoryUsed() },
      {
        title: "Network, every machine",
        kind: "stacked",
        place: at(0, 6, 6, 6),
        reading: bits("system.network.io", "machine"),
      },
      {
        title: "Fullest filesystems",
        kind: "top",
        place: at(6, 6, 3, 6),
        reading: filesystemUsed(),
        limits: nearlyFull,
      },
      { title: "What happened", kind: "events", place: at(9, 6, 3, 6) },
      {
        title: "Load over 5 minutes",
        kind: "horizon",
        place: at(0, 12, 12, 6),
        reading: reading({ load: { counter: "system.cpu.load_average", where: [is("over", "5m")], ...perMachine } }),
      },
    ],
    [machines("several")],
  ),
  made(
    "guests",
    ["guest.cpu.time"],
    "Guests",
    "What runs on hypervisors: who uses how much of what.",
    [
      {
        title: "Processors kept busy",
        kind: "stacked",
        place: at(0, 0, 8, 6),
        reading: reading({ time: { counter: "guest.cpu.time", lines: { per: ["guest"] }, combine: "sum" } }),
      },
      {
        title: "Memory taken",
        kind: "top",
        place: at(8, 0, 4, 6),
        reading: reading({ memory: { counter: "guest.memory.usage", lines: { per: ["guest"] }, combine: "sum" } }),
      },
      { title: "Network", kind: "lines", place: at(0, 6, 6, 6), reading: bits("guest.network.io", "guest") },
      {
        title: "Disks",
        kind: "lines",
        place: at(6, 6, 6, 6),
        reading: reading({ io: { counter: "guest.disk.io", lines: { per: ["guest"] }, combine: "sum" } }),
      },
      {
        title: "Running",
        kind: "states",
        place: at(0, 12, 6, 5),
        reading: reading({
          runs: { counter: "guest.state.running", lines: { per: ["guest"] }, combine: "min", of_every: "last" },
        }),
        states: [
          { from: 0, words: "off", signal: "notice" },
          { from: 1, words: "runs" },
        ],
      },
      {
        title: "The hypervisor's processor",
        kind: "lines",
        place: at(6, 12, 6, 5),
        reading: processorBusy(),
        limits: busy,
      },
    ],
    [{ id: "guest", tag: "guest", choose: "several" }],
  ),
  made(
    "containers",
    ["container.cpu.time", "container.memory.usage"],
    "Containers",
    "Every container: processor, memory against its limit, network, restarts.",
    [
      {
        title: "Processors kept busy",
        kind: "stacked",
        place: at(0, 0, 8, 6),
        reading: reading({ time: { counter: "container.cpu.time", lines: { per: ["container"] }, combine: "sum" } }),
      },
      {
        title: "Memory",
        kind: "top",
        place: at(8, 0, 4, 6),
        reading: reading({
          memory: { counter: "container.memory.usage", lines: { per: ["container"] }, combine: "sum" },
        }),
      },
      {
        title: "Memory over time",
        kind: "lines",
        place: at(0, 6, 6, 6),
        reading: reading({
          memory: { counter: "container.memory.usage", lines: { per: ["container"] }, combine: "sum" },
        }),
      },
      { title: "Network", kind: "lines", place: at(6, 6, 6, 6), reading: bits("container.network.io", "container") },
      {
        title: "Running",
        kind: "states",
        place: at(0, 12, 7, 6),
        reading: reading({
          runs: { counter: "container.state.running", lines: { per: ["container"] }, combine: "min", of_every: "last" },
        }),
        states: [
          { from: 0, words: "stopped", signal: "notice" },
          { from: 1, words: "runs" },
        ],
      },
      { title: "What happened", kind: "events", place: at(7, 12, 5, 6) },
    ],
    [{ id: "container", tag: "container", choose: "several" }],
  ),
  made(
    "storage",
    ["storage.pool.usage"],
    "Storage",
    "Pools, their drives, and how fast they fill.",
    [
      { title: "Pools, share used", kind: "lines", place: at(0, 0, 8, 6), reading: poolUsed() },
      { title: "Pools now", kind: "meter", place: at(8, 0, 4, 6), reading: poolUsed(), limits: nearlyFull },
      {
        title: "Disk throughput",
        kind: "lines",
        place: at(0, 6, 6, 6),
        reading: reading({
          io: { counter: "system.disk.io", lines: { per: ["machine", "direction"] }, combine: "sum" },
        }),
      },
      {
        title: "Busiest disks",
        kind: "top",
        place: at(6, 6, 6, 6),
        reading: reading(
          {
            busy: {
              counter: "system.disk.io_time",
              lines: { per: ["machine", "device"] },
              combine: "max",
              keep: { highest: 8, by: "mean" },
            },
          },
          "busy * 100",
          "%",
        ),
        shows: "mean",
      },
      {
        title: "Drives",
        kind: "states",
        place: at(0, 12, 6, 6),
        reading: reading({
          well: { counter: "drive.healthy", lines: { per: ["machine", "device"] }, combine: "min", of_every: "last" },
        }),
        states: [
          { from: 0, words: "expects to fail", signal: "urgent" },
          { from: 1, words: "well" },
        ],
      },
      {
        title: "Warmest drives and sensors",
        kind: "top",
        place: at(6, 12, 6, 6),
        reading: reading({
          heat: {
            counter: "hw.temperature",
            lines: { per: ["machine", "sensor"] },
            combine: "max",
            keep: { highest: 10, by: "last" },
          },
        }),
      },
    ],
    [machines("several")],
  ),
  made(
    "network",
    ["system.network.io", "hw.network.up"],
    "Network devices",
    "Interfaces of routers and switches: traffic, errors, links.",
    [
      {
        title: "Traffic by interface",
        kind: "lines",
        place: at(0, 0, 8, 7),
        reading: {
          ...bits("system.network.io", "machine", "interface"),
          sentences: {
            bytes: {
              counter: "system.network.io",
              lines: { per: ["machine", "interface"] },
              combine: "sum",
              keep: { highest: 8, by: "mean" },
            },
          },
        },
      },
      {
        title: "Links",
        kind: "states",
        place: at(8, 0, 4, 7),
        reading: reading({
          up: { counter: "hw.network.up", lines: { per: ["machine", "interface"] }, combine: "min", of_every: "last" },
        }),
        states: [
          { from: 0, words: "down", signal: "notice" },
          { from: 1, words: "up" },
        ],
      },
      {
        title: "Errors a second",
        kind: "lines",
        place: at(0, 7, 12, 5),
        reading: reading({ errors: { counter: "system.network.errors", ...summed } }),
      },
    ],
    [machines("several")],
  ),
  made(
    "power",
    ["hw.host.power"],
    "Power and temperature",
    "Watts, what they cost, battery and the warmest sensors.",
    [
      { title: "Energy and its cost", kind: "energy", place: at(0, 0, 7, 6) },
      { title: "This month", kind: "cost", place: at(7, 0, 5, 6) },
      {
        title: "Power",
        kind: "lines",
        place: at(0, 6, 8, 6),
        reading: reading({ power: { counter: "hw.host.power", lines: { per: ["machine"] }, combine: "sum" } }),
      },
      {
        title: "Warmest sensors",
        kind: "top",
        place: at(8, 6, 4, 6),
        reading: reading({
          heat: {
            counter: "hw.temperature",
            lines: { per: ["machine", "sensor"] },
            combine: "max",
            keep: { highest: 10, by: "last" },
          },
        }),
      },
      {
        title: "Temperatures",
        kind: "lines",
        place: at(0, 12, 8, 6),
        reading: reading({ heat: { counter: "hw.temperature", ...perMachine, combine: "max" } }),
      },
      {
        title: "Batteries",
        kind: "meter",
        place: at(8, 12, 4, 6),
        reading: reading(
          { charge: { counter: "hw.battery.charge", ...perMachine, combine: "min" } },
          "charge * 100",
          "%",
        ),
        limits: [{ at: 50, compare: "below", severity: "urgent" }],
      },
    ],
    [machines("several")],
  ),
  made("itself", ["nubrel.cpu.time"], "Nubrel itself", "What gathering takes and does.", [
    {
      title: "Processor, of one core",
      kind: "lines",
      place: at(0, 0, 6, 6),
      reading: reading({ time: { counter: "nubrel.cpu.time", ...summed } }, "time * 100", "%"),
    },
    {
      title: "Memory",
      kind: "lines",
      place: at(6, 0, 6, 6),
      reading: reading({ memory: { counter: "nubrel.memory.usage", lines: { per: ["part"] }, combine: "sum" } }),
    },
    {
      title: "Samples taken a second",
      kind: "lines",
      place: at(0, 6, 6, 6),
      reading: reading({ taken: { counter: "nubrel.samples.taken", ...summed } }),
    },
    {
      title: "Samples waiting for the database",
      kind: "lines",
      place: at(6, 6, 6, 6),
      reading: reading({ waiting: { counter: "nubrel.samples.waiting", ...summed } }),
    },
    {
      title: "The database",
      kind: "number",
      place: at(0, 12, 3, 5),
      reading: reading({
        size: { counter: "nubrel.database.size", lines: { per: ["machine"] }, combine: "max", of_every: "last" },
      }),
    },
    {
      title: "Series",
      kind: "number",
      place: at(3, 12, 3, 5),
      reading: reading({
        series: { counter: "nubrel.series.count", lines: { per: ["machine"] }, combine: "max", of_every: "last" },
      }),
    },
    {
      title: "Refused, by reason",
      kind: "lines",
      place: at(6, 12, 6, 5),
      reading: reading({ refused: { counter: "nubrel.samples.refused", lines: { per: ["reason"] }, combine: "sum" } }),
    },
  ]),
];
