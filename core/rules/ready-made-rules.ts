import type { ReadingDocument } from "../reading/document.ts";
import { diskBusy, diskWait, filesystemUsed, memoryUsed, poolUsed, processorBusy } from "../reading/common-readings.ts";
import { type Limit, type RuleDocument, watchedValue } from "./rule.ts";

/** A rule that is switched on by one click, and where its limits come from. */
export interface ReadyMadeRule {
  readonly id: string;
  /** The kind of source, as people call it. */
  readonly about: "machines" | "storage" | "containers" | "guests" | "network" | "power" | "Nubrel itself";
  /** Counters that must be gathered. */
  readonly needs: readonly string[];
  readonly from: string;
  readonly document: RuleDocument;
}

type Open = Omit<ReadingDocument, "window">;
const minute = 60;
const hour = 3600;
const day = 86_400;

const above = (high: number, clearHigh?: number): Limit => ({ high, ...(clearHigh !== undefined && { clearHigh }) });
const below = (low: number, clearLow?: number): Limit => ({ low, ...(clearLow !== undefined && { clearLow }) });
const of = (
  counter: string,
  per: readonly string[],
  combine: "max" | "min" | "sum" | "mean" = "max",
  more: object = {},
): Open => ({ sentences: { a: { counter, lines: { per }, combine, ...more } } });
const base = {
  watch: watchedValue,
  compare: "above",
  notice: null,
  urgent: null,
  everySeconds: 0,
  mustLastSeconds: 0,
  staysRaisedSeconds: 0,
  noData: "hold",
  marginSeconds: null,
  place: null,
  advice: "",
} as const;
const overMinutes = (minutes: number) => ({ kind: "value", of: "mean", overSeconds: minutes * minute }) as const;

