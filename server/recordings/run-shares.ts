import { LRUCache } from "lru-cache";
import type { RecordingDocument } from "../../core/recordings/recording.ts";
import { medianOf } from "../../core/series/select.ts";

/** Slices without a run that what a run takes is held against, and slices of a run that are remembered. */
const quietSlices = 6;
const runSlices = 30;
/** With fewer nothing is said. */
const leastSlices = 3;
const mostKnown = 100;

interface Used {
  readonly atMs: number;
  readonly usedMs: number;
}

const usedNow = (): Used => {
  const { user, system } = process.cpuUsage();
  return { atMs: performance.now(), usedMs: (user + system) / 1000 };
};

/**
 * What runs take of the processor beyond what the server takes without: gathering has a cost of its own, and so has what
 * follows it in every thread. Slices with one run on are held against those without any, by their medians: what the
 * server does of itself once in a while counts to neither.
 */
export class RunShares {
  readonly #used: () => Used;
  #mark: Used;
  #on = "";
  readonly #quiet: number[] = [];
  readonly #taken = new LRUCache<string, number[]>({ max: mostKnown });

  constructor(used = usedNow) {
    this.#used = used;
    this.#mark = used();
  }

  /** Ends a slice: which recordings have a run on now. One in which a run began or ended counts to nothing. */
  slice(documents: readonly RecordingDocument[]): void {
    const before = this.#mark;
    this.#mark = this.#used();
    const on = documents.map(keyOf).join("\n");
    const isWhole = on === this.#on;
    this.#on = on;
    if (!isWhole || documents.length > 1 || this.#mark.atMs <= before.atMs) return;
    const share = (this.#mark.usedMs - before.usedMs) / (this.#mark.atMs - before.atMs);
    if (documents.length === 0) keep(this.#quiet, share, quietSlices);
    else if (this.#quiet.length >= leastSlices) {
      const taken = this.#taken.get(on) ?? [];
      keep(taken, share - medianOf(Float64Array.from(this.#quiet), this.#quiet.length), runSlices);
      this.#taken.set(on, taken);
    }
  }

  /** The share of a core that runs of this took of late; undefined where that was not seen for long enough. */
  of(document: RecordingDocument): number | undefined {
    const taken = this.#taken.get(keyOf(document));
    return taken && taken.length >= leastSlices ? medianOf(Float64Array.from(taken), taken.length) : undefined;
  }
}

function keep(slices: number[], share: number, most: number): void {
  slices.push(share);
  if (slices.length > most) slices.shift();
}

const keyOf = ({ everySeconds, sentences }: RecordingDocument): string => JSON.stringify([everySeconds, sentences]);
