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

interface Running {
  readonly settings: string;
  readonly asking: Asking;
}

interface GatheringParts {
  readonly spool: RelaySpool;
  /** What gathers the machine that the relay runs on. */
  readonly own: DeviceGatherer;
  readonly log: Logger;
  /** Something was gathered. */
  readonly added: () => void;
}

/** Asks what a relay is to ask, each source at its own interval, into the spool. */
export class RelayGathering {
  readonly #parts: GatheringParts;
  readonly #running = new Map<number, Running>();
  #isClosed = false;

  constructor(parts: GatheringParts) {
    this.#parts = parts;
  }

  /** From now on these are asked; one whose settings are as they were goes on as it is. */
  async follow({ sources, mostPageBytes }: RelayOrders): Promise<void> {
    for (const [id, { settings }] of [...this.#running]) {
      const wanted = sources.find((source) => source.id === id);
      if (!wanted || settingsOf(wanted) !== settings) await this.#stop(id);
    }
    for (const source of sources) {
      if (this.#isClosed) return;
      const running = this.#running.get(source.id) ?? this.#start(source, mostPageBytes);
      running.asking.hasten(hasteOf(source));
    }
  }

  async close(): Promise<void> {
    this.#isClosed = true;
    await Promise.all([...this.#running.keys()].map((id) => this.#stop(id)));
    await this.#parts.own.close();
  }

  #start(source: RelayedSource, mostPageBytes: number): Running {
    const { asker, ask } = this.#askerOf(source, mostPageBytes);
    let rawAtMs = Number.NEGATIVE_INFINITY;
    const asking = new Asking(
      { ...source, kind: source.kind === "relay" ? "this-machine" : source.kind },
      {
        asker,
        ask: async (atMs, only) => {
          const began = performance.now();
          const withRaw = !only && atMs - rawAtMs >= rawEveryMs;
          const sent = await ask(atMs, only, withRaw).catch((error) => sentFailure(error, atMs));
          if (this.#running.get(source.id)?.asking !== asking) return; // it ended, or is asked otherwise now
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

  #askerOf({ kind, device, address, trust, credentials }: RelayedSource, mostPageBytes: number) {
    if (address) {
      const asker = new PageAsker(address, trust, credentials);
      return { asker, ask: async () => sentPage(await asker.ask(mostPageBytes)) };
    }
    const gatherer = kind === "relay" || !device ? this.#parts.own : openDevice(device, trust, credentials);
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
