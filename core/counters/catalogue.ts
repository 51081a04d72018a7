import { type CounterInfo, type CounterKind, onlyGrows, type Reduction, type UsualLimit } from "./counter.ts";

const newest: Reduction = { as: "value", ofEvery: "last", combine: "max" };
const worst: Reduction = { as: "value", ofEvery: "min", combine: "min" };
const hottest: Reduction = { as: "value", ofEvery: "max", combine: "max" };
const added: Reduction = { as: "value", ofEvery: "mean", combine: "sum" };

/** Where a counter's kind does not say how it is best reduced: amounts are added over series, sizes taken as they are now, health by its worst. */
const reductions: Readonly<Record<string, Reduction>> = {
  "system.cpu.logical.count": newest,
  "system.memory.limit": newest,
  "system.uptime": newest,
  "system.filesystem.limit": newest,
  "container.memory.limit": newest,
  "guest.memory.limit": newest,
  "guest.cpu.count": newest,
  "storage.pool.limit": newest,
  "hw.temperature": hottest,
  "storage.pool.healthy": worst,
  "drive.healthy": worst,
  "guest.state.running": worst,
  "system.memory.usage": added,
  "system.paging.usage": added,
  "system.filesystem.usage": added,
  "system.filesystem.inodes": added,
  "container.memory.usage": added,
  "guest.memory.usage": added,
  "storage.pool.usage": added,
  "process.memory.usage": added,
};

/** Limits to begin with. Common practice, no source, where nothing else is said; those of shares hold for the rate, 1 being all of the time. */
const limits: Readonly<Record<string, UsualLimit>> = {
  "system.cpu.core.time": { compare: "above", value: 0.9, from: "common practice: one core that is busy all the time" },
  "system.disk.io_time": { compare: "above", value: 0.9, from: "common practice: a disk that is always busy is worth a look after half an hour" },
  "system.paging.operations": { compare: "above", value: 100, from: "common practice: steady swapping means that memory is too small" },
  "system.pressure.stalled_time": { compare: "above", value: 0.2, from: "common practice: a fifth of the time lost by waiting is felt" },
  "system.network.errors": { compare: "above", value: 1, from: "common practice: a sound link has none" },
  "hw.temperature": { compare: "above", value: 80, from: "common practice: most processors throttle from 90 °C, drives should stay below 60" },
  "storage.pool.healthy": { compare: "below", value: 1, from: "by its meaning" },
  "drive.healthy": { compare: "below", value: 1, from: "by its meaning" },
  "guest.state.running": { compare: "below", value: 1, from: "by its meaning" },
};

/** What is shown of a counter unless asked otherwise. */
export function naturalReduction({ kind, reduction }: Pick<CounterInfo, "kind" | "reduction">): Reduction {
  return reduction ?? (onlyGrows(kind) ? { as: "rate", ofEvery: "mean", combine: "sum" } : { as: "value", ofEvery: "mean", combine: "mean" });
}

