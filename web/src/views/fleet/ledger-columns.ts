import type { Sentence } from "../../../../core/reading/document.ts";
import { diskWait as commonDiskWait, formulas } from "../../../../core/reading/common-readings.ts";
import type { OpenReading } from "../../sentence/reading-address.ts";
import { of, ofAllMachines, one, scaled } from "../../shared/bands/band.ts";
import {
  diskBusy,
  flowBits,
  fullestFilesystem,
  memoryUsed,
  networkBits,
  processorBusy,
} from "../../shared/bands/bands.ts";
import type { PartKind } from "../../shared/bands/part-bands.ts";
import { poolShare } from "../../shared/bands/device-bands.ts";

/** A column of the ledger: one figure of every machine. */
export interface LedgerColumn {
  readonly id: string;
  readonly title: string;
  /** How it is made, in a sentence. */
  readonly explains?: string;
  readonly unit: string;
  /** Where a cell leads on the machine's page. */
  readonly band: string;
  /**
   * Machines report the same thing by different counters: of strips the first that a machine has is drawn, of levels
   * the highest of all.
   */
  readonly readings: readonly ((machine: string) => OpenReading)[];
  /** The same figure of what runs on a machine. */
  readonly parts?: Partial<Readonly<Record<PartKind, OpenReading>>>;
  /** The value at a strip's upper edge; the column's highest where none is given. */
  readonly most?: number;
  /** Drawn as a level on a scale instead of a strip over time. */
  readonly scale?: true;
  /** Place of its colour in the palette. */
  readonly colour: number;
  /** Not read from counters, but worked out by the server: then it has no readings, and leads to a page of its own. */
  readonly workedOut?: "steadiness";
}

const perMachine = { lines: { per: ["machine"] } } as const;
const devicesOwn = (machine: string) =>
  scaled("system.cpu.utilization", machine, "value * 100", "%", { ...perMachine, combine: "mean" });
const windowsProcessor = (machine: string) =>
  one("windows.processor.percent_processor_time", machine, {
    where: of(machine, { tag: "instance", is: ["_Total"] }),
    ...perMachine,
    combine: "mean",
  });
const windowsNetwork = (machine: string): OpenReading => {
  const way = (name: string) => ({
    counter: `windows.network_interface.bytes_${name}_per_sec`,
    where: of(machine),
    ...perMachine,
    combine: "sum" as const,
  });
  return {
    sentences: { received: way("received"), sent: way("sent") },
    figure: "(received + sent) * 8",
    unit: "bit/s",
  };
};
const windowsVolumes = (machine: string) =>
  scaled("windows.logicaldisk.percent_free_space", machine, "100 - value", "%", {
    lines: { per: ["machine", "instance"] },
  });
const diskWait = (machine: string): OpenReading => commonDiskWait(of(machine));
const summed =
  (counter: string, more: Partial<Sentence> = {}) =>
  (machine: string) =>
    one(counter, machine, { ...perMachine, combine: "sum", ...more });
const highest = (counter: string, figure: string, unit: string) => (machine: string) =>
  scaled(counter, machine, figure, unit, { ...perMachine, combine: "max" });

const perPart = (part: PartKind) => ({ lines: { per: ["machine", part] }, combine: "sum" }) as const;
const ofPart = (counter: string, part: PartKind, figure: string, unit: string): OpenReading => ({
  sentences: { value: { counter, ...perPart(part) } },
  figure,
  unit,
});
/** A part's share of what its machine has. */
const share = (counter: string, part: PartKind, whole: string): OpenReading => ({
  sentences: {
    value: { counter, ...perPart(part) },
    whole: { counter: whole, ...perMachine, combine: "max", of_every: "last" },
  },
  figure: "value / whole * 100",
  unit: "%",
});
const shares = (name: string, whole: string) => ({
  guest: share(`guest.${name}`, "guest", whole),
  container: share(`container.${name}`, "container", whole),
});
const amounts = (name: string, figure: string, unit: string) => ({
  guest: ofPart(`guest.${name}`, "guest", figure, unit),
  container: ofPart(`container.${name}`, "container", figure, unit),
});

