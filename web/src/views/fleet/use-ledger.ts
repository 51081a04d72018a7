import { insteadColumns } from "./instead-columns.ts";
import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import type { Line, ReadingAnswer } from "../../../../core/reading/document.ts";
import { countersQuery } from "../../api/queries.ts";
import { useReadings } from "../../api/use-readings.ts";
import type { OpenReading } from "../../sentence/reading-address.ts";
import { useTime } from "../../time/time-provider.tsx";
import type { CellData } from "./ledger-cells.tsx";
import { countersOf, type LedgerColumn } from "./ledger-columns.ts";
import { inWindow, ledgerReadings } from "./ledger-readings.ts";
import { useSteadiness } from "./use-steadiness.ts";
import type { PartKind } from "../../shared/bands/part-bands.ts";

const partKinds: readonly PartKind[] = ["guest", "container"];

export interface Ledger {
  readonly failure: Error | null;
  /** Whether the chosen columns have been answered, or failed to be. */
  readonly isRead: boolean;
  readonly isPresent: (column: LedgerColumn) => boolean;
  readonly cellOf: (column: LedgerColumn, machine: string) => CellData;
  /** What a machine shows that has nothing in any of the chosen columns. */
  readonly insteadOf: (machine: string) => readonly LedgerColumn[];
  readonly partCellOf: (column: LedgerColumn, machine: string, kind: PartKind, name: string) => CellData | undefined;
}

/** Reads the chosen columns for all machines at once, and those of what runs on machines where any is folded out. */
export function useLedger(columns: readonly LedgerColumn[], anyOpen: boolean): Ledger {
  const { span } = useTime();
  const counters = useQuery(countersQuery).data;
  const names = useMemo(() => new Set(counters?.map(({ name }) => name)), [counters]);
  const isPresent = (column: LedgerColumn) =>
    counters === undefined || column.workedOut !== undefined || countersOf(column).some((name) => names.has(name));
  const steadiness = useSteadiness(columns.some(({ workedOut }) => workedOut === "steadiness"));
  const asked = ledgerReadings(columns, span, counters && names);
  const answers = useReadings(asked.map(({ reading }) => reading));
  const instead = useMemo(() => insteadColumns(columns, counters ?? []), [columns, counters]);
  const askedInstead = readingsInstead(instead, names);
  const insteadAnswers = useReadings(askedInstead.map(({ reading }) => inWindow(reading, span)));
  const askedParts = anyOpen
    ? columns.flatMap((column) =>
        partKinds.flatMap((kind) =>
          column.parts?.[kind] ? [{ column: column.id, kind, reading: column.parts[kind] }] : [],
        ),
      )
    : [];
  const partAnswers = useReadings(askedParts.map(({ reading }) => inWindow(reading, span)));

  const answersOf = (column: LedgerColumn) => {
    if (column.workedOut) return steadiness ? [steadiness] : [];
    const found = (all: readonly { readonly column: string }[], of: typeof answers) =>
      all.flatMap((one, i) => (one.column === column.id && of[i]?.data ? [of[i].data as ReadingAnswer] : []));
    return [...found(asked, answers), ...found(askedInstead, insteadAnswers)];
  };
  return {
    isRead: answers.every(({ isPending }) => !isPending),
    failure: answers.find(({ error }) => error)?.error ?? null,
    isPresent,
    cellOf: (column, machine) => {
      const all = answersOf(column);
      const ofMachine = (one: ReadingAnswer) => linesByMachine(one).get(machine) ?? [];
      const answer = all.find((one) => ofMachine(one).length > 0) ?? all[0];
      const line = fullest(column.scale ? all.flatMap(ofMachine) : answer ? ofMachine(answer) : []);
      return { line, answer, most: column.most ?? highestOf(all) };
    },
    insteadOf: (machine) => instead.get(machine) ?? [],
    partCellOf: (column, machine, kind, name) => {
      const at = askedParts.findIndex((one) => one.column === column.id && one.kind === kind);
      const answer = partAnswers[at]?.data;
      if (at < 0) return undefined;
      return {
        answer,
        line:
          answer &&
          linesByMachine(answer)
            .get(machine)
            ?.find(({ tags }) => tags[kind] === name),
        most: column.most ?? Math.max(highestOf(answersOf(column)), highestOf(answer ? [answer] : [])),
      };
    },
  };
}

function readingsInstead(
  instead: ReadonlyMap<string, readonly LedgerColumn[]>,
  names: ReadonlySet<string>,
): readonly { readonly column: string; readonly reading: OpenReading }[] {
  return [...instead].flatMap(([machine, own]) =>
    own.flatMap((column) =>
      column.readings
        .map((make) => make(machine))
        .filter(({ sentences }) => Object.values(sentences).every(({ counter }) => names.has(counter)))
        .map((reading) => ({ column: column.id, reading })),
    ),
  );
}

const fullest = (lines: readonly Line[]): Line | undefined =>
  [...lines].sort((a, b) => (b.last ?? -1) - (a.last ?? -1))[0];
const highestOf = (answers: readonly ReadingAnswer[]) => Math.max(1, ...answers.map(highestOfOne));

/** Worked out once an answer: every cell of a column asks for them. */
const byMachine = new WeakMap<ReadingAnswer, ReadonlyMap<string, readonly Line[]>>();
const highest = new WeakMap<ReadingAnswer, number>();

function linesByMachine(answer: ReadingAnswer): ReadonlyMap<string, readonly Line[]> {
  let found = byMachine.get(answer);
  if (!found) {
    const made = new Map<string, Line[]>();
    for (const line of answer.lines) {
      const machine = line.tags["machine"] ?? "";
      const lines = made.get(machine);
      if (lines) lines.push(line);
      else made.set(machine, [line]);
    }
    byMachine.set(answer, (found = made));
  }
  return found;
}

function highestOfOne(answer: ReadingAnswer): number {
  let most = highest.get(answer);
  if (most === undefined) highest.set(answer, (most = answer.lines.reduce((so, { max }) => Math.max(so, max ?? 0), 0)));
  return most;
}
