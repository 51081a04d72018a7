import { type CounterInfo, type CounterKind, type Falls, onlyGrows, type Reduction, type CommonLimit, wrap32 } from "./counter.ts";

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
  "storage.pool.trouble": hottest,
  "storage.array.trouble": hottest,
  "drive.trouble": hottest,
  "drive.healthy": worst,
  "guest.state.running": worst,
  "storage.array.healthy": worst,
  "storage.array.limit": newest,
  "hw.healthy": worst,
  "hw.powered": worst,
  "hw.network.up": worst,
  "hw.network.bandwidth.limit": newest,
  "hw.battery.charge": worst,
  "hw.battery.time_left": worst,
  "hw.battery.healthy": worst,
  "ups.on_battery": hottest,
  "container.healthy": worst,
  "container.state.running": worst,
  "hw.host.power": added,
  "hw.power": hottest,
  "container.count": added,
  "container.image.count": added,
  "container.memory.cache": added,
  "container.memory.rss": added,
  "container.filesystem.usage": added,
  "storage.dataset.usage": added,
  "system.memory.usage": added,
  "system.paging.usage": added,
  "system.filesystem.usage": added,
  "system.filesystem.inodes": added,
  "container.memory.usage": added,
  "guest.memory.usage": added,
  "guest.memory.resident": added,
  "storage.pool.usage": added,
  "process.memory.usage": added,
  "nubrel.series.count": newest,
  "nubrel.database.size": newest,
  "system.network.connection.count": added,
};

/** Limits to begin with. Common practice, no source, where nothing else is said; those of shares hold for the rate, 1 being all of the time. */
const limits: Readonly<Record<string, CommonLimit>> = {
  "system.cpu.core.time": { compare: "above", value: 0.9, from: "common practice: one core that is busy all the time" },
  "system.disk.io_time": { compare: "above", value: 0.9, from: "common practice: a disk that is always busy is worth a look after half an hour" },
  "system.paging.operations": { compare: "above", value: 100, from: "common practice: steady swapping means that memory is too small" },
  "system.pressure.stalled_time": { compare: "above", value: 0.2, from: "common practice: a fifth of the time lost by waiting is felt" },
  "system.network.errors": { compare: "above", value: 1, from: "common practice: a sound link has none" },
  "hw.temperature": { compare: "above", value: 80, from: "common practice: most processors throttle from 90 °C, drives should stay below 60" },
  "storage.pool.healthy": { compare: "below", value: 1, from: "by its meaning" },
  "drive.healthy": { compare: "below", value: 1, from: "by its meaning" },
  "storage.pool.trouble": { compare: "above", value: 0, from: "by its meaning" },
  "storage.array.trouble": { compare: "above", value: 0, from: "by its meaning" },
  "drive.trouble": { compare: "above", value: 0, from: "by its meaning" },
  "storage.array.healthy": { compare: "below", value: 1, from: "by its meaning" },
  "hw.healthy": { compare: "below", value: 1, from: "by its meaning" },
  "hw.battery.charge": { compare: "below", value: 0.5, from: "common practice: half is time to shut down in order" },
  "hw.battery.healthy": { compare: "below", value: 1, from: "by its meaning" },
  "ups.on_battery": { compare: "above", value: 0.5, from: "by its meaning" },
  "ups.load": { compare: "above", value: 0.8, from: "common practice: a supply above four fifths has no room for a start-up" },
  "container.healthy": { compare: "below", value: 1, from: "by its meaning" },
  "drive.bad_sectors": { compare: "above", value: 0, from: "common practice: a drive that begins to replace sectors goes on" },
  "drive.wear": { compare: "above", value: 0.9, from: "common practice: 1 is the rated life" },
  "guest.state.running": { compare: "below", value: 1, from: "by its meaning" },
};

const wrappedMs = wrap32 / 1000;

/**
 * Totals of which the kernel documents that they fall without a restart: idle time and time waiting for disks may decrease (proc(5), /proc/stat); times of
 * disks are unsigned int in ms (Documentation/admin-guide/iostats.rst), and given in seconds here.
 */
