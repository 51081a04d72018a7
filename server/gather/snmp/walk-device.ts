import type { WalkView } from "../../../core/api/sources.ts";
import { counterInfo } from "../../../core/counters/catalogue.ts";
import { kindOfType } from "../../../core/formats/snmp/picked-numbers.ts";
import { snmpModules } from "../../../core/formats/snmp/snmp-modules.ts";
import { SnmpTable } from "../../../core/formats/snmp/snmp-table.ts";
import { systemDescription, systemName } from "../../../core/formats/snmp/system-module.ts";
import {
  compareOids,
  isBelow,
  numberOf,
  textOf,
  type VarBind,
  wordsOfType,
} from "../../../core/formats/snmp/var-bind.ts";
import { PullError } from "../../transport/pull-error.ts";
import { walkColumns } from "./snmp-walk.ts";
import type { SnmpWire } from "./snmp-wire.ts";

const everything = "1.3.6.1";
const mostVariables = 10_000;
const mostMs = 25_000;
const moreMs = 3000;

/** What makers put below their own number is looked for first. */
const isMakers = ({ oid }: VarBind) => oid.startsWith("1.3.6.1.4.1.");

/**
 * Walks through a device and sorts what it finds into what is understood and what is not. A walk that stops at its
 * limit says what it has not seen and where it can go on; what is
 * understood is looked for beyond it all the same. With `after` it goes on there. Throws PullError where nothing could
 * be had at all.
 */
export async function walkDevice(wire: SnmpWire, nowMs: number, after?: string): Promise<WalkView> {
  const began = performance.now();
  const binds: VarBind[] = [];
  let stopped: string | undefined;
  try {
    await walkColumns(
      wire,
      [everything],
      { variables: mostVariables, untilMs: nowMs + mostMs },
      (_column, bind) => void binds.push(bind),
      { rowsHint: 40, after },
    );
  } catch (error) {
    if (!(error instanceof PullError) || binds.length === 0) throw error;
    stopped = error.message;
  }
  const last = binds.at(-1)?.oid;
  const table = new SnmpTable();
  const columns = [...new Set(snmpModules.flatMap((module) => module.columns.flat()))];
  const unknown: VarBind[] = [];
  for (const bind of binds) {
    const column = columns.find((one) => isBelow(bind.oid, one));
    if (column === undefined) unknown.push(bind);
    else table.set(column, bind.oid.slice(column.length + 1), bind);
  }
  if (stopped !== undefined && last !== undefined && after === undefined) {
    for (const module of snmpModules) {
      const beyond = module.columns
        .map((side) => side.filter((column) => compareOids(column, last) > 0 || isBelow(last, column)))
        .filter((side) => side.length > 0);
      for (const side of beyond)
        await walkColumns(wire, side, { variables: mostVariables, untilMs: Date.now() + moreMs }, (column, bind) =>
          table.set(column, bind.oid.slice(column.length + 1), bind),
        ).catch(() => {}); // it said once why it does not go on
    }
  }
  const groups = snmpModules.map(({ name, words, read }) => {
    const readings: WalkView["groups"][number]["readings"][number][] = [];
    read(table, (counter, tags, value) => {
      const info = counterInfo(counter);
      readings.push({ counter, words: info.words, tags, unit: info.unit, kind: info.kind, value });
    });
    return { module: name, words, readings };
  });
  return {
    device: table.text(systemDescription),
    name: table.text(systemName),
    tookMs: performance.now() - began,
    variables: binds.length,
    groups: groups.filter(({ readings }) => readings.length > 0),
    unknown: [...unknown.filter(isMakers), ...unknown.filter((bind) => !isMakers(bind))].map((bind) => {
      const value = numberOf(bind);
      return {
        oid: bind.oid,
        type: wordsOfType(bind.type),
        text: textOf(bind).slice(0, 200),
        value: Number.isFinite(value) ? value : null,
        kind: kindOfType(bind.type),
      };
    }),
    cut:
      stopped !== undefined && last !== undefined
        ? {
            words: `${stopped} It stopped after ${binds.length.toLocaleString("en")} variables at ${last}: numbers behind that were not looked at, but for the groups above.`,
            after: last,
          }
        : null,
  };
}
