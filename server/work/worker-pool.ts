import { setMaxListeners } from "node:events";
import { availableParallelism } from "node:os";
import { join } from "node:path";
import { type TransferListItem, Worker } from "node:worker_threads";
import { projectRoot } from "../project-root.ts";
import type { Executor } from "./executor.ts";
import type { WorkAnswer, WorkMessage } from "./serve-work.ts";
import { CancelledError, type WorkKind } from "./work-kind.ts";

/**
 * A thread rests for so long before it is given up, with its memory and its connection; the last one for longer: to
 * start a thread takes nearly half a second of processor time, and something is read every few minutes on any server.
 */
const usualRests = { restMs: 60_000, lastRestMs: 900_000 } as const;

interface Job {
  readonly name: string;
  readonly isReading: boolean;
  readonly given: unknown;
  readonly transfers: readonly TransferListItem[];
  readonly cancelled: Int32Array;
  readonly done: (result: unknown) => void;
  readonly failed: (error: Error) => void;
}

interface Thread {
  readonly worker: Worker;
  job: Job | undefined;
  resting: NodeJS.Timeout | undefined;
}

interface PoolOptions {
  readonly file?: string;
  /** A standby of the database, from which readings are taken while it can be used. */
  readonly standby?: { readonly url: string; readonly isUsable: boolean } | undefined;
  readonly restMs?: number;
  readonly lastRestMs?: number;
}

/**
 * Does work on worker threads: one more than there are processors, so that a reading does not wait behind a compaction.
 */
export class WorkerPool implements Executor {
  readonly threads: number;
  readonly #databaseUrl: string;
  readonly #standby: PoolOptions["standby"];
  readonly #threads = new Set<Thread>();
  readonly #waiting: Job[] = [];
  readonly #most: number;
  readonly #file: string;
  readonly #rests: { readonly restMs: number; readonly lastRestMs: number };
  #closed = false;
  #id = 0;

  constructor(
    databaseUrl: string,
    threads = Math.min(4, availableParallelism()),
    { file = join(projectRoot, "dist/server/worker.js"), standby, ...rests }: PoolOptions = {},
  ) {
    this.#rests = { ...usualRests, ...rests };
    this.#databaseUrl = databaseUrl;
    this.#standby = standby;
    this.threads = threads;
    this.#most = threads + 1;
    this.#file = file;
  }

  /** Threads that work or rest now. */
  get alive(): number {
    return this.#threads.size;
  }

  run<Given, Answer>(kind: WorkKind<Given, Answer>, given: Given, signal?: AbortSignal): Promise<Answer> {
    return new Promise((resolve, reject) => {
      if (this.#closed || signal?.aborted) return reject(new CancelledError());
      // One signal may stand over much work: none of them is heard any more once it is over.
      const over =
        <V>(settle: (value: V) => void) =>
        (value: V) => {
          signal?.removeEventListener("abort", cancel);
          settle(value);
        };
      const job: Job = {
        name: kind.name,
        isReading: kind.isReading,
        given,
        transfers: kind.transfers(given),
        cancelled: new Int32Array(new SharedArrayBuffer(4)),
        done: over(resolve as (result: unknown) => void),
        failed: over(reject),
      };
      const cancel = () => this.#cancel(job);
      if (signal) {
        setMaxListeners(0, signal); // as many as wait; each is taken off when its work is over
        signal.addEventListener("abort", cancel, { once: true });
      }
      this.#waiting.push(job);
      this.#next();
    });
  }

  /** Ends the threads; what runs is given up: its transaction is undone. */
  async close(): Promise<void> {
    this.#closed = true;
    for (const job of this.#waiting.splice(0)) job.failed(new CancelledError());
    await Promise.all([...this.#threads].map(({ worker }) => worker.terminate()));
  }

  #cancel(job: Job): void {
    Atomics.store(job.cancelled, 0, 1);
    const at = this.#waiting.indexOf(job);
    if (at < 0) return;
    this.#waiting.splice(at, 1);
    job.failed(new CancelledError());
  }

  #next(): void {
    while (this.#waiting.length > 0) {
      let thread = [...this.#threads].find(({ job }) => job === undefined);
      if (!thread && this.#threads.size >= this.#most) return;
      thread ??= this.#start();
      const job = this.#waiting.shift() as Job;
      thread.job = job;
      clearTimeout(thread.resting);
      thread.worker.ref();
      const message: WorkMessage = {
        id: ++this.#id,
        name: job.name,
        given: job.given,
        cancelled: job.cancelled,
        standbyUrl: job.isReading && this.#standby?.isUsable ? this.#standby.url : undefined,
      };
      thread.worker.postMessage(message, job.transfers);
    }
  }

  /** A thread that is given up gets no more work from then on, though it takes a while to end. */
  #rest(thread: Thread, forMs: number, restedMs = 0): void {
    thread.resting = setTimeout(() => {
      const { lastRestMs } = this.#rests;
      const rested = restedMs + forMs;
      if (this.#threads.size === 1 && rested < lastRestMs) return this.#rest(thread, lastRestMs - rested, rested);
      this.#threads.delete(thread);
      void thread.worker.terminate();
    }, forMs).unref();
  }

  #start(): Thread {
    const thread: Thread = {
      worker: new Worker(this.#file, { workerData: { databaseUrl: this.#databaseUrl } }),
      job: undefined,
      resting: undefined,
    };
    this.#threads.add(thread);
    thread.worker.on("message", (answer: WorkAnswer) => {
      const { job } = thread;
      thread.job = undefined;
      thread.worker.unref();
      this.#rest(thread, this.#rests.restMs);
      if ("error" in answer)
        job?.failed(
          answer.error.name === "CancelledError"
            ? new CancelledError()
            : Object.assign(new Error(answer.error.message), answer.error),
        );
      else job?.done(answer.result);
      this.#next();
    });
    const gone = (error: Error) => {
      this.#threads.delete(thread);
      clearTimeout(thread.resting);
      const { job } = thread;
      thread.job = undefined;
      job?.failed(error);
      if (!this.#closed) this.#next();
    };
    thread.worker.on("error", gone);
    thread.worker.on("exit", () => gone(new Error("the thread that worked on this ended")));
    return thread;
  }
}
