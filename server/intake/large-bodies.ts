import { OtlpError } from "../../core/formats/otlp/otlp-messages.ts";
import { TextError } from "../../core/pages/text-error.ts";
import type { Executor } from "../work/executor.ts";
import { type ReadBody, readBodyKind, type ReadBodyTask } from "./read-body.ts";

/** A body that is larger is read on a worker thread: the others are answered meanwhile. */
const largeBytes = 1_048_576;
const errors: Readonly<Record<string, object>> = { TextError: TextError.prototype, OtlpError: OtlpError.prototype };

/** Reads large bodies away from the thread that answers everybody. */
export class LargeBodies {
  readonly #executor: Executor;

  constructor(executor: Executor) {
    this.#executor = executor;
  }

  isLarge(bytes: Uint8Array): boolean {
    return bytes.length > largeBytes;
  }

  /** Throws TextError, OtlpError. */
  async read(task: ReadBodyTask): Promise<ReadBody> {
    try {
      return await this.#executor.run(readBodyKind, task);
    } catch (error) {
      // From a thread an error comes by its name alone.
      const known = errors[(error as Error).name];
      throw known ? Object.setPrototypeOf(error, known) : error;
    }
  }
}
