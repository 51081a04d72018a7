import type { Emit, Falls } from "../../counters/counter.ts";
import type { SnmpTable } from "./snmp-table.ts";

/** A set of variables that a published module describes, and what it means. */
export interface SnmpModule {
  readonly name: "system" | "interfaces" | "host resources" | "UPS" | "virtual machines" | "sensors" | "energy";
  /** In plain words. */
  readonly words: string;
  /** Where it is published. */
  readonly source: string;
  /** Columns of tables, and plain variables without their last 0; those of a list are asked together. */
  readonly columns: readonly (readonly string[])[];
  /** Columns that name or describe rows and need not be shown as unknown. */
  read(table: SnmpTable, emit: Emit): void;
}

/** Gives a value where there is one. */
export function emitNumber(
  emit: Emit,
  counter: string,
  tags: Readonly<Record<string, string>>,
  value: number,
  falls?: Falls,
): void {
  if (Number.isFinite(value)) emit(counter, tags, value, falls);
}
