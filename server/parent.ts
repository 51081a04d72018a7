import type { Logger } from "pino";
import type { BackupsView } from "../core/api/condition.ts";
import type { ToolAnswer } from "./gather/tools/run-tool.ts";

/**
 * What the start command says of the database that it keeps: after how many tries, and what PostgreSQL said where it
 * does not come up.
 */
export interface DatabaseNews {
  readonly tries: number;
  readonly said: string | null;
}

type FromParent =
  | ({ readonly kind: "database" } & DatabaseNews)
  | ({ readonly kind: "backups" } & BackupsView)
  | { readonly kind: "ran"; readonly id: number; readonly answer: ToolAnswer | undefined };

const longestRunMs = 30_000;

/**
 * The start command, which stays this process's parent: it tells of the database, and runs the few programs that need
 * its rights.
 */
export class Parent {
  readonly #waiting = new Map<number, (answer: ToolAnswer | undefined) => void>();
  #next = 0;
  #database: DatabaseNews | undefined;
  #backups: BackupsView | undefined;

  constructor(log: Logger) {
    process.on("message", (message: FromParent) => {
      if (message.kind === "ran") this.#waiting.get(message.id)?.(message.answer);
      else if (message.kind === "backups") {
        const { kind: _, ...told } = message;
        this.#backups = told;
        if (told.problem !== null) log.error({ err: new Error(told.problem) }, "a backup failed");
      } else if (message.kind === "database") {
        const { tries, said } = message;
        this.#database = { tries, said };
        if (said === null) log.warn("PostgreSQL had ended and was started again");
        else log.error({ err: new Error(said) }, "PostgreSQL does not come up");
      }
    });
  }

  /** What it said last of the database; undefined where it has not had to say anything. */
  get database(): DatabaseNews | undefined {
    return this.#database;
  }

  /** How the backups stand that it takes by the clock; undefined where none are wanted. */
  get backups(): BackupsView | undefined {
    return this.#backups;
  }

  /** Whether programs that need root are run by it. */
  get runsTools(): boolean {
    return process.env["NUBREL_ROOT_TOOLS"] === "parent" && process.send !== undefined;
  }

  /** Has it run a program; undefined where it does not, or no answer comes. */
  readonly run = (program: string, ...args: readonly string[]): Promise<ToolAnswer | undefined> => {
    const id = this.#next++;
    return new Promise((resolve) => {
      const over = (answer: ToolAnswer | undefined) => {
        clearTimeout(timer);
        this.#waiting.delete(id);
        resolve(answer);
      };
      const timer = setTimeout(() => over(undefined), longestRunMs);
      this.#waiting.set(id, over);
      process.send?.({ kind: "run", id, program, args });
    });
  };
}