const falling: Readonly<Record<string, Falls>> = {
  "system.cpu.time": "corrected",
  "system.cpu.core.time": "corrected",
  "system.disk.io_time": wrappedMs,
  "system.disk.operation_time": wrappedMs,
  "system.disk.weighted_io_time": wrappedMs,
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
  ["system.memory.usage", "level", "By", "memory", "Memory by what it is used for; the states add up to the memory size. Used and shared together are what is not available to a new program; shared is shared memory and temporary file systems."],
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
  ["system.network.virtual.io", "total", "By", "traffic of virtual interfaces", "Bytes received and transmitted by bridges, virtual pairs, tunnels, bonds and VLANs. An interface with a device behind it carries and counts the same bytes, so these are not added to the network traffic."],
  ["system.network.protocol.io", "total", "By", "traffic by protocol", "Bytes that an interface received and transmitted, by application protocol: the registered service of the port, as flows of a router or connections of the machine tell it."],
  ["system.network.packet.count", "total", "{packet}", "network packets", "Packets received and transmitted by an interface."],
  ["system.network.errors", "total", "{error}", "network errors", "Packets that were damaged or could not be sent."],
  ["system.network.packet.dropped", "total", "{packet}", "network packets dropped", "Packets thrown away although nothing was wrong with them, mostly for want of room."],
  ["system.network.connection.count", "level", "{connection}", "network connections", "Open TCP connections with other machines, by application protocol: the service of the port that is spoken to."],
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
  ["guest.memory.usage", "level", "By", "guest's memory", "Memory that is in use within a virtual machine, as it says itself: what it sees minus what it could still get."],
  ["guest.memory.resident", "level", "By", "guest's memory on the host", "Memory that the process of a virtual machine holds on its host: its own, what it once used, and what emulates its devices."],
  ["guest.network.io", "total", "By", "guest's network traffic", "Bytes received and transmitted by an interface of a virtual machine."],
  ["guest.disk.io", "total", "By", "guest's disk throughput", "Bytes read from and written to a disk of a virtual machine."],
  ["storage.pool.limit", "level", "By", "pool size", "The size of a storage pool."],
  ["storage.pool.usage", "level", "By", "pool space", "Space of a storage pool by state. A pool that is nearly full becomes slow before it is full."],
  ["storage.pool.healthy", "state", "1", "pool is healthy", "1 while all of a pool's drives are well, 0 while it is degraded or worse."],
  ["storage.pool.trouble", "state", "1", "what ails a pool", "1 while a storage pool is unwell for this reason: a device is missing, it is degraded or read-only, its devices have had errors since they were reset, data is lost."],
  ["storage.array.trouble", "state", "1", "what ails an array", "1 while a software array is unwell for this reason: a member has failed or is missing, or it is not active."],
  ["drive.trouble", "state", "1", "what ails a drive", "1 while a drive is unwell for this reason: by its own verdict, an attribute at its threshold, a critical warning."],
  ["drive.healthy", "state", "1", "drive is healthy", "1 while nothing ails a drive, 0 where it says itself that it will fail soon, or warns."],
  ["drive.power_on_time", "total", "s", "drive's hours", "How long a drive has been powered in its life."],
  ["system.cpu.utilization", "level", "1", "processor load", "Share of the last minute that a processor was busy, as the device itself works it out."],
  ["system.user.count", "level", "{user}", "signed-in users", "Sessions of people on the device."],
  ["hw.network.up", "state", "1", "link is up", "1 while an interface is up, 0 while it is down."],
  ["hw.network.bandwidth.limit", "level", "By/s", "link speed", "The most that an interface can carry in one direction."],
  ["hw.fan.speed", "level", "{turn}/min", "fan speed", "Turns of a fan in a minute."],
  ["hw.fan.speed_ratio", "level", "1", "fan speed by share", "Speed of a fan as a share of its most."],
  ["hw.voltage", "level", "V", "voltage", "Voltage at a sensor."],
  ["hw.current", "level", "A", "current", "Current at a sensor."],
  ["hw.frequency", "level", "Hz", "frequency", "Frequency of the mains or of an output."],
  ["hw.humidity", "level", "1", "humidity", "Relative humidity of the air at a sensor."],
  ["hw.power", "level", "W", "power of a sensor", "Electrical power at the moment of the reading, by sensor: inputs, outputs and parts of one machine tell of the same power and are not to be added."],
  ["hw.host.power", "level", "W", "power", "What a machine draws, its input where that is told: the tag says which sensor was decided on."],
  ["hw.power.limit", "level", "W", "power at most", "The power that a supply or a machine is built for."],
  ["hw.power.own_mean", "level", "W", "power, the device's own mean", "The mean over a while that the device works out itself: to be compared with the mean of the readings."],
  ["hw.energy", "total", "J", "energy", "Energy used since the device began to count."],
  ["hw.healthy", "state", "1", "part is well", "1 while the device says that a part is well, 0 while it warns."],
  ["hw.powered", "state", "1", "is switched on", "1 while the machine is on, as its management controller sees it."],
  ["hw.battery.charge", "level", "1", "battery charge", "How full a battery is."],
  ["hw.battery.time_left", "level", "s", "battery lasts", "How long the battery would last at the present load, by the device's own estimate."],
  ["hw.battery.healthy", "state", "1", "battery is well", "0 while the device wants its battery replaced or charged."],
  ["ups.on_battery", "state", "1", "runs on battery", "1 while the mains are away."],
  ["ups.load", "level", "1", "supply's load", "Share of what a power supply can give."],
  ["ups.input.failures", "total", "{failure}", "mains failures", "How often the mains left what the supply allows."],
  ["ups.alarm.count", "level", "{alarm}", "supply's alarms", "Alarms that stand at the power supply just now."],
  ["container.memory.cache", "level", "By", "container's cache", "The part of a container's memory that holds files and can be given up."],
  ["container.memory.rss", "level", "By", "container's own memory", "The part of a container's memory that its programs hold."],
  ["container.memory.activity", "level", "By", "container's memory by last use", "Pages that a container used lately (active) and pages that would be given up first (inactive)."],
  ["container.paging.faults", "total", "{fault}", "container's page faults", "Accesses to memory that was not mapped; major ones had to read from a disk."],
  ["container.disk.operations", "total", "{operation}", "container's disk operations", "Reads and writes of a container."],
  ["container.filesystem.usage", "level", "By", "container's own disk space", "What a container has written over its image."],
  ["container.network.io", "total", "By", "container's network traffic", "Bytes received and transmitted by a container."],
  ["container.network.packet.count", "total", "{packet}", "container's packets", "Packets received and transmitted by a container."],
  ["container.state.running", "state", "1", "container runs", "1 while a container runs, 0 while it is stopped, paused or restarting."],
  ["container.healthy", "state", "1", "container is healthy", "The verdict of the container's own health check; absent where it has none."],
  ["container.restarts", "total", "{restart}", "container's restarts", "How often the engine has restarted a container by itself."],
  ["container.count", "level", "{container}", "containers", "Containers by state."],
  ["container.image.count", "level", "{container}", "containers by image", "Containers made of an image, by state."],
  ["guest.disk.operations", "total", "{operation}", "guest's disk operations", "Reads and writes of a virtual machine's disk."],
  ["storage.pool.fragmentation", "level", "1", "pool's fragmentation", "How broken up the free space of a pool is."],
  ["storage.dataset.usage", "level", "By", "dataset's space", "What a dataset of a pool takes, with everything below it."],
  ["storage.device.errors", "total", "{error}", "pool's device errors", "Errors of a device in a pool since they were reset."],
  ["storage.array.healthy", "state", "1", "array is healthy", "1 while a software array has all its members."],
  ["storage.array.members", "level", "{drive}", "array's members", "Members of a software array: wanted, present, failed."],
  ["storage.array.limit", "level", "By", "array size", "The size of a software array."],
  ["storage.array.sync", "level", "1", "array in step", "How far a software array has been brought in step or checked; 1 when nothing goes on."],
  ["drive.bad_sectors", "level", "{sector}", "drive's bad sectors", "Sectors that a drive has replaced, wants to, or cannot read. Any growth is a warning."],
  ["drive.wear", "level", "1", "drive's wear", "Share of its rated life that a drive has used; it may go beyond 1."],
  ["drive.media_errors", "total", "{error}", "drive's media errors", "Data that a drive could not read back whole."],
  ["drive.written", "total", "By", "written in a drive's life", "Bytes that have been written to a drive since it was made."],
  ["process.cpu.time", "total", "s", "process's processor time", "Seconds that one process used; kept for those that use most."],
  ["nubrel.cpu.time", "total", "s", "Nubrel's processor time", "Seconds of processor time that Nubrel's server used, worker threads included, the database not."],
  ["nubrel.memory.usage", "level", "By", "Nubrel's memory", "Memory of the server's process; \"head\" is its part that holds the newest samples."],
  ["nubrel.samples.taken", "total", "{sample}", "samples taken", "Samples that were made durable, of all sources; more at once where an import runs."],
  ["nubrel.samples.refused", "total", "{sample}", "samples refused", "Samples that were not taken, by reason."],
  ["nubrel.samples.waiting", "level", "{sample}", "samples waiting", "Samples in memory that wait for the database; more than a moment's worth means that it is slow or away."],
  ["nubrel.series.count", "level", "{series}", "series known", "Counters times their tags: what each costs is a little memory and disk."],
  ["nubrel.database.size", "level", "By", "database's size", "Disk that the whole database takes, indexes and journal included."],
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
  rows.map(([name, kind, unit, words, explains]) => [name, { name, kind, unit, words, explains, ...(reductions[name] && { reduction: reductions[name] }), ...(limits[name] && { limit: limits[name] }), ...(falling[name] !== undefined && { falls: falling[name] }) }]),
);

/** The catalogue's entry. Throws where the counter has none: what the product gathers must be explained. */
export function counterInfo(name: string): CounterInfo {
  const info = catalogue.get(name);
  if (!info) throw new Error(`counter "${name}" is not in the catalogue (core/counters/catalogue.ts)`);
  return info;
}
