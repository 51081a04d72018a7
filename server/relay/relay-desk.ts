import { createHash } from "node:crypto";
import type { Logger } from "pino";
import type {
  Asked,
  RelayAnswer,
  RelayedSource,
  RelayOrders,
  RelayState,
  RelayTask,
  RelayWork,
} from "../../core/relay/relay-wire.ts";
import { Problem } from "../http/problem.ts";
import { toldHaste } from "../sources/haste.ts";
import type { SourceRun } from "../sources/source-run.ts";
import type { Sources } from "../sources/sources.ts";

/** A relay's question is held open for this long where there is nothing to do: proxies end what is silent for a minute. */
const heldMs = 25_000;
/** A relay that has not asked for so long is away. */
const awayAfterMs = 90_000;
/** Walking through a large device by a weak link takes its time. */
const answeredWithinMs = 90_000;

interface Waiting {
  readonly relay: number;
  readonly task: RelayTask;
  readonly answered: (answer: RelayAnswer) => void;
}

/** What every relay is to do: its list of sources, and what is to be asked there at once. */
export class RelayDesk {
  readonly #sources: Sources;
  readonly #log: Logger;
  /** Lists by relay, as long as nothing changes. */
  #orders = new Map<number, RelayOrders>();
  /** Tasks that no relay has taken yet, and those that one has. */
  #untold: Waiting[] = [];
  readonly #told = new Map<number, Waiting>();
  #nextTask = 1;
  /** Questions that are held open. */
  readonly #held = new Set<() => void>();
  readonly #forget: () => void;

  constructor(sources: Sources, log: Logger) {
    this.#sources = sources;
    this.#log = log;
    this.#forget = sources.onChange(() => {
      this.#orders = new Map();
      this.#wake();
    });
  }

  /** What a relay is to do; where that is nothing, the answer waits until there is, for a while, or until it hangs up. */
  async work(
    run: SourceRun,
    state: RelayState,
    answers: readonly RelayAnswer[],
    signal: AbortSignal,
  ): Promise<RelayWork> {
    const relay = run.source.id;
    const { version, waiting, dropped, failure = null } = state;
    run.relay = { version, waiting, dropped, failure, seenMs: Date.now() };
    this.#sources.noteSenderVersion(run, version);
    for (const answer of answers) {
      const told = this.#told.get(answer.task);
      if (told?.relay !== relay) continue;
      this.#told.delete(answer.task);
      told.answered(answer);
    }
    const endMs = performance.now() + heldMs;
    for (;;) {
      const orders = await this.#ordersOf(relay);
      const mine = this.#untold.filter((waiting) => waiting.relay === relay);
      this.#untold = this.#untold.filter((waiting) => waiting.relay !== relay);
      for (const one of mine) this.#told.set(one.task.task, one);
      const leftMs = endMs - performance.now();
      if (orders.mark !== state.mark || mine.length > 0 || leftMs <= 0 || signal.aborted)
        return { ...(orders.mark !== state.mark && { orders }), tasks: mine.map(({ task }) => task) };
      await this.#change(leftMs, signal);
      run.relay = { ...run.relay, seenMs: Date.now() };
    }
  }

  /** Has something asked at a relay. Throws Problem where that is none, is away, or does not answer. */
  async ask(relay: number, asked: Asked): Promise<RelayAnswer> {
    const run = this.#sources.find(relay);
    if (run?.source.kind !== "relay")
      throw new Problem(422, "no-such-relay", '"askedFrom" must be the number of a relay.', {
        errors: [{ path: "askedFrom", message: "there is no such relay" }],
      });
    const seenMs = run.relay?.seenMs ?? 0;
    if (Date.now() - seenMs > awayAfterMs) throw away(run.source.name);
    const task = { task: this.#nextTask++, ...asked } as RelayTask;
    let timer: NodeJS.Timeout | undefined;
    try {
      return await new Promise<RelayAnswer>((answered, failed) => {
        this.#untold.push({ relay, task, answered });
        this.#wake();
        timer = setTimeout(() => failed(away(run.source.name)), answeredWithinMs);
      });
    } finally {
      clearTimeout(timer);
      this.#told.delete(task.task);
      this.#untold = this.#untold.filter((one) => one.task !== task);
    }
  }

  close(): void {
    this.#forget();
    this.#wake();
  }

  /** Resolves when something has changed, the time is over, or the relay has hung up. */
  #change(ms: number, signal: AbortSignal): Promise<void> {
    return new Promise((resolve) => {
      const end = () => {
        clearTimeout(timer);
        signal.removeEventListener("abort", end);
        this.#held.delete(end);
        resolve();
      };
      const timer = setTimeout(end, ms).unref();
      signal.addEventListener("abort", end);
      this.#held.add(end);
    });
  }

  #wake(): void {
    for (const end of [...this.#held]) end();
  }

  async #ordersOf(relay: number): Promise<RelayOrders> {
    // What changes while secrets are read has the list be made anew.
    const kept = this.#orders;
    const known = kept.get(relay);
    if (known) return known;
    const its = this.#sources
      .all()
      .filter(({ source }) => (source.askedFrom === relay || source.id === relay) && !source.pause);
    const sources: RelayedSource[] = [];
    for (const run of its) {
      const one = await this.#relayed(run);
      if (one) sources.push(one);
    }
    const mostPageBytes = this.#sources.limits.bodyBytes;
    const mark = createHash("sha256").update(JSON.stringify({ mostPageBytes, sources })).digest("hex").slice(0, 24);
    const orders = { mark, mostPageBytes, sources };
    kept.set(relay, orders);
    return orders;
  }

  /** Undefined where its secret cannot be opened: what is asked without is refused there, and may lock somebody out. */
  async #relayed(run: SourceRun): Promise<RelayedSource | undefined> {
    const { id, kind, name, intervalMs, address, device, trust } = run.source;
    try {
      const credentials = await this.#sources.credentialsOf(id);
      return {
        ...{ id, kind, name, intervalMs, address, device, trust, credentials },
        haste: toldHaste(run.source, this.#sources.hasteOf(id)),
      };
    } catch (error) {
      this.#log.warn({ err: error, source: name }, "a secret cannot be read, so a relay does not ask this");
      return undefined;
    }
  }
}

const away = (name: string) =>
  new Problem(
    503,
    "the-relay-is-away",
    `${name} has not answered. Look whether \`nubrel relay\` runs there and reaches this server; its page under Sources says when it was last heard.`,
    { retryAfterSeconds: 10 },
  );
