import { type CounterKind, type Falls, type Tags, wrap32 } from "../../counters/counter.ts";
import type { SnmpTable } from "./snmp-table.ts";
import { numberOf, snmpType, type VarBind } from "./var-bind.ts";

/** A variable that a person has picked by its number, or a column of them. */
export interface PickedNumber {
  /** Of one variable, or of a column: then each row is a series with the tag `index`. */
  readonly oid: string;
  readonly counter: string;
  readonly tags: Tags;
  /** "by type": Counter32 and Counter64 are totals, everything else is a level, so that a share is never taken for a counter. */
  readonly kind: "by type" | "total" | "level";
  readonly factor: number;
  readonly unit: string;
}

export interface PickedReading {
  readonly counter: string;
  readonly tags: Tags;
  readonly value: number;
  readonly unit: string;
  readonly kind: CounterKind;
  /** What it means that it falls, where that is no restart. */
  readonly falls?: Falls;
}

/** RFC 2578 §7.1.6, §7.1.10: only these two grow and wrap. */
export function kindOfType(type: number): "total" | "level" {
  return type === snmpType.counter32 || type === snmpType.counter64 ? "total" : "level";
}

/** What the picked variables say; `table` holds each under its own number as column. */
export function readPicked(table: SnmpTable, picked: readonly PickedNumber[]): readonly PickedReading[] {
  return picked.flatMap((pick) =>
    table.rows(pick.oid).flatMap((index) => {
      const bind = table.bind(pick.oid, index) as VarBind;
      const value = numberOf(bind);
      if (!Number.isFinite(value)) return [];
      return [{ counter: pick.counter, tags: index === "" ? pick.tags : { ...pick.tags, index }, value: value * pick.factor, unit: pick.unit, kind: pick.kind === "by type" ? kindOfType(bind.type) : pick.kind, ...(bind.type === snmpType.counter32 && { falls: wrap32 * pick.factor }) }];
    }),
  );
}
