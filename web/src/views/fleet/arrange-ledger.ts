import type { Tags } from "../../../../core/counters/counter.ts";
import type { Condition } from "../../../../core/reading/document.ts";
import { meets } from "../../../../core/reading/where.ts";

/** How the ledger is arranged: what a person has chosen. */
export interface Arrangement {
  /** Columns in their order. */
  readonly columns: readonly string[];
  readonly where: readonly Condition[];
  /** The tag by which rows stand together; none where empty. */
  readonly group: string;
  /** A column, or "name"; `-` before it for the highest first. */
  readonly sort: string;
}

export interface LedgerMachine {
  readonly name: string;
  readonly friendlyName: string;
  readonly state: string;
  readonly tags: Tags;
}

export interface LedgerGroup<T> {
  /** The tag's value; undefined where rows are not grouped. */
  readonly value: string | undefined;
  readonly machines: readonly T[];
}

/** A machine's own tags and what else it can be chosen by. */
export function tagsOfMachine({ name, state, tags }: LedgerMachine): Tags {
  return { ...tags, machine: name, state };
}

/**
 * The machines that the conditions let stand, sorted, in groups. A machine without a value stands last whichever way is
 * sorted.
 */
export function arrangeLedger<T extends LedgerMachine>(
  machines: readonly T[],
  { where, group, sort }: Arrangement,
  cellOf: (machine: T, column: string) => number | null,
): readonly LedgerGroup<T>[] {
  const kept = machines.filter((machine) => meets(tagsOfMachine(machine), where));
  const column = sort.replace(/^-/, "");
  const way = sort.startsWith("-") ? -1 : 1;
  const byName = (a: T, b: T) =>
    (a.friendlyName || a.name).localeCompare(b.friendlyName || b.name, "en", { numeric: true });
  const sorted = [...kept].sort((a, b) => {
    if (column === "name") return way * byName(a, b);
    const [left, right] = [cellOf(a, column), cellOf(b, column)];
    if (left === null || right === null) return left === right ? byName(a, b) : left === null ? 1 : -1;
    return way * (left - right) || byName(a, b);
  });
  if (group === "") return [{ value: undefined, machines: sorted }];
  const groups = new Map<string, T[]>();
  for (const machine of sorted) {
    const value = tagsOfMachine(machine)[group] ?? "";
    const list = groups.get(value);
    if (list) list.push(machine);
    else groups.set(value, [machine]);
  }
  return [...groups]
    .sort(([a], [b]) => (a === "" ? 1 : b === "" ? -1 : a.localeCompare(b, "en", { numeric: true })))
    .map(([value, list]) => ({ value, machines: list }));
}

/** The order after a column's head has been pressed: the highest first, then the lowest, then by name. */
export function nextSort(sort: string, column: string): string {
  if (column === "name") return sort === "name" ? "-name" : "name";
  return sort === `-${column}` ? column : sort === column ? "name" : `-${column}`;
}