const rows: readonly (readonly [name: string, kind: CounterKind, unit: string, words: string, explains: string])[] = [
  ["system.cpu.time", "total", "s", "processor time", "Seconds that all logical processors together spent in each mode. Its rate is how many processors were in that mode."],
  ["system.cpu.core.time", "total", "s", "processor time of one core", "Seconds that one logical processor spent in each mode. Its rate, 0 to 1, is the share of that processor."],
  ["system.cpu.logical.count", "level", "{cpu}", "logical processors", "How many logical processors the machine has switched on."],
  ["system.cpu.load_average", "level", "{thread}", "load", "Mean number of tasks that run or wait for a processor or a disk, over 1, 5 and 15 minutes. More than the number of processors means that something waits."],
  ["system.memory.limit", "level", "By", "memory size", "How much memory the system can use."],
  ["system.memory.usage", "level", "By", "memory", "Memory by what it is used for; the states add up to the memory size."],
  ["system.memory.linux.available", "level", "By", "memory available", "The kernel's estimate of how much memory a new program could get without swapping."],
  ["system.memory.linux.slab.usage", "level", "By", "kernel slab memory", "Memory that the kernel keeps for its own objects; the reclaimable part is given back when needed."],
  ["system.memory.linux.activity", "level", "By", "memory by last use", "Pages used lately (active) and pages that would be given up first (inactive)."],
  ["system.memory.linux.shared", "level", "By", "shared memory", "Memory shared between programs, temporary file systems included."],
  ["system.memory.linux.mapped", "level", "By", "mapped files", "Files mapped into memory, libraries for example."],
  ["system.memory.linux.dirty", "level", "By", "memory to be written", "Data that waits to be written to a disk."],
  ["system.memory.linux.writeback", "level", "By", "memory being written", "Data being written to a disk just now."],
  ["system.memory.linux.committed", "level", "By", "memory promised", "Memory promised to programs, whether they use it yet or not."],
  ["system.paging.usage", "level", "By", "swap", "Swap space used and free."],
  ["system.paging.operations", "total", "{operation}", "paging", "Pages swapped in from and out to the swap space. A steady rate means that memory is too small."],
  ["system.paging.faults", "total", "{fault}", "page faults", "Accesses to memory that was not mapped; major ones had to read from a disk."],
  ["system.paging.io", "total", "By", "paging traffic", "Bytes read from and written to block devices on behalf of the page cache and swap."],
  ["system.disk.io", "total", "By", "disk throughput", "Bytes read from and written to a disk."],
  ["system.disk.operations", "total", "{operation}", "disk operations", "Reads and writes completed by a disk."],
  ["system.disk.merged", "total", "{operation}", "merged disk operations", "Neighbouring reads and writes that were joined before they reached the disk."],
  ["system.disk.io_time", "total", "s", "disk busy time", "Seconds during which a disk had at least one request to work on. Its rate, 0 to 1, is the share of time busy."],
  ["system.disk.operation_time", "total", "s", "disk waiting time", "Seconds that requests spent waiting and being served, added over requests."],
  ["system.disk.weighted_io_time", "total", "s", "disk queue time", "Seconds weighted by the requests in flight. Its rate is the mean length of the queue."],
  ["system.disk.pending_operations", "level", "{operation}", "disk queue", "Requests in flight at the moment of the reading."],
  ["system.filesystem.usage", "level", "By", "filesystem space", "Space by state: used, free for everybody, reserved for the system's owner."],
  ["system.filesystem.limit", "level", "By", "filesystem size", "The size of a filesystem."],
  ["system.filesystem.inodes", "level", "{inode}", "inodes", "Inodes used and free; a filesystem without free ones takes no new file."],
  ["system.network.io", "total", "By", "network traffic", "Bytes received and transmitted by an interface."],
  ["system.network.packet.count", "total", "{packet}", "network packets", "Packets received and transmitted by an interface."],
  ["system.network.errors", "total", "{error}", "network errors", "Packets that were damaged or could not be sent."],
  ["system.network.packet.dropped", "total", "{packet}", "network packets dropped", "Packets thrown away although nothing was wrong with them, mostly for want of room."],
  ["system.pressure.stalled_time", "total", "s", "time stalled", "Seconds during which some (or all, \"full\") tasks waited for this resource. Its rate, 0 to 1, is the share of time lost."],
  ["hw.temperature", "level", "Cel", "temperature", "Temperature of a sensor."],
  ["system.uptime", "level", "s", "uptime", "Seconds since the machine was started."],
  ["system.process.count", "level", "{process}", "processes", "Processes by state."],
  ["system.process.created", "total", "{process}", "processes created", "Processes and threads started since the machine was."],
  ["container.cpu.time", "total", "s", "container's processor time", "Seconds that a container's processes spent, by mode. Its rate is how many processors they use."],
  ["container.cpu.throttled_time", "total", "s", "container's time throttled", "Seconds during which a container wanted to run and had used up its allowance."],
  ["container.memory.usage", "level", "By", "container's memory", "Memory that is charged to a container, its share of the page cache included."],
  ["container.memory.limit", "level", "By", "container's memory limit", "How much memory a container may use; absent where it may use all."],
  ["container.process.count", "level", "{process}", "container's processes", "Processes and threads in a container."],
  ["container.disk.io", "total", "By", "container's disk throughput", "Bytes that a container read from and wrote to disks."],
  ["guest.state.running", "state", "1", "guest runs", "1 while a virtual machine runs, 0 while it is off or paused."],
  ["guest.cpu.time", "total", "s", "guest's processor time", "Seconds of processor that a virtual machine used. Its rate is how many processors it keeps busy."],
  ["guest.cpu.count", "level", "{cpu}", "guest's processors", "Virtual processors that a virtual machine has."],
  ["guest.memory.limit", "level", "By", "guest's memory size", "Memory that a virtual machine has been given."],
  ["guest.memory.usage", "level", "By", "guest's memory", "Memory that a virtual machine takes of its host."],
  ["guest.network.io", "total", "By", "guest's network traffic", "Bytes received and transmitted by an interface of a virtual machine."],
  ["guest.disk.io", "total", "By", "guest's disk throughput", "Bytes read from and written to a disk of a virtual machine."],
  ["storage.pool.limit", "level", "By", "pool size", "The size of a storage pool."],
  ["storage.pool.usage", "level", "By", "pool space", "Space of a storage pool by state. A pool that is nearly full becomes slow before it is full."],
  ["storage.pool.healthy", "state", "1", "pool is healthy", "1 while all of a pool's drives are well, 0 while it is degraded or worse."],
  ["drive.healthy", "state", "1", "drive is healthy", "The drive's own verdict: 0 means that it expects to fail soon."],
  ["drive.power_on_time", "total", "s", "drive's hours", "How long a drive has been powered in its life."],
  ["process.cpu.time", "total", "s", "process's processor time", "Seconds that one process used; kept for those that use most."],
  ["process.memory.usage", "level", "By", "process's memory", "Resident memory of one process; kept for those that use most."],
];

/** Names as they stand in text formats, which have no dots. */
const byPlainName: ReadonlyMap<string, CounterInfo> = new Map(rows.map(([name, kind, unit, words, explains]) => [name.replaceAll(".", "_"), { name, kind, unit, words, explains }]));

/** The catalogue's entry for a name whose dots have become underscores; undefined where there is none. */
export function counterOfPlainName(name: string): CounterInfo | undefined {
  return byPlainName.get(name);
}

/** Every counter that the product gathers itself, by name. */
export const catalogue: ReadonlyMap<string, CounterInfo> = new Map(
  rows.map(([name, kind, unit, words, explains]) => [name, { name, kind, unit, words, explains, ...(reductions[name] && { reduction: reductions[name] }), ...(limits[name] && { limit: limits[name] }) }]),
);

/** The catalogue's entry. Throws where the counter has none: what the product gathers must be explained. */
export function counterInfo(name: string): CounterInfo {
  const info = catalogue.get(name);
  if (!info) throw new Error(`counter "${name}" is not in the catalogue (core/counters/catalogue.ts)`);
  return info;
}
