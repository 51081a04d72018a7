import { MessageChannel, type MessagePort } from "node:worker_threads";
import type { Runs } from "../../../core/series/batch.ts";
import type { Connection } from "../../db/pool.ts";
import type { Executor } from "../../work/executor.ts";
import { workKind } from "../../work/work-kind.ts";
import { type JournalSegment, replayRows, type SegmentsBySlot } from "../journal-replay.ts";

/** The samples of some segments go through a port, in their order; the answer is the segments by slot. */
export const replayKind = workKind<
  { readonly port: MessagePort; readonly segments: readonly JournalSegment[] },
  SegmentsBySlot
>("replay", ({ port }) => [port]);

/** Stand in the port for the end of a portion and of a segment. */
const endOfPortion = "portion";
const endOfSegment = "segment";
/** Runs whose lists of series are told once: `lists` has those that are new, `listOf` the number of each run's list. */
interface SentRuns extends Omit<Runs, "series"> {
  readonly lists: readonly Uint32Array[];
  readonly listOf: readonly number[];
}
type Sent = SentRuns | typeof endOfPortion | typeof endOfSegment;
/** What comes back once a portion has been taken: memory for others. */
type Taken = readonly Float64Array[];
/** Portions of a thread that are on their way at once: one is taken while the next is unpacked. */
const mostOnTheWay = 2;
/** More threads than this unpack faster than one puts. */
const mostThreads = 4;

/**
 * Has the journal read and unpacked elsewhere, as `replayJournal` does it here, while `take` puts what has come where it
 * belongs: for large ones. Segments do not lean on each other: they are dealt to the threads in turns, and taken in their
 * order. Threads begin before `taking` has given what takes; what they send waits for it.
 */
export async function replayApart(
  executor: Executor,
  segments: readonly JournalSegment[],
  taking: Promise<(runs: Runs) => void>,
): Promise<SegmentsBySlot> {
  const threads = Math.max(1, Math.min(executor.threads, mostThreads, segments.length));
  const channels = Array.from({ length: threads }, () => new MessageChannel());
  const close = () => {
    for (const { port1 } of channels) port1.close();
  };
  let failure: unknown;
  const inTurns = new InTurns(threads);
  const begun = taking.then(
    (take) =>
      inTurns.begin((runs) => {
        try {
          take(runs);
        } catch (error) {
          failure ??= error;
        }
      }),
    (error: unknown) => {
      failure ??= error;
      close(); // nothing is taken: the threads do not wait for it
    },
  );
  const runs = channels.map(({ port1, port2 }, thread) => {
    port1.on("message", (sent: Sent) =>
      inTurns.came(thread, sent, (taken) => port1.postMessage(taken, taken.map(memoryOf))),
    );
    const own = segments.filter((_, i) => i % threads === thread);
    return executor.run(replayKind, { port: port2, segments: own }).catch((error: unknown) => {
      failure ??= error;
      close(); // the other threads wait for nobody
      return new Map<number, Set<number>>();
    });
  });
  const found = await Promise.all(runs);
  await begun;
  close();
  if (failure !== undefined) throw failure;
  return joined(found);
}

/** Takes what threads send segment by segment: what comes before its turn waits. */
class InTurns {
  readonly #waiting: (() => void)[][];
  readonly #taken: Float64Array[][];
  #take: ((runs: Runs) => void) | undefined;
  /** The lists of series of the segment that is taken. */
  #lists: Uint32Array[] = [];
  #turn = 0;

  constructor(threads: number) {
    this.#waiting = Array.from({ length: threads }, () => []);
    this.#taken = Array.from({ length: threads }, () => []);
  }

  /** Takes from now on, and what has come before. */
  begin(take: (runs: Runs) => void): void {
    this.#take = take;
    this.#takeNext();
  }

  /** `taken` is called once a portion has been taken, with the memory of what it was. */
  came(thread: number, sent: Sent, taken: (memory: Taken) => void): void {
    this.#waiting[thread]?.push(() => {
      if (sent === endOfPortion) taken(this.#taken[thread]?.splice(0) ?? []);
      else if (sent === endOfSegment) {
        this.#turn = (this.#turn + 1) % this.#waiting.length;
        this.#lists = [];
      } else {
        this.#lists.push(...sent.lists);
        this.#take?.({ ...sent, series: sent.listOf.map((list) => this.#lists[list] as Uint32Array) });
        this.#taken[thread]?.push(sent.value);
      }
    });
    this.#takeNext();
  }

  #takeNext(): void {
    while (this.#take) {
      const next = this.#waiting[this.#turn]?.shift();
      if (!next) return;
      next();
    }
  }
}

function joined(found: readonly SegmentsBySlot[]): SegmentsBySlot {
  const all: SegmentsBySlot = new Map();
  for (const one of found)
    for (const [slot, segments] of one) all.set(slot, new Set([...(all.get(slot) ?? []), ...segments]));
  return all;
}

/** Reads and unpacks segments, and sends them; answers once all of it has been taken. */
export async function replayInto(
  connect: () => Promise<Connection>,
  port: MessagePort,
  segments: readonly JournalSegment[],
): Promise<SegmentsBySlot> {
  // Heard before anything is waited for: a port that was closed meanwhile would be waited for without end.
  let onTheWay = 0;
  let isClosed = false;
  let heard = () => {};
  const rooms: Float64Array[] = [];
  const lists = new Map<Uint32Array, number>();
  port.on("message", (taken: Taken) => {
    rooms.push(...taken);
    onTheWay--;
    heard();
  });
  port.on("close", () => {
    isClosed = true;
    heard();
  });
  const fewerThan = async (most: number) => {
    while (onTheWay >= most && !isClosed)
      await new Promise<void>((resolve) => {
        heard = resolve;
      });
    if (isClosed) throw new Error("what is unpacked of the journal is not taken any more");
  };
  const send = (sent: Sent, memory: ArrayBuffer[] = []) => port.postMessage(sent, memory);
  try {
    const known = await replayRows(await connect(), segments, {
      take: ({ series, ...runs }) => {
        const fresh: Uint32Array[] = [];
        const listOf = series.map((list) => {
          const known = lists.get(list) ?? lists.size;
          if (known === lists.size) fresh.push(list);
          lists.set(list, known);
          return known;
        });
        send({ ...runs, lists: fresh, listOf }, [memoryOf(runs.value)]);
      },
      room: () => rooms.pop(),
      handed: async () => {
        send(endOfPortion);
        onTheWay++;
        await fewerThan(mostOnTheWay);
      },
      ended: () => {
        send(endOfSegment);
        lists.clear();
      },
    });
    await fewerThan(1);
    return known;
  } finally {
    port.close();
  }
}

const memoryOf = ({ buffer }: Float64Array) => buffer as ArrayBuffer;