export const readyMadeRules: readonly ReadyMadeRule[] = [
  {
    id: "processor",
    about: "machines",
    needs: ["system.cpu.time"],
    from: "Common practice, no source: a processor alert at 75 %; five minutes, as a spike alone is no fault.",
    document: {
      ...base,
      name: "processor busy",
      reading: processorBusy(),
      watch: overMinutes(5),
      notice: above(75, 70),
      urgent: above(95, 85),
      mustLastSeconds: 5 * minute,
      advice: "Look at the processes that use most in the machine's band Processor.",
    },
  },
  {
    id: "memory",
    about: "machines",
    needs: ["system.memory.usage", "system.memory.limit"],
    from: "Common practice, no source: a tenth of the memory is kept for what comes.",
    document: {
      ...base,
      name: "memory used",
      reading: memoryUsed(),
      watch: overMinutes(5),
      notice: above(90, 85),
      urgent: above(97, 93),
      mustLastSeconds: 5 * minute,
    },
  },
  {
    id: "swapping",
    about: "machines",
    needs: ["system.paging.operations"],
    from: "Common practice, no source: steady swapping means that memory is too small.",
    document: {
      ...base,
      name: "steady swapping",
      reading: of("system.paging.operations", ["machine"], "sum"),
      watch: overMinutes(10),
      notice: above(100),
    },
  },
  {
    id: "disk-busy",
    about: "machines",
    needs: ["system.disk.io_time"],
    from: "Common practice, no source: a disk at its most for half an hour is worth a look; often two jobs overlap.",
    document: {
      ...base,
      name: "disk busy for half an hour",
      reading: diskBusy(),
      watch: overMinutes(5),
      notice: above(90, 80),
      mustLastSeconds: 30 * minute,
    },
  },
  {
    id: "disk-wait",
    about: "machines",
    needs: ["system.disk.operation_time", "system.disk.operations"],
    from: "Ours, no source: four standard deviations from the same clock time of earlier days, as a file server's queue is not a name server's.",
    document: {
      ...base,
      name: "disk wait is unusual",
      reading: diskWait(),
      watch: { kind: "usual" },
      notice: above(4, 2),
      mustLastSeconds: 10 * minute,
      noData: "ignore",
    },
  },
  {
    id: "filesystem",
    about: "storage",
    needs: ["system.filesystem.usage", "system.filesystem.limit"],
    from: "Common practice, no source: looked at from 80 %, urgent at 90 %.",
    document: {
      ...base,
      name: "filesystem nearly full",
      reading: filesystemUsed(),
      notice: above(80, 78),
      urgent: above(90, 88),
    },
  },
  {
    id: "filesystem-soon",
    about: "storage",
    needs: ["system.filesystem.usage", "system.filesystem.limit"],
    from: "Ours, no source: a week is time to order a drive, a day is not.",
    document: {
      ...base,
      name: "filesystem full soon",
      reading: filesystemUsed(),
      watch: { kind: "reach", target: 100, pastSeconds: 2 * day },
      compare: "below",
      notice: below(7 * day, 10 * day),
      urgent: below(day, 2 * day),
      mustLastSeconds: 4 * hour,
      noData: "ignore",
    },
  },
  {
    id: "pool",
    about: "storage",
    needs: ["storage.pool.usage", "storage.pool.limit"],
    from: "Common practice, no source: a pool becomes slow before it is full.",
    document: { ...base, name: "pool nearly full", reading: poolUsed(), notice: above(80, 78), urgent: above(90, 88) },
  },
  {
    id: "pool-soon",
    about: "storage",
    needs: ["storage.pool.usage", "storage.pool.limit"],
    from: "Ours, no source: two weeks, as drives of a pool are bought together.",
    document: {
      ...base,
      name: "pool full soon",
      reading: poolUsed(),
      watch: { kind: "reach", target: 100, pastSeconds: 4 * day },
      compare: "below",
      notice: below(14 * day, 18 * day),
      urgent: below(2 * day, 3 * day),
      mustLastSeconds: 8 * hour,
      noData: "ignore",
    },
  },
  {
    id: "month-budget",
    about: "power",
    needs: ["nubrel.month.budget_share"],
    from: "By its meaning: the month is expected to cost more than its budget.",
    document: {
      ...base,
      name: "month's budget will be passed",
      reading: {
        sentences: { share: { counter: "nubrel.month.budget_share", lines: { per: ["tariff"] }, combine: "max" } },
        figure: "share * 100",
        unit: "%",
      },
      notice: above(100, 98),
      urgent: null,
      mustLastSeconds: hour,
      noData: "ignore",
    },
  },
  {
    id: "pool-health",
    about: "storage",
    needs: ["storage.pool.trouble"],
    from: "By its meaning: a device is missing or has errors, the pool is degraded, read-only or lost data.",
    document: {
      ...base,
      name: "pool is unwell",
      reading: of("storage.pool.trouble", ["machine", "pool", "why"]),
      urgent: above(0),
    },
  },
  {
    id: "array-health",
    about: "storage",
    needs: ["storage.array.trouble"],
    from: "By its meaning: a member has failed or is missing, or the array is not active.",
    document: {
      ...base,
      name: "array is unwell",
      reading: of("storage.array.trouble", ["machine", "array", "why"]),
      urgent: above(0),
    },
  },
  {
    id: "drive-health",
    about: "storage",
    needs: ["drive.trouble"],
    from: "By its meaning: the drive's own verdict, an attribute at its threshold, or its critical warning.",
    document: {
      ...base,
      name: "drive is unwell",
      reading: of("drive.trouble", ["machine", "device", "why"]),
      urgent: above(0),
    },
  },
  {
    id: "drive-sectors",
    about: "storage",
    needs: ["drive.bad_sectors"],
    from: "Common practice, no source: a drive that begins to replace sectors goes on.",
    document: {
      ...base,
      name: "drive replaces sectors",
      reading: of("drive.bad_sectors", ["machine", "device"], "max"),
      watch: { kind: "change", overSeconds: day },
      notice: above(0),
      staysRaisedSeconds: hour,
      noData: "ignore",
    },
  },
  {
    id: "container-health",
    about: "containers",
    needs: ["container.healthy"],
    from: "By its meaning: the container's own check.",
    document: {
      ...base,
      name: "container is not healthy",
      reading: of("container.healthy", ["machine", "container"], "min"),
      compare: "below",
      notice: below(1),
      mustLastSeconds: 2 * minute,
      noData: "ignore",
    },
  },
  {
    id: "container-stopped",
    about: "containers",
    needs: ["container.state.running"],
    from: "Ours, no source: two minutes are enough for a restart.",
    document: {
      ...base,
      name: "container does not run",
      reading: of("container.state.running", ["machine", "container"], "min"),
      compare: "below",
      notice: below(1),
      mustLastSeconds: 2 * minute,
      noData: "ignore",
    },
  },
  {
    id: "container-restarts",
    about: "containers",
    needs: ["container.restarts"],
    from: "Ours, no source: three restarts in an hour are a loop.",
    document: {
      ...base,
      name: "container restarts again and again",
      reading: of("container.restarts", ["machine", "container"], "max", { as: "value" }),
      watch: { kind: "change", overSeconds: hour },
      notice: above(2),
      noData: "ignore",
    },
  },
  {
    id: "guest-stopped",
    about: "guests",
    needs: ["guest.state.running"],
    from: "Ours, no source: five minutes are enough for a restart.",
    document: {
      ...base,
      name: "guest does not run",
      reading: of("guest.state.running", ["machine", "guest"], "min"),
      compare: "below",
      notice: below(1),
      mustLastSeconds: 5 * minute,
    },
  },
  {
    id: "network-errors",
    about: "network",
    needs: ["system.network.errors"],
    from: "Common practice, no source: a sound link has none.",
    document: {
      ...base,
      name: "network errors",
      reading: of("system.network.errors", ["machine", "interface"], "sum"),
      watch: overMinutes(5),
      notice: above(1),
    },
  },
  {
    id: "link-down",
    about: "network",
    needs: ["hw.network.up"],
    from: "By its meaning. Leave out links that are meant to be down.",
    document: {
      ...base,
      name: "link went down",
      reading: of("hw.network.up", ["machine", "interface"], "min"),
      watch: { kind: "change", overSeconds: 15 * minute },
      compare: "below",
      notice: below(0),
      noData: "ignore",
    },
  },
  {
    id: "temperature",
    about: "power",
    needs: ["hw.temperature"],
    from: "Common practice, no source: most processors throttle from 90 °C.",
    document: {
      ...base,
      name: "temperature",
      reading: of("hw.temperature", ["machine", "sensor"], "max"),
      watch: overMinutes(5),
      notice: above(80, 75),
      urgent: above(90, 85),
    },
  },
  {
    id: "on-battery",
    about: "power",
    needs: ["ups.on_battery"],
    from: "By its meaning: the mains are away.",
    document: {
      ...base,
      name: "runs on battery",
      reading: of("ups.on_battery", ["machine"], "max"),
      urgent: above(0.5),
      advice: "Shut down in order what need not run before the battery is at a half.",
    },
  },
  {
    id: "battery-low",
    about: "power",
    needs: ["hw.battery.charge"],
    from: "Common practice, no source: half is time to shut down in order.",
    document: {
      ...base,
      name: "battery is low",
      reading: of("hw.battery.charge", ["machine"], "min"),
      compare: "below",
      notice: below(0.8, 0.85),
      urgent: below(0.5, 0.55),
    },
  },
  {
    id: "supply-load",
    about: "power",
    needs: ["ups.load"],
    from: "Common practice, no source: above four fifths there is no room for a start-up.",
    document: {
      ...base,
      name: "supply is heavily loaded",
      reading: of("ups.load", ["machine"], "max"),
      watch: overMinutes(5),
      notice: above(0.8, 0.75),
    },
  },
  {
    id: "waiting",
    about: "Nubrel itself",
    needs: ["nubrel.samples.waiting"],
    from: "Ours, no source: more than a moment's worth means that the database is slow or away.",
    document: {
      ...base,
      name: "samples wait for the database",
      reading: of("nubrel.samples.waiting", ["machine"], "max"),
      notice: above(200_000),
      urgent: above(2_000_000),
      mustLastSeconds: minute,
    },
  },
];
