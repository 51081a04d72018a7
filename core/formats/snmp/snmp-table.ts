import { type Falls, wrap32 } from "../../counters/counter.ts";
import { numberOf, snmpType, textOf, type VarBind } from "./var-bind.ts";

/** What a device has answered, by column and row. The column of a plain variable is its number without the last 0. */
export class SnmpTable {
  readonly #columns = new Map<string, Map<string, VarBind>>();

  /** `index` is what follows the column's number. */
  set(column: string, index: string, bind: VarBind): void {
    let rows = this.#columns.get(column);
    if (!rows) this.#columns.set(column, (rows = new Map()));
    rows.set(index, bind);
  }

  has(column: string): boolean {
    return this.#columns.has(column);
  }

  /** The rows of a column, in the device's order. */
  rows(column: string): readonly string[] {
    return [...(this.#columns.get(column)?.keys() ?? [])];
  }

  bind(column: string, index: string): VarBind | undefined {
    return this.#columns.get(column)?.get(index);
  }

  /** NaN where it is missing or no number. */
  number(column: string, index = "0"): number {
    const bind = this.bind(column, index);
    return bind ? numberOf(bind) : Number.NaN;
  }

  /** What it means that a variable falls: one of 32 bits wraps (RFC 2578 §7.1.6), others restart. */
  falls(column: string, index = "0"): Falls | undefined {
    return this.bind(column, index)?.type === snmpType.counter32 ? wrap32 : undefined;
  }

  /** Empty where it is missing. */
  text(column: string, index = "0"): string {
    const bind = this.bind(column, index);
    return bind ? textOf(bind).trim() : "";
  }

  *all(): Iterable<VarBind> {
    for (const rows of this.#columns.values()) yield* rows.values();
  }
}

/**
 * Names for the rows of a column: its text, else the other column's, else the index; a name that stands twice gets its
 * index.
 */
export function namesOf(
  table: SnmpTable,
  indices: readonly string[],
  ...columns: readonly string[]
): ReadonlyMap<string, string> {
  const first = indices.map(
    (index) => columns.map((column) => table.text(column, index)).find((text) => text !== "") ?? index,
  );
  const seen = new Map<string, number>();
  for (const name of first) seen.set(name, (seen.get(name) ?? 0) + 1);
  return new Map(
    indices.map((index, i) => [
      index,
      (seen.get(first[i] as string) ?? 0) > 1 ? `${first[i]} (${index})` : (first[i] as string),
    ]),
  );
}
