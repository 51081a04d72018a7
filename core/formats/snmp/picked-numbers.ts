import { type CounterKind, type Falls, type Tags, wrap32 } from "../../counters/counter.ts";
import type { SnmpTable } from "./snmp-table.ts";
import { numberOf, snmpType, textOf, type VarBind } from "./var-bind.ts";

/** A variable that a person has picked by its number, or a column of them. */
export interface PickedNumber {
  /** Of one variable, or of a column: then each row is a series with the tag `index`. */
  readonly oid: string;
  readonly counter: string;
  readonly tags: Tags;
  /**
   * "by type": Counter32 and Counter64 are totals, everything else is a level, so that a share is never taken for a
   * counter.
   */
  readonly kind: "by type" | "total" | "level";
  readonly factor: number;
  readonly unit: string;
  /**
   * How a text becomes a value: the first number that stands in it, or the value that is given to it as a state.
   * Absent: only a text that is a number is one.
   */
  readonly text?:
    | { readonly as: "number" }
    | { readonly as: "state"; readonly values: Readonly<Record<string, number>> };
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

/**
 * What the picked variables say, and how many could not be taken, by reason; `table` holds each under its own number as
 * column.
 */
export function readPicked(
  table: SnmpTable,
  picked: readonly PickedNumber[],
): { readonly readings: readonly PickedReading[]; readonly leftOut: ReadonlyMap<string, number> } {
  const readings: PickedReading[] = [];
  const leftOut = new Map<string, number>();
  const leave = (reason: string) => leftOut.set(reason, (leftOut.get(reason) ?? 0) + 1);
  for (const pick of picked) {
    const rows = table.rows(pick.oid);
    if (rows.length === 0) leave(`the device does not have it, or its view hides it: ${pick.counter} (${pick.oid})`);
    for (const index of rows) {
      const bind = table.bind(pick.oid, index) as VarBind;
      const value = takenValue(bind, pick);
      if (value === undefined)
        leave(
          pick.text?.as === "state"
            ? `a text to which no value was given: ${pick.counter}`
            : `a text, not a number: ${pick.counter} (${pick.oid})`,
        );
      else
        readings.push({
          counter: pick.counter,
          tags: index === "" ? pick.tags : { ...pick.tags, index },
          value,
          unit: pick.unit,
          kind: pick.text?.as === "state" ? "state" : pick.kind === "by type" ? kindOfType(bind.type) : pick.kind,
          ...(bind.type === snmpType.counter32 && { falls: wrap32 * pick.factor }),
        });
    }
  }
  return { readings, leftOut };
}

function takenValue(bind: VarBind, { text, factor }: PickedNumber): number | undefined {
  if (text?.as === "state") return text.values[textOf(bind).trim()];
  const own = numberOf(bind);
  if (Number.isFinite(own)) return own * factor;
  const found = text?.as === "number" ? firstNumber.exec(textOf(bind).slice(0, longestText))?.[0] : undefined;
  return found === undefined ? undefined : Number(found) * factor;
}

const longestText = 1000;
const firstNumber = /-?\d+(?:\.\d+)?/;
