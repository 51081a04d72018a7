import { catalogue } from "../../counters/catalogue.ts";

/**
 * Names of counters in the system and process conventions as they were before, with the name that they have here.
 * Current names are the catalogue's own.
 * (OpenTelemetry semantic conventions, system metrics, and what its collector's host receiver and its host-metrics
 * package send.)
 */
const renamed: Readonly<Record<string, string>> = {
  "system.network.dropped": "system.network.packet.dropped",
  "system.network.packets": "system.network.packet.count",
  "system.filesystem.inodes.usage": "system.filesystem.inodes",
  "system.processes.count": "system.process.count",
  "system.processes.created": "system.process.created",
};
const loads: Readonly<Record<string, string>> = {
  "system.cpu.load_average.1m": "1m",
  "system.cpu.load_average.5m": "5m",
  "system.cpu.load_average.15m": "15m",
};

/**
 * Attributes, of the current and the former conventions, with the tag that they are here. Those of networks are named
 * by what carries them.
 */
const tagNames: Readonly<Record<string, string>> = {
  "cpu.mode": "mode",
  "system.cpu.state": "mode",
  "process.cpu.state": "mode",
  "cpu.logical_number": "cpu",
  "system.cpu.logical_number": "cpu",
  "system.memory.state": "state",
  "system.paging.state": "state",
  "system.filesystem.state": "state",
  "system.process.status": "state",
  "process.status": "state",
  status: "state",
  "system.device": "device",
  "network.interface.name": "interface",
  "disk.io.direction": "direction",
  "network.io.direction": "direction",
  "system.network.direction": "direction",
  "system.paging.direction": "direction",
  "system.paging.type": "type",
  "system.paging.fault.type": "type",
  "system.filesystem.mountpoint": "mountpoint",
  "system.filesystem.type": "type",
  "system.filesystem.mode": "mode",
};
const states: Readonly<Record<string, string>> = { buffered: "buffers", cache: "cached" };
const modes: Readonly<Record<string, string>> = {
  wait: "iowait",
  irq: "interrupt",
  soft_irq: "softirq",
  softirq: "softirq",
};
/**
 * Interfaces that pass on what another one carries already, by the names that systems give them (common practice, no
 * source).
 */
const virtualInterface =
  /^(lo\d*$|dock\w*\d|veth|br-|br\d|virbr|vnet|vmbr|fw(br|pr|ln)|tap|tun|wg|cni|flannel|cali|bond|team|dummy|ifb)|[.@]/;
/** Disks that stand on others, and devices that are none. */
const stackedDisk = /^(dm-|md\d|loop|ram|zram|zd\d|sr\d|nbd)/;

/** A point's counter and tags by the catalogue's names; `leave` says why it is none of the machine's figures. */
export interface HostPoint {
  readonly counter: string;
  readonly tags: Readonly<Record<string, string>>;
  readonly leave?: string;
}

/** Whether a metric tells about a host or a process, by the conventions. */
export function isHostMetric(name: string): boolean {
  return name.startsWith("system.") || name.startsWith("process.");
}

/** What one request tells of beside a point: whole disks make their parts be left, real interfaces the virtual ones. */
export interface HostContext {
  readonly disks: ReadonlySet<string>;
  readonly interfaces: ReadonlySet<string>;
}

/** How a point of a host's metric is kept. */
export function hostPoint(
  name: string,
  attributes: Readonly<Record<string, string>>,
  { disks, interfaces }: HostContext,
): HostPoint {
  const tags = hostTags(name, attributes);
  const load = loads[name];
  if (load !== undefined) return { counter: "system.cpu.load_average", tags: { ...tags, over: load } };
  const counter = renamed[name] ?? name;
  // The catalogue's own is a device's figure for all that is not idle.
  if (counter === "system.cpu.utilization" && tags["mode"] !== undefined)
    return { counter: "system.cpu.utilization.by_mode", tags };
  if (
    counter === "system.network.io" &&
    isVirtual(tags["interface"] ?? "") &&
    (tags["interface"]?.startsWith("lo") || [...interfaces].some((one) => !isVirtual(one)))
  )
    return { counter: "system.network.virtual.io", tags };
  if (counter.startsWith("system.disk.")) {
    const device = tags["device"] ?? "";
    if (stackedDisk.test(device) && [...disks].some((one) => !stackedDisk.test(one)))
      return { counter, tags, leave: "a disk that stands on another one" };
    if (isPartition(device, disks)) return { counter, tags, leave: "a part of a disk that is told of as a whole" };
  }
  return { counter, tags };
}

function hostTags(name: string, attributes: Readonly<Record<string, string>>): Readonly<Record<string, string>> {
  const isProcessor = name.endsWith("cpu.time") || name.endsWith("cpu.utilization");
  const tags: Record<string, string> = {};
  for (const [attribute, value] of Object.entries(attributes)) {
    // "state" and "device" were plain words once, and "state" was a processor's mode.
    const known =
      (Object.hasOwn(tagNames, attribute) ? tagNames[attribute] : undefined) ??
      (attribute === "state" && isProcessor ? "mode" : attribute);
    const tag = known === "device" && name.startsWith("system.network.") ? "interface" : known;
    if (tag === "cpu") tags[tag] = value.replace(/^cpu/, "");
    else if (tag === "device" && name.startsWith("system.disk.")) tags[tag] = value.replace("/dev/", "");
    else if (tag === "mode" && isProcessor) tags[tag] = modes[value] ?? value;
    else tags[tag] = tag === "state" ? (states[value] ?? value) : value;
  }
  return tags;
}

/** The device or interface that a point is of, as `HostContext` has them. */
export function partOf(
  name: string,
  attributes: Readonly<Record<string, string>>,
): { readonly of: "disks" | "interfaces"; readonly name: string } | undefined {
  const of = name.startsWith("system.disk.") ? "disks" : name === "system.network.io" ? "interfaces" : undefined;
  const part = of && hostTags(name, attributes)[of === "disks" ? "device" : "interface"];
  return of && part !== undefined ? { of, name: part } : undefined;
}

const isVirtual = (name: string): boolean => virtualInterface.test(name);

function isPartition(device: string, disks: ReadonlySet<string>): boolean {
  const whole = /^(.*\d)p\d+$/.exec(device)?.[1] ?? /^([a-z]+)\d+$/.exec(device)?.[1];
  return whole !== undefined && disks.has(whole);
}

/** The unit that a host's counter has: the catalogue's, where the sender says none. */
export function hostUnit(counter: string, said: string): string {
  return said !== "" && said !== "1" ? said : (catalogue.get(counter)?.unit ?? said);
}
