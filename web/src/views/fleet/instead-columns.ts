import type { CounterView } from "../../../../core/api/counters.ts";
import { one } from "../../shared/bands/band.ts";
import { countersOf, type LedgerColumn, ledgerColumns } from "./ledger-columns.ts";

/** What stands first where a machine has none of the chosen columns; then whatever it reports. */
const firstOf: readonly string[] = ["battery", "power", "temperature", "load", "processor", "memory", "network"];
const mostInstead = 5;
/** Of the others, what is looked at first by its name. */
const telling = /load|quality|round_trip|time_left|rate|ratio/;

/** For every machine that has nothing in any of the columns: what it has, as columns of its own. */
export function insteadColumns(
  columns: readonly LedgerColumn[],
  counters: readonly CounterView[],
): ReadonlyMap<string, readonly LedgerColumn[]> {
  const byMachine = new Map<string, CounterView[]>();
  for (const counter of counters)
    for (const machine of counter.machines) {
      const own = byMachine.get(machine);
      if (own) own.push(counter);
      else byMachine.set(machine, [counter]);
    }
  const chosen = new Set(columns.flatMap(countersOf));
  const found = new Map<string, readonly LedgerColumn[]>();
  for (const [machine, own] of byMachine) {
    if (columns.some(({ workedOut }) => workedOut) || own.some(({ name }) => chosen.has(name))) continue;
    const has = new Set(own.map(({ name }) => name));
    const known = firstOf.flatMap((id) =>
      ledgerColumns.filter((column) => column.id === id && countersOf(column).some((name) => has.has(name))),
    );
    const shown = new Set(known.flatMap(countersOf));
    const others = own
      .filter(({ name, kind }) => kind === "level" && !shown.has(name) && !/^nubrel\.|uptime/.test(name))
      .sort((a, b) => Number(telling.test(b.name)) - Number(telling.test(a.name)))
      .map((counter, i) => counterColumn(counter, i));
    if (known.length + others.length > 0) found.set(machine, [...known, ...others].slice(0, mostInstead));
  }
  return found;
}

/** One counter as a column, by its own words. */
const counterColumn = ({ name, words, unit }: CounterView, i: number): LedgerColumn => ({
  id: `counter ${name}`,
  title: words,
  unit,
  band: "",
  readings: [(machine) => one(name, machine, { lines: { per: ["machine"] }, combine: "max" })],
  colour: i % 8,
});
