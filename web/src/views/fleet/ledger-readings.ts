import type { ReadingDocument } from "../../../../core/reading/document.ts";
import type { OpenReading } from "../../sentence/reading-address.ts";
import type { Span } from "../../time/time-window.ts";
import type { LedgerChoice } from "./ledger-choice.ts";
import { type LedgerColumn, ledgerColumns, ofEveryMachine } from "./ledger-columns.ts";

const stripPoints = 120;

/** The columns whose readings are wanted: those that stand there, and the one by which rows are sorted. */
export function readColumns({ columns, sort }: LedgerChoice): readonly LedgerColumn[] {
  const sorted = sort.replace(/^-/, "");
  const read = [...columns, ...(sorted !== "name" && !columns.includes(sorted) ? [sorted] : [])];
  return ledgerColumns.filter(({ id }) => read.includes(id));
}

export const inWindow = (reading: OpenReading, { fromMs, toMs }: Span): ReadingDocument => ({
  ...reading,
  points: stripPoints,
  window: { from: Math.round(fromMs), to: Math.round(toMs) },
});

/** What the columns ask for all machines; of what nobody reports, once that is known, nothing. */
export function ledgerReadings(
  columns: readonly LedgerColumn[],
  span: Span,
  reported?: ReadonlySet<string>,
): readonly { readonly column: string; readonly reading: ReadingDocument }[] {
  return columns.flatMap((column) =>
    ofEveryMachine(column)
      .filter(({ sentences }) => !reported || Object.values(sentences).every(({ counter }) => reported.has(counter)))
      .map((reading) => ({ column: column.id, reading: inWindow(reading, span) })),
  );
}