export const ledgerColumns: readonly LedgerColumn[] = [
  {
    id: "processor",
    title: "Processor",
    explains: formulas.processorBusy,
    unit: "%",
    band: "processor",
    readings: [processorBusy, devicesOwn, windowsProcessor],
    parts: shares("cpu.time", "system.cpu.logical.count"),
    most: 100,
    colour: 0,
  },
  {
    id: "memory",
    title: "Memory",
    explains: formulas.memoryUsed,
    unit: "%",
    band: "memory",
    readings: [memoryUsed],
    parts: shares("memory.usage", "system.memory.limit"),
    most: 100,
    colour: 1,
  },
  {
    id: "disk",
    title: "Busiest disk",
    explains: formulas.diskBusy,
    unit: "%",
    band: "disks",
    readings: [diskBusy],
    most: 100,
    colour: 2,
  },
  {
    id: "network",
    title: "Network",
    explains: formulas.networkBits,
    unit: "bit/s",
    band: "network",
    readings: [
      networkBits,
      windowsNetwork,
      (machine) => flowBits(machine, "receive", { ...perMachine, combine: "sum" }),
    ],
    parts: amounts("network.io", "value * 8", "bit/s"),
    colour: 0,
  },
  {
    id: "volume",
    title: "Fullest volume",
    explains: formulas.filesystemUsed,
    unit: "%",
    band: "filesystems",
    readings: [fullestFilesystem, poolShare, windowsVolumes],
    most: 100,
    scale: true,
    colour: 0,
  },
  {
    id: "wait",
    title: "Disk wait",
    explains: formulas.diskWait,
    unit: "ms",
    band: "disks",
    readings: [diskWait],
    colour: 2,
  },
  {
    id: "throughput",
    title: "Disk throughput",
    unit: "By/s",
    band: "disks",
    readings: [summed("system.disk.io")],
    parts: amounts("disk.io", "value * 1", "By/s"),
    colour: 2,
  },
  {
    id: "load",
    title: "Load",
    unit: "1",
    band: "load",
    // Some machines tell the load of a minute alone.
    readings: ["5m", "1m"].map(
      (over) => (machine: string) =>
        one("system.cpu.load_average", machine, { where: of(machine, { tag: "over", is: [over] }), ...perMachine }),
    ),
    colour: 0,
  },
  {
    id: "stalled",
    title: "Time stalled",
    unit: "%",
    band: "pressure",
    readings: [
      (machine) =>
        scaled("system.pressure.stalled_time", machine, "value * 100", "%", {
          where: of(machine, { tag: "who", is: ["some"] }),
          ...perMachine,
          combine: "max",
        }),
    ],
    most: 100,
    colour: 3,
  },
  {
    id: "temperature",
    title: "Hottest sensor",
    unit: "Cel",
    band: "temperature",
    readings: [highest("hw.temperature", "value * 1", "Cel")],
    colour: 3,
  },
  {
    id: "power",
    title: "Power",
    unit: "W",
    band: "power",
    readings: [summed("hw.host.power"), highest("hw.power", "value * 1", "W")],
    colour: 4,
  },
  {
    id: "battery",
    title: "Battery",
    unit: "%",
    band: "battery",
    readings: [highest("hw.battery.charge", "value * 100", "%")],
    most: 100,
    colour: 4,
  },
  {
    id: "processes",
    title: "Processes",
    unit: "1",
    band: "processes",
    readings: [summed("system.process.count")],
    parts: { container: ofPart("container.process.count", "container", "value * 1", "1") },
    colour: 5,
  },
  {
    id: "steadiness",
    title: "Steadiness",
    explains:
      "100 less what incidents, silences, restarts, time without mains and unwell drives took; it comes back with quiet days.",
    unit: "1",
    band: "",
    readings: [],
    most: 100,
    scale: true,
    colour: 0,
    workedOut: "steadiness",
  },
  { id: "guests", title: "Guests", unit: "1", band: "guests", readings: [summed("guest.state.running")], colour: 7 },
  {
    id: "containers",
    title: "Containers",
    unit: "1",
    band: "containers",
    readings: [summed("container.state.running")],
    colour: 7,
  },
];

export const defaultColumns: readonly string[] = ["processor", "memory", "disk", "network", "volume"];

/** The same readings for all machines at once: the condition on the machine is taken out, lines stay one a machine. */
export function ofEveryMachine(column: LedgerColumn): readonly OpenReading[] {
  return column.readings.map((make) => ofAllMachines(make("")));
}

/** The counters that a column reads, of machines. */
export function countersOf(column: LedgerColumn): readonly string[] {
  return column.readings.flatMap((make) => Object.values(make("").sentences).map(({ counter }) => counter));
}
