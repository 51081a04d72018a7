import type { WalkView } from "../../../core/api/views.ts";
import { counterInfo } from "../../../core/counters/catalogue.ts";
import { kindOfType } from "../../../core/formats/snmp/picked-numbers.ts";
import { snmpModules } from "../../../core/formats/snmp/snmp-modules.ts";
import { SnmpTable } from "../../../core/formats/snmp/snmp-table.ts";
import { systemDescription, systemName } from "../../../core/formats/snmp/system-module.ts";
import { isBelow, numberOf, textOf, type VarBind, wordsOfType } from "../../../core/formats/snmp/var-bind.ts";
import { PullError } from "../pull/pull-error.ts";
import { walkColumns } from "./snmp-walk.ts";
import type { SnmpWire } from "./snmp-wire.ts";

const everything = "1.3.6.1";
const mostVariables = 10_000;
const mostMs = 25_000;

/** What makers put below their own number is looked for first. */
const isMakers = ({ oid }: VarBind) => oid.startsWith("1.3.6.1.4.1.");

/** Walks through all of a device and sorts what it finds into what is understood and what is not. Throws PullError where nothing could be had at all. */
export async function walkDevice(wire: SnmpWire, nowMs: number): Promise<WalkView> {
  const began = performance.now();
  const binds: VarBind[] = [];
  let cut: string | null = null;
  try {
    await walkColumns(wire, [everything], { variables: mostVariables, untilMs: nowMs + mostMs }, (_column, bind) => void binds.push(bind), 40);
  } catch (error) {
    if (!(error instanceof PullError) || binds.length === 0) throw error;
    cut = error.message;
  }
  const table = new SnmpTable();
  const columns = [...new Set(snmpModules.flatMap((module) => module.columns.flat()))];
  const unknown: VarBind[] = [];
  for (const bind of binds) {
    const column = columns.find((one) => isBelow(bind.oid, one));
    if (column === undefined) unknown.push(bind);
    else table.set(column, bind.oid.slice(column.length + 1), bind);
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
      return { oid: bind.oid, type: wordsOfType(bind.type), text: textOf(bind).slice(0, 200), value: Number.isFinite(value) ? value : null, kind: kindOfType(bind.type) };
    }),
    cut,
  };
}
