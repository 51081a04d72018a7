import { LRUCache } from "lru-cache";
import { medianOf } from "../../core/series/select.ts";
import type { Source } from "../../core/sources/source.ts";
import { everyMultiple, type Schedule } from "../gather/schedule.ts";
import type { Haste } from "./haste.ts";

/**
 * Sources with one interval are not all asked in the same moment: each has its own, up to this after the whole
 * multiple.
 */
const mostJitterMs = 2000;
/** What is asked for in haste this close to the usual gathering is left to that. */
const sameMomentMs = 250;
/** What asking takes of late is the median of so many times: one that waited for something else does not count. */
const notedTimes = 15;
/** Once as many are noted, one of so many is looked at: the system takes 0.1 ms to tell it. */
const lookedAtEvery = 8;
/** So many hastes are remembered by what they took; before that many times it is not known. */
const mostKnown = 50;
const knownAfter = 10;

type AskedSource = Pick<Source, "id" | "kind" | "intervalMs">;

interface AskingParts {
  /** Asks once, for everything or for what is wanted in haste. */
  readonly ask: (nowMs: number, only?: Haste) => Promise<void>;
  readonly asker: { close(): Promise<void> };
  readonly failed: (error: unknown) => void;
  readonly planned: (nextMs: number) => void;
}

/**
 * Asks one source over and over: for everything at its own interval, and between those for what is wanted in haste. It
 * is asked one thing at a time.
 */
export class Asking {
  readonly #source: AskedSource;
  readonly #parts: AskingParts;
  readonly #offsetMs: number;
  readonly #usual: Schedule;
  #fast: Schedule | undefined;
  #haste: Haste | undefined;
  #turn: Promise<void> = Promise.resolve();
  #isBusy = false;
  #turns = 0;
  readonly #hasAsked = { usual: false, hasty: false };
  /** Processor seconds of the last times. */
  readonly #seconds: { readonly usual: number[]; readonly hasty: number[] } = { usual: [], hasty: [] };
  /** What each haste took, by what it wanted. */
  readonly #hastes = new LRUCache<string, number>({ max: mostKnown });

  constructor(source: AskedSource, parts: AskingParts) {
    this.#source = source;
    this.#parts = parts;
    const isOwn = source.kind === "this-machine";
    this.#offsetMs = isOwn ? 0 : jitterMs(source);
    this.#usual = everyMultiple(source.intervalMs, (nowMs) => this.#inTurn(nowMs), parts.failed, {
      atOnce: isOwn,
      offsetMs: this.#offsetMs,
      planned: parts.planned,
    });
  }

  /** Asks for this between its own moments from now on; for nothing without. What is not more often than usual is nothing. */
  hasten(haste: Haste | undefined): void {
    const wanted = haste && haste.everyMs < this.#source.intervalMs ? haste : undefined;
    const before = this.#haste;
    this.#haste = wanted;
    if (!before && wanted) {
      // What another haste took says nothing of this one.
      this.#seconds.hasty.length = 0;
      this.#hasAsked.hasty = false;
    }
    if (before?.everyMs === wanted?.everyMs) return;
    void this.#fast?.stop();
    this.#fast =
      wanted &&
      everyMultiple(wanted.everyMs, (nowMs) => this.#askInHaste(nowMs), this.#parts.failed, {
        offsetMs: this.#offsetMs,
      });
  }

  /** Processor seconds that asking takes here once, of late; undefined before it was asked so. */
  get seconds(): { readonly usual: number | undefined; readonly hasty: number | undefined } {
    return { usual: ofLate(this.#seconds.usual), hasty: this.#haste && ofLate(this.#seconds.hasty) };
  }

  /** Processor seconds that it took to ask for just these in haste, the last time that was done; undefined before. */
  secondsFor(counters: ReadonlySet<string>): number | undefined {
    return this.#hastes.get(keyOf(counters));
  }

  /** The share of a core that the haste takes; undefined without one. */
  get hastyShare(): number | undefined {
    const { hasty } = this.seconds;
    return hasty === undefined || !this.#haste ? undefined : hasty / (this.#haste.everyMs / 1000);
  }

  /** The first time of each looks up what the others know, and is no measure of them. */
  #note(which: "usual" | "hasty", seconds: number): void {
    if (!this.#hasAsked[which]) {
      this.#hasAsked[which] = true;
      return;
    }
    const noted = this.#seconds[which];
    noted.push(seconds);
    if (noted.length > notedTimes) noted.shift();
    const told = ofLate(noted);
    if (which === "hasty" && this.#haste && told !== undefined && noted.length >= knownAfter)
      this.#hastes.set(keyOf(this.#haste.counters), told);
  }

  async stop(): Promise<void> {
    await this.#parts.asker.close(); // ends what is under way
    await Promise.all([this.#fast?.stop(), this.#usual.stop()]);
  }

  async #askInHaste(nowMs: number): Promise<void> {
    const haste = this.#haste;
    if (!haste || this.#isBusy) return;
    if (nowMs >= haste.untilMs) return this.hasten(undefined);
    const { intervalMs } = this.#source;
    const past = (((nowMs - this.#offsetMs) % intervalMs) + intervalMs) % intervalMs;
    if (Math.min(past, intervalMs - past) < Math.min(sameMomentMs, haste.everyMs / 2)) return;
    await this.#inTurn(nowMs, haste);
  }

  /** Waits for its turn; a moment that has passed meanwhile is not said to be that of what comes then. */
  #inTurn(plannedMs: number, only?: Haste): Promise<void> {
    const waits = this.#isBusy;
    const turn = this.#turn.then(async () => {
      this.#isBusy = true;
      const kind = only ? "hasty" : "usual";
      const isLookedAt = this.#seconds[kind].length < notedTimes || this.#turns++ % lookedAtEvery === 0;
      const before = isLookedAt ? process.cpuUsage() : undefined;
      try {
        await this.#parts.ask(waits ? Date.now() : plannedMs, only);
      } finally {
        this.#isBusy = false;
        if (before) {
          const { user, system } = process.cpuUsage(before);
          this.#note(kind, (user + system) / 1e6);
        }
      }
    });
    this.#turn = turn.catch(() => {});
    return turn;
  }
}

const keyOf = (counters: ReadonlySet<string>): string => [...counters].sort().join(" ");

/** Undefined of none. */
const ofLate = (seconds: readonly number[]): number | undefined =>
  seconds.length === 0 ? undefined : medianOf(Float64Array.from(seconds), seconds.length);

/** The same for a source after every start, spread over sources. */
function jitterMs({ id, intervalMs }: AskedSource): number {
  return Math.floor((((id * 0x9e3779b1) >>> 0) / 2 ** 32) * Math.min(intervalMs / 2, mostJitterMs));
}
