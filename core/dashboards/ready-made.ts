import type { Sentence } from "../reading/document.ts";
import { filesystemUsed, memoryUsed, poolUsed, processorBusy } from "../reading/usual-readings.ts";
import { type Dashboard, dashboardFormat, dashboardVersion, type Tile } from "./dashboard.ts";

/** A dashboard that the product keeps, offered where all of `needs` are gathered; whoever changes one changes a copy. */
export interface ReadyMade {
  readonly id: string;
  readonly needs: readonly string[];
  readonly document: Dashboard;
}

type Part = Omit<Tile, "id">;

const perMachine = { lines: { per: ["machine"] } } as const;
const summed = { ...perMachine, combine: "sum" } as const;
const is = (tag: string, ...values: readonly string[]) => ({ tag, is: values });
const reading = (sentences: Readonly<Record<string, Sentence>>, figure?: string, unit?: string): NonNullable<Tile["reading"]> => ({ sentences, ...(figure !== undefined && { figure }), ...(unit !== undefined && { unit }) });
const at = (x: number, y: number, width: number, height: number) => ({ x, y, width, height });

const bits = (counter: string, ...per: readonly string[]) => reading({ bytes: { counter, lines: { per }, combine: "sum" } }, "bytes * 8", "bit/s");
function made(id: string, needs: readonly string[], title: string, description: string, parts: readonly Part[]): ReadyMade {
  return { id, needs, document: { format: dashboardFormat, version: dashboardVersion, title, description, tags: ["ready-made"], start: { lastSeconds: 21_600, everySeconds: 15 }, tiles: parts.map((part, i) => ({ id: `tile-${i + 1}`, ...part })) } };
}

export const readyMade: readonly ReadyMade[] = [
  made("fleet", ["system.cpu.time", "system.memory.usage"], "The fleet", "Every machine's processor, memory, network and volumes beside one another.", [
    { title: "Processor, every machine", kind: "lines", place: at(0, 0, 6, 6), reading: processorBusy() },
    { title: "Memory, every machine", kind: "lines", place: at(6, 0, 6, 6), reading: memoryUsed() },
    { title: "Network, every machine", kind: "stacked", place: at(0, 6, 6, 6), reading: bits("system.network.io", "machine") },
    { title: "Fullest filesystems", kind: "top", place: at(6, 6, 3, 6), reading: filesystemUsed() },
    { title: "What happened", kind: "events", place: at(9, 6, 3, 6) },
    { title: "Load over 5 minutes", kind: "horizon", place: at(0, 12, 12, 6), reading: reading({ load: { counter: "system.cpu.load_average", where: [is("over", "5m")], ...perMachine } }) },
  ]),
  made("guests", ["guest.cpu.time"], "Guests", "What runs on hypervisors: who uses how much of what.", [
    { title: "Processors kept busy", kind: "stacked", place: at(0, 0, 8, 6), reading: reading({ time: { counter: "guest.cpu.time", lines: { per: ["guest"] }, combine: "sum" } }) },
    { title: "Memory taken", kind: "top", place: at(8, 0, 4, 6), reading: reading({ memory: { counter: "guest.memory.usage", lines: { per: ["guest"] }, combine: "sum" } }) },
    { title: "Network", kind: "lines", place: at(0, 6, 6, 6), reading: bits("guest.network.io", "guest") },
    { title: "Disks", kind: "lines", place: at(6, 6, 6, 6), reading: reading({ io: { counter: "guest.disk.io", lines: { per: ["guest"] }, combine: "sum" } }) },
  ]),
  made("containers", ["container.cpu.time", "container.memory.usage"], "Containers", "Every container: processor, memory against its limit, network, restarts.", [
    { title: "Processors kept busy", kind: "stacked", place: at(0, 0, 8, 6), reading: reading({ time: { counter: "container.cpu.time", lines: { per: ["container"] }, combine: "sum" } }) },
    { title: "Memory", kind: "top", place: at(8, 0, 4, 6), reading: reading({ memory: { counter: "container.memory.usage", lines: { per: ["container"] }, combine: "sum" } }) },
    { title: "Memory over time", kind: "lines", place: at(0, 6, 6, 6), reading: reading({ memory: { counter: "container.memory.usage", lines: { per: ["container"] }, combine: "sum" } }) },
    { title: "Network", kind: "lines", place: at(6, 6, 6, 6), reading: bits("container.network.io", "container") },
    { title: "What happened", kind: "events", place: at(0, 12, 12, 5) },
  ]),
  made("storage", ["storage.pool.usage"], "Storage", "Pools, their drives, and how fast they fill.", [
    { title: "Pools, share used", kind: "lines", place: at(0, 0, 8, 6), reading: poolUsed() },
    { title: "Pools now", kind: "top", place: at(8, 0, 4, 6), reading: poolUsed() },
    { title: "Disk throughput", kind: "lines", place: at(0, 6, 6, 6), reading: reading({ io: { counter: "system.disk.io", lines: { per: ["machine", "direction"] }, combine: "sum" } }) },
    { title: "Busiest disks", kind: "top", place: at(6, 6, 6, 6), reading: reading({ busy: { counter: "system.disk.io_time", lines: { per: ["machine", "device"] }, combine: "max", keep: { highest: 8, by: "mean" } } }, "busy * 100", "%") },
  ]),
  made("network", ["system.network.io", "hw.network.up"], "Network devices", "Interfaces of routers and switches: traffic, errors, links.", [
    { title: "Traffic by interface", kind: "lines", place: at(0, 0, 8, 7), reading: { ...bits("system.network.io", "machine", "interface"), sentences: { bytes: { counter: "system.network.io", lines: { per: ["machine", "interface"] }, combine: "sum", keep: { highest: 8, by: "mean" } } } } },
    { title: "Links that are up", kind: "table", place: at(8, 0, 4, 7), reading: reading({ up: { counter: "hw.network.up", lines: { per: ["machine", "interface"] }, combine: "min", of_every: "last" } }) },
    { title: "Errors a second", kind: "lines", place: at(0, 7, 12, 5), reading: reading({ errors: { counter: "system.network.errors", ...summed } }) },
  ]),
  made("power", ["hw.power"], "Power and temperature", "Watts, battery and the warmest sensors.", [
    { title: "Power", kind: "stacked", place: at(0, 0, 8, 6), reading: reading({ power: { counter: "hw.power", lines: { per: ["machine"] }, combine: "sum" } }) },
    { title: "Warmest sensors", kind: "top", place: at(8, 0, 4, 6), reading: reading({ heat: { counter: "hw.temperature", lines: { per: ["machine", "sensor"] }, combine: "max", keep: { highest: 10, by: "last" } } }) },
    { title: "Temperatures", kind: "lines", place: at(0, 6, 12, 6), reading: reading({ heat: { counter: "hw.temperature", ...perMachine, combine: "max" } }) },
  ]),
];
