import Joi from "joi";
import type { Tags } from "../../core/counters/counter.ts";
import type { Database } from "../db/pool.ts";

export interface MachineName {
  readonly friendlyName: string;
  readonly tags: Tags;
}

export const machineNameSchema = Joi.object<MachineName>({
  friendlyName: Joi.string().trim().max(100).allow("").default(""),
  tags: Joi.object().pattern(/^[a-zA-Z_][a-zA-Z0-9_.-]{0,99}$/, Joi.string().trim().min(1).max(200)).max(20).default({}),
});

const none: MachineName = { friendlyName: "", tags: {} };

/** What people call their machines, and the tags that they gave them. Kept in memory: readings ask for them. */
export class MachineNames {
  readonly #database: Database;
  readonly #byMachine = new Map<string, MachineName>();

  private constructor(database: Database) {
    this.#database = database;
  }

  static async open(database: Database): Promise<MachineNames> {
    const names = new MachineNames(database);
    const { rows } = await database.query<MachineName & { name: string }>(`select name, friendly_name as "friendlyName", tags from machine`);
    for (const { name, friendlyName, tags } of rows) names.#byMachine.set(name, { friendlyName, tags });
    return names;
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

  async set(machine: string, name: MachineName): Promise<void> {
    await this.#database.query(
      `insert into machine (name, friendly_name, tags)
       values ($1::text, $2::text, $3::jsonb)
       on conflict (name) do update set friendly_name = excluded.friendly_name, tags = excluded.tags`,
      [machine, name.friendlyName, JSON.stringify(name.tags)],
    );
    this.#byMachine.set(machine, name);
  }
}
