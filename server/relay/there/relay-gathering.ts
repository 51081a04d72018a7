import type { Logger } from "pino";
import type { RelayedSource, RelayOrders } from "../../../core/relay/relay-wire.ts";
import type { DeviceGatherer } from "../../gather/device-gatherer.ts";
import { openDevice } from "../../gather/open-device.ts";
import { PageAsker } from "../../gather/pull/pull-page.ts";
import { Asking } from "../../sources/asking.ts";
import type { Haste } from "../../sources/haste.ts";
import { sentFailure, sentPage, sentReadings } from "./as-sent.ts";
import type { RelaySpool } from "./relay-spool.ts";

/** The text as received is for a person who looks; on a weak link it does not go with every answer. */
const rawEveryMs = 300_000;

const always = () => true;

interface Running {
  readonly settings: string;
  readonly asking: Asking;
}

interface GatheringParts {
  readonly spool: Pick<RelaySpool, "add" | "failure">;
  /** What gathers the machine that it runs on; none where that is never asked for. */
  readonly own?: DeviceGatherer;
  readonly log: Logger;
  /** Whether it is this one's to ask, just now; it always is without. */
  readonly mayAsk?: () => boolean;
  /** Something was gathered. */
  readonly added: () => void;
}

/** Asks what a relay is to ask, each source at its own interval, into the spool. */
export class RelayGathering {
  readonly #parts: GatheringParts;
  readonly #running = new Map<number, Running>();
  #isClosed = false;
  #mostPageBytes = 0;

  constructor(parts: GatheringParts) {
    this.#parts = parts;
  }

  /** From now on these are asked; one whose settings are as they were goes on as it is. */
  async follow({ sources, mostPageBytes }: Pick<RelayOrders, "sources" | "mostPageBytes">): Promise<void> {
    this.#mostPageBytes = mostPageBytes;
    for (const [id, { settings }] of [...this.#running]) {
      const wanted = sources.find((source) => source.id === id);
      if (!wanted || settingsOf(wanted) !== settings) await this.#stop(id);
    }
    for (const source of sources) {
      if (this.#isClosed) return;
      const running = this.#running.get(source.id) ?? this.#start(source);
      running.asking.hasten(hasteOf(source));
    }
  }

  async close(): Promise<void> {
    this.#isClosed = true;
    await Promise.all([...this.#running.keys()].map((id) => this.#stop(id)));
    await this.#parts.own?.close();
  }

  #start(source: RelayedSource): Running {
    const { asker, ask } = this.#askerOf(source);
    let rawAtMs = Number.NEGATIVE_INFINITY;
    const asking = new Asking(
      { ...source, kind: source.kind === "relay" ? "this-machine" : source.kind },
      {
        asker,
        ask: async (atMs, only) => {
          const { mayAsk = always } = this.#parts;
          if (!mayAsk()) return;
          const began = performance.now();
          const withRaw = !only && atMs - rawAtMs >= rawEveryMs;
          const sent = await ask(atMs, only, withRaw).catch((error) => sentFailure(error, atMs));
          // It ended, is asked otherwise now, or another has begun to ask it meanwhile.
          if (this.#running.get(source.id)?.asking !== asking || !mayAsk()) return;
          if (withRaw && sent.kind !== "failed") rawAtMs = atMs;
          const tookMs = performance.now() - began;
          const { spool, log, added } = this.#parts;
          spool.add({ source: source.id, atMs, tookMs, ...(only && { isHasty: true as const }), ...sent });
          if (spool.failure !== null)
            log.error({ why: spool.failure, source: source.name }, "what was gathered is not kept");
          added();
        },
        failed: (error) => this.#parts.log.error({ err: error, source: source.name }, "what was gathered is not kept"),
        planned: () => {},
      },
    );
    const running = { settings: settingsOf(source), asking };
    this.#running.set(source.id, running);
    return running;
  }

  #askerOf({ kind, device, address, trust, credentials }: RelayedSource) {
    if (address) {
      const asker = new PageAsker(address, trust, credentials);
      return { asker, ask: async () => sentPage(await asker.ask(this.#mostPageBytes)) };
    }
    const gatherer =
      kind === "relay" || !device ? (this.#parts.own as DeviceGatherer) : openDevice(device, trust, credentials);
    return {
      // The gatherer of this machine outlives its settings: what it remembers holds with others too.
      asker: gatherer === this.#parts.own ? { close: async () => {} } : gatherer,
      ask: async (atMs: number, only: Haste | undefined, withRaw: boolean) => {
        const counters = only && only.counters.size > 0 ? only.counters : undefined;
        return sentReadings(await gatherer.gather(atMs, counters), withRaw);
      },
    };
  }

  async #stop(id: number): Promise<void> {
    const running = this.#running.get(id);
    this.#running.delete(id);
    await running?.asking.stop();
  }
}

/** All of a source but what changes while it goes on being asked. */
const settingsOf = ({ haste: _, name: _name, ...source }: RelayedSource): string => JSON.stringify(source);

function hasteOf({ haste }: RelayedSource): Haste | undefined {
  return haste
    ? { everyMs: haste.everyMs, untilMs: haste.untilMs, counters: new Set(haste.counters), wants: () => true }
    : undefined;
}
