import type { MachineName } from "../../core/api/machines.ts";
import Joi from "joi";
import type { Tags } from "../../core/counters/counter.ts";
import type { Database } from "../db/pool.ts";
import { listMachineRows, writeMachineName, writeMachineRemoved } from "./machine-rows.ts";

export const machineNameSchema = Joi.object<MachineName>({
  friendlyName: Joi.string().trim().max(100).allow("").default(""),
  tags: Joi.object()
    .pattern(/^[a-zA-Z_][a-zA-Z0-9_.-]{0,99}$/, Joi.string().trim().min(1).max(200))
    .max(20)
    .default({}),
});

const none: MachineName = { friendlyName: "", tags: {} };

/** What people call their machines, and the tags that they gave them. Kept in memory: readings ask for them. */
export class MachineNames {
  readonly #database: Database;
  readonly #byMachine = new Map<string, MachineName>();
  /** When machines were taken off the lists, ms. */
  readonly #removed = new Map<string, number>();
  #version = 0;

  private constructor(database: Database) {
    this.#database = database;
  }

  static async open(database: Database): Promise<MachineNames> {
    const names = new MachineNames(database);
    await names.reread();
    return names;
  }

  /** Reads them as the database has them: another server may have changed some. */
  async reread(): Promise<void> {
    const rows = await listMachineRows(this.#database);
    this.#version++;
    this.#byMachine.clear();
    this.#removed.clear();
    for (const { name, friendlyName, tags, removedAtMs } of rows) {
      this.#byMachine.set(name, { friendlyName, tags });
      if (removedAtMs !== null) this.#removed.set(name, removedAtMs);
    }
  }

  /** Another one once any name or tag was changed. */
  get version(): number {
    return this.#version;
  }

  of(machine: string): MachineName {
    return this.#byMachine.get(machine) ?? none;
  }

  /** A series' tags with those of its machine; the series' own stand over them. */
  tagsWith(tags: Tags): Tags {
    const machine = this.#byMachine.get(tags["machine"] ?? "");
    return machine ? { ...machine.tags, ...tags } : tags;
  }

  /** Names of all tags that machines have. */
  tagNames(): ReadonlySet<string> {
    return new Set([...this.#byMachine.values()].flatMap(({ tags }) => Object.keys(tags)));
  }

  /** Machines to which people gave one of these values of a tag. */
  withTag(tag: string, values: readonly string[]): readonly string[] {
    return [...this.#byMachine].flatMap(([machine, { tags }]) => (values.includes(tags[tag] ?? "") ? [machine] : []));
  }

  isRemoved(machine: string): boolean {
    return this.#removed.has(machine);
  }

  removedAtMs(machine: string): number | undefined {
    return this.#removed.get(machine);
  }

  /** Takes a machine off the lists, or puts it back (null). */
  async remove(machine: string, atMs: number | null): Promise<void> {
    await writeMachineRemoved(this.#database, machine, atMs);
    if (atMs === null) this.#removed.delete(machine);
    else this.#removed.set(machine, atMs);
  }

  async set(machine: string, name: MachineName): Promise<void> {
    await writeMachineName(this.#database, machine, name);
    this.#version++;
    this.#byMachine.set(machine, name);
  }
}
