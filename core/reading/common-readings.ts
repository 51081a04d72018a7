import type { Condition, ReadingDocument, Sentence } from "./document.ts";

type Open = Omit<ReadingDocument, "window">;

/**
 * The figures that many views speak of, each one line a machine (or a volume of one). `where` narrows them down; none
 * means all machines.
 */
type Usual = (where?: readonly Condition[]) => Open;

/** How each is made, in a sentence for who points at the figure; docs/figures.md has them with their sources. */
export const formulas = {
  processorBusy:
    "Time in all modes but idle and waiting for disks, of the time of all logical processors in all modes.",
  memoryUsed:
    "Memory size minus what is available to a new program, of the size. Shared memory and temporary file systems count as used.",
  diskBusy: "Time during which the busiest disk had at least one request.",
  diskWait: "Time that requests waited and were served, divided by how many there were.",
  networkBits:
    "Received and sent over interfaces with a device behind them. What bridges, tunnels and virtual pairs carry is in there already, and is not added.",
  filesystemUsed:
    "Used, of what is used or available to ordinary users, as df has it. What is reserved for the system's owner is neither.",
  poolUsed: "Used, of the pool's size.",
} as const;

const perMachine = { lines: { per: ["machine"] } } as const;
const on = (where: readonly Condition[]) => (where.length > 0 ? { where } : {});
const notIdle: Condition = { tag: "mode", not: ["idle", "iowait"] };

/** Logical processors of a machine, as the time that they spend in all modes says it: nobody needs to count them. */
export const processors = (where: readonly Condition[] = []): Sentence => ({
  counter: "system.cpu.time",
  ...on(where),
  ...perMachine,
  combine: "sum",
});

/** Share of the processors that works, percent. */
export const processorBusy: Usual = (where = []) => ({
  sentences: {
    busy: { counter: "system.cpu.time", where: [...where, notIdle], ...perMachine, combine: "sum" },
    processors: processors(where),
  },
  figure: "busy / processors * 100",
  unit: "%",
});

/**
 * Share of the memory that is not available, percent: shared memory and temporary file systems are told apart, and
 * count.
 */
export const memoryUsed: Usual = (where = []) => ({
  sentences: {
    used: {
      counter: "system.memory.usage",
      where: [...where, { tag: "state", is: ["used", "shared", "slab_unreclaimable"] }],
      ...perMachine,
      combine: "sum",
    },
    size: { counter: "system.memory.limit", ...on(where), ...perMachine, combine: "sum" },
  },
  figure: "used / size * 100",
  unit: "%",
});

/** Share of the time during which the busiest disk works, percent. */
export const diskBusy: Usual = (where = []) => ({
  sentences: { busy: { counter: "system.disk.io_time", ...on(where), ...perMachine, combine: "max" } },
  figure: "busy * 100",
  unit: "%",
});

/** How long an operation of a disk waits and is served, ms. */
export const diskWait: Usual = (where = []) => ({
  sentences: {
    waited: { counter: "system.disk.operation_time", ...on(where), ...perMachine, combine: "sum" },
    operations: { counter: "system.disk.operations", ...on(where), ...perMachine, combine: "sum" },
  },
  figure: "waited / operations * 1000",
  unit: "ms",
});

/**
 * Received and sent over all interfaces that have a device behind them, bits a second: bridges, tunnels and the like
 * pass on what these count already, and are counters of their own.
 */
export const networkBits: Usual = (where = []) => ({
  sentences: { bytes: { counter: "system.network.io", ...on(where), ...perMachine, combine: "sum" } },
  figure: "bytes * 8",
  unit: "bit/s",
});

/**
 * Share of each filesystem that is used, percent, as POSIX `df -P` has its capacity: of what is used or available to
 * ordinary users; what is reserved for the system's owner is neither.
 */
export const filesystemUsed: Usual = (where = []) => ({
  sentences: {
    used: {
      counter: "system.filesystem.usage",
      where: [...where, { tag: "state", is: ["used"] }],
      lines: { per: ["machine", "device", "mountpoint"] },
      combine: "sum",
    },
    usable: {
      counter: "system.filesystem.usage",
      where: [...where, { tag: "state", is: ["used", "free"] }],
      lines: { per: ["machine", "device", "mountpoint"] },
      combine: "sum",
    },
  },
  figure: "used / usable * 100",
  unit: "%",
});

/** Share of each storage pool that is used, percent. */
export const poolUsed: Usual = (where = []) => ({
  sentences: {
    used: {
      counter: "storage.pool.usage",
      where: [...where, { tag: "state", is: ["used"] }],
      lines: { per: ["machine", "pool"] },
      combine: "sum",
    },
    size: { counter: "storage.pool.limit", ...on(where), lines: { per: ["machine", "pool"] }, combine: "sum" },
  },
  figure: "used / size * 100",
  unit: "%",
});
