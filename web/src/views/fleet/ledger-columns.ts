import { diskBusy, fullestFilesystem, memoryUsed, networkBits, processorBusy } from "../machine/bands.ts";
import type { OpenReading } from "../machine/band.ts";

/** A column of the ledger: one figure of every machine. */
export interface LedgerColumn {
  readonly id: string;
  readonly title: string;
  readonly unit: string;
  /** Where a cell leads on the machine's page. */
  readonly band: string;
  readonly reading: (machine: string) => OpenReading;
  /** The value at a strip's upper edge; the column's highest where none is given. */
  readonly most?: number;
  /** Drawn as a level on a scale instead of a strip over time. */
  readonly scale?: true;
}

export const ledgerColumns: readonly LedgerColumn[] = [
  { id: "processor", title: "Processor", unit: "%", band: "processor", reading: processorBusy, most: 100 },
  { id: "memory", title: "Memory", unit: "%", band: "memory", reading: memoryUsed, most: 100 },
  { id: "disk", title: "Busiest disk", unit: "%", band: "disks", reading: diskBusy, most: 100 },
  { id: "network", title: "Network", unit: "bit/s", band: "network", reading: networkBits },
  { id: "volume", title: "Fullest volume", unit: "%", band: "filesystems", reading: fullestFilesystem, most: 100, scale: true },
];

/** The same reading for all machines at once: the condition on the machine is taken out, lines stay one a machine. */
export function ofEveryMachine(column: LedgerColumn): OpenReading {
  const reading = column.reading("");
  const sentences = Object.entries(reading.sentences).map(([name, sentence]) => [name, { ...sentence, where: (sentence.where ?? []).filter(({ tag }) => tag !== "machine") }]);
  return { ...reading, sentences: Object.fromEntries(sentences) };
}
