import { of, one, scaled } from "../machine/band.ts";
import type { OpenReading } from "../../sentence/reading-address.ts";
import { diskBusy, fullestFilesystem, memoryUsed, networkBits, processorBusy } from "../machine/bands.ts";
import { poolShare } from "../machine/device-bands.ts";

/** A column of the ledger: one figure of every machine. */
export interface LedgerColumn {
  readonly id: string;
  readonly title: string;
  readonly unit: string;
  /** Where a cell leads on the machine's page. */
  readonly band: string;
  /** Machines report the same thing by different counters: of strips the first that a machine has is drawn, of levels the highest of all. */
  readonly readings: readonly ((machine: string) => OpenReading)[];
  /** The value at a strip's upper edge; the column's highest where none is given. */
  readonly most?: number;
  /** Drawn as a level on a scale instead of a strip over time. */
  readonly scale?: true;
}

const perMachine = { lines: { per: ["machine"] } } as const;
const devicesOwn = (machine: string) => scaled("system.cpu.utilization", machine, "value * 100", "%", { ...perMachine, combine: "mean" });
const windowsProcessor = (machine: string) => one("windows.processor.percent_processor_time", machine, { where: of(machine, { tag: "instance", is: ["_Total"] }), ...perMachine, combine: "mean" });
const windowsNetwork = (machine: string): OpenReading => {
  const way = (name: string) => ({ counter: `windows.network_interface.bytes_${name}_per_sec`, where: of(machine), ...perMachine, combine: "sum" as const });
  return { sentences: { received: way("received"), sent: way("sent") }, figure: "(received + sent) * 8", unit: "bit/s" };
};
const windowsVolumes = (machine: string) => scaled("windows.logicaldisk.percent_free_space", machine, "100 - value", "%", { lines: { per: ["machine", "instance"] } });

export const ledgerColumns: readonly LedgerColumn[] = [
  { id: "processor", title: "Processor", unit: "%", band: "processor", readings: [processorBusy, devicesOwn, windowsProcessor], most: 100 },
  { id: "memory", title: "Memory", unit: "%", band: "memory", readings: [memoryUsed], most: 100 },
  { id: "disk", title: "Busiest disk", unit: "%", band: "disks", readings: [diskBusy], most: 100 },
  { id: "network", title: "Network", unit: "bit/s", band: "network", readings: [networkBits, windowsNetwork] },
  { id: "volume", title: "Fullest volume", unit: "%", band: "filesystems", readings: [fullestFilesystem, poolShare, windowsVolumes], most: 100, scale: true },
];

/** The same readings for all machines at once: the condition on the machine is taken out, lines stay one a machine. */
export function ofEveryMachine(column: LedgerColumn): readonly OpenReading[] {
  return column.readings.map((make) => {
    const reading = make("");
    const sentences = Object.entries(reading.sentences).map(([name, sentence]) => [name, { ...sentence, where: (sentence.where ?? []).filter(({ tag }) => tag !== "machine") }]);
    return { ...reading, sentences: Object.fromEntries(sentences) };
  });
}
