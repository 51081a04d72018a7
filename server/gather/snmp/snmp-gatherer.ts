import { readSnmp } from "../../../core/formats/snmp/read-snmp.ts";
import { snmpModules } from "../../../core/formats/snmp/snmp-modules.ts";
import { SnmpTable } from "../../../core/formats/snmp/snmp-table.ts";
import { compareOids, textOf, type VarBind, wordsOfType } from "../../../core/formats/snmp/var-bind.ts";
import type { SnmpDevice } from "../../../core/sources/kinds/snmp.ts";
import { PullError } from "../../transport/pull-error.ts";
import type { DeviceGatherer, Gathered } from "../device-gatherer.ts";
import { WhichTells } from "../which-tells.ts";
import { type WalkLimits, walkColumns } from "./snmp-walk.ts";
import type { SnmpWire } from "./snmp-wire.ts";

/** Which columns a device has is looked for anew this often, in gatherings. */
const lookEvery = 60;
const mostVariables = 20_000;
const perRequest = 40;

interface Group {
  readonly columns: readonly string[];
  readonly rows: number;
}

/** Asks a device of SNMP for the columns that its modules need, and for the numbers that were picked. */
export class SnmpGatherer implements DeviceGatherer {
  readonly #wire: SnmpWire;
  readonly #device: SnmpDevice;
  readonly #wanted: readonly (readonly string[])[];
  #round = 0;
  #groups: readonly Group[] = [];
  /** Picked numbers of one variable each: they are asked for themselves, together. */
  #single: readonly string[] = [];
  readonly #tells = new WhichTells();

  constructor(wire: SnmpWire, device: SnmpDevice) {
    this.#wire = wire;
    this.#device = device;
    const taken = snmpModules.filter(({ name }) => device.modules.includes(name)).flatMap(({ columns }) => columns);
    const seen = new Set<string>();
    const once = (columns: readonly string[]) => columns.filter((column) => !seen.has(column) && seen.add(column));
    this.#wanted = [...taken.map(once), ...device.numbers.map(({ oid }) => once([oid]))].filter(
      (columns) => columns.length > 0,
    );
  }

  async gather(nowMs: number, only?: ReadonlySet<string>): Promise<Gathered> {
    if (only && this.#groups.length + this.#single.length > 0) return await this.#gatherOnly(nowMs, only);
    const looks = this.#round++ % lookEvery === 0 || this.#groups.length === 0;
    const table = new SnmpTable();
    const limits: WalkLimits = {
      variables: mostVariables,
      untilMs: nowMs + Math.max(this.#device.timeoutMs * 3, 10_000),
    };
    for (const { columns, rows } of looks ? this.#wanted.map((columns) => ({ columns, rows: 0 })) : this.#groups) {
      await walkColumns(
        this.#wire,
        columns,
        limits,
        (column, bind) => table.set(column, bind.oid.slice(column.length + 1), bind),
        { rowsHint: rows },
      );
    }
    if (looks) {
      this.#groups = this.#wanted
        .map((columns) => columns.filter((column) => table.has(column)))
        .filter((columns) => columns.length > 0)
        .map((columns) => ({ columns, rows: Math.max(...columns.map((column) => table.rows(column).length)) }));
      // nothing stands below it: it is a variable itself, or missing
      this.#single = this.#device.numbers.map(({ oid }) => oid).filter((oid) => !table.has(oid));
    }
    await this.#getSingle(this.#single, table);
    const { readings, leftOut } = readSnmp(table, this.#device.modules, this.#device.numbers);
    if (looks) this.#learn(table);
    if (readings.length === 0) {
      this.#groups = [];
      throw new PullError(
        "not the format",
        "The device answered, and has nothing of what is gathered from it.",
        "Walk it to see what it has, and pick from that. The community or user may see a part only.",
      );
    }
    return { readings, leftOut, raw: snmpText(table.all()), rawType: "text/x-snmp-variables" };
  }

  /** Notes which module, and which picked number, tells of which counters. */
  #learn(table: SnmpTable): void {
    for (const module of this.#device.modules) {
      this.#tells.asked(module);
      for (const { counter } of readSnmp(table, [module], []).readings) this.#tells.note(module, counter);
    }
    for (const number of this.#device.numbers) {
      this.#tells.asked(number.oid);
      for (const { counter } of readSnmp(table, [], [number]).readings) this.#tells.note(number.oid, counter);
    }
  }

  /** Asks for the columns of those modules and for those numbers that tell of these counters. */
  async #gatherOnly(nowMs: number, only: ReadonlySet<string>): Promise<Gathered> {
    const modules = this.#device.modules.filter((module) => this.#tells.may(module, only));
    const numbers = this.#device.numbers.filter(({ oid }) => this.#tells.may(oid, only));
    const needed = new Set<string>([
      ...snmpModules.filter(({ name }) => modules.includes(name)).flatMap(({ columns }) => columns.flat()),
      ...numbers.map(({ oid }) => oid),
    ]);
    const table = new SnmpTable();
    const untilMs = nowMs + Math.max(this.#device.timeoutMs * 3, 10_000);
    for (const { columns, rows } of this.#groups) {
      const wanted = columns.filter((column) => needed.has(column));
      if (wanted.length > 0)
        await walkColumns(
          this.#wire,
          wanted,
          { variables: mostVariables, untilMs },
          (column, bind) => table.set(column, bind.oid.slice(column.length + 1), bind),
          { rowsHint: rows },
        );
    }
    await this.#getSingle(
      this.#single.filter((oid) => needed.has(oid)),
      table,
    );
    return { readings: readSnmp(table, modules, numbers).readings, raw: "", rawType: "text/x-snmp-variables" };
  }

  async #getSingle(oids: readonly string[], table: SnmpTable): Promise<void> {
    for (let i = 0; i < oids.length; i += perRequest)
      for (const bind of await this.#wire.get(oids.slice(i, i + perRequest)))
        if (bind.value !== null) table.set(bind.oid, "", bind);
  }

  async close(): Promise<void> {
    this.#wire.close();
  }
}

/** Variables as lines `number = type: value`, in the order of numbers. */
function snmpText(binds: Iterable<VarBind>): string {
  return `${[...binds]
    .sort((a, b) => compareOids(a.oid, b.oid))
    .map((bind) => `${bind.oid} = ${wordsOfType(bind.type)}: ${textOf(bind)}`)
    .join("\n")}\n`;
}
