import { compareOids, isBelow, type VarBind } from "../../../core/formats/snmp/var-bind.ts";
import { PullError } from "../../transport/pull-error.ts";
import type { SnmpWire } from "./snmp-wire.ts";

/** Variables asked for in one request: more seldom fit into a datagram that passes everywhere. */
const perRequest = 48;

export interface WalkLimits {
  readonly variables: number;
  readonly untilMs: number;
}

/**
 * Walks columns side by side, each to its end. Throws PullError where numbers do not grow (a walk that loops), or where
 * it goes on beyond the limits.
 * `found` gets each variable with the column that it is of; with `after` a walk goes on behind that number.
 */
export async function walkColumns(
  wire: SnmpWire,
  columns: readonly string[],
  limits: WalkLimits,
  found: (column: string, bind: VarBind) => void,
  { rowsHint = 10, after }: { readonly rowsHint?: number; readonly after?: string | undefined } = {},
): Promise<void> {
  const open = new Map(columns.map((column) => [column, after ?? column]));
  let count = 0;
  while (open.size > 0) {
    const asked = [...open.keys()];
    const answer = await wire.next(
      asked.map((column) => open.get(column) as string),
      Math.max(1, Math.min(rowsHint + 1, Math.floor(perRequest / asked.length))),
    );
    if (!answer.some((binds) => binds.length > 0)) return; // a device that answers nothing to this has nothing more
    for (const { column, bind } of asked.flatMap((column, i) => (answer[i] ?? []).map((bind) => ({ column, bind })))) {
      const last = open.get(column);
      if (last === undefined) continue;
      if (bind.value === null || !isBelow(bind.oid, column)) {
        open.delete(column);
        continue;
      }
      if (compareOids(bind.oid, last) <= 0)
        throw new PullError(
          "endless",
          `The device's list does not grow: after ${last} it gives ${bind.oid}. A walk would go round for ever.`,
          "This is a fault of the device. Leave this part out, and pick what you need by its number; a newer firmware may mend it.",
        );
      open.set(column, bind.oid);
      count++;
      found(column, bind);
    }
    if (count > limits.variables)
      throw new PullError(
        "endless",
        `The device has more than ${limits.variables.toLocaleString("en")} variables here.`,
        "Pick what you need by its number instead of walking all of it.",
      );
    if (open.size > 0 && Date.now() > limits.untilMs)
      throw new PullError(
        "too slow",
        `The walk had not ended in time, after ${count.toLocaleString("en")} variables.`,
        "Allow more time, take fewer groups, or pick what you need by its number.",
      );
  }
}
