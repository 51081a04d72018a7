import { JournalSegmentReader } from "../../core/chunk/journal-block.ts";
import { BlockError } from "../../core/chunk/cursor.ts";
import type { Runs } from "../../core/series/batch.ts";
import { copyOut } from "../db/copy-binary.ts";
import { committed, type Connection, type Database } from "../db/pool.ts";
import type { Damage } from "./damage.ts";
import { setAside } from "./quarantine-rows.ts";
import { unseal } from "./seal.ts";
import { damageIn, whole } from "./tasks/chunk-rows.ts";

/** Samples and rows that are read at once: some tens of megabytes once they are unpacked. */
const samplesAtOnce = 2_000_000;
const [fewestRows, mostRows] = [4, 50];

/** A segment of the journal, and how many samples it holds. */
export interface JournalSegment {
  readonly segment: number;
  readonly samples: number;
}

/** Numbers of segments by the slot of their samples. */
export type SegmentsBySlot = Map<number, Set<number>>;

/** What the journal holds, in its order. */
export async function journalSegments(database: Database): Promise<readonly JournalSegment[]> {
  const { rows } = await database.query<JournalSegment>(
    "select segment::float8 as segment, sum(samples)::float8 as samples from journal group by segment order by segment",
  );
  return rows;
}

/**
 * Hands every journal row to `take`, segment by segment, and answers the segments by slot. A row that cannot be read is
 * set aside whole, and with it what follows in its segment, which leans on it; all else goes on.
 */
export async function replayJournal(
  database: Database,
  segments: readonly JournalSegment[],
  take: (runs: Runs) => void,
): Promise<SegmentsBySlot> {
  const connection = await database.connect();
  let broken: Error | undefined;
  try {
    return await replayRows(connection, segments, { take });
  } catch (error) {
    broken = error as Error;
    throw error;
  } finally {
    connection.release(broken);
  }
}

/** Who hears of what is read; `handed` is waited for after each portion. */
export interface ReplayListener {
  readonly take: (runs: Runs) => void;
  /** Memory for the next values that nobody needs any more. */
  readonly room?: () => Float64Array | undefined;
  readonly handed?: () => Promise<void>;
  /** A segment has been read to its end. */
  readonly ended?: () => void;
}

/** The same over a connection that is had already. */
export async function replayRows(
  connection: Connection,
  segments: readonly JournalSegment[],
  { take, room = () => undefined, handed = async () => {}, ended = () => {} }: ReplayListener,
): Promise<SegmentsBySlot> {
  const known: SegmentsBySlot = new Map();
  let atOnce = fewestRows;
  for (const { segment } of segments) {
    const replay = new SegmentReplay(segment, take, room, known);
    for (let isWhole = false; !isWhole; ) {
      const rows = await copyOut(
        connection,
        `select seq, slot, samples, payload from journal where segment = ${whole(segment)} and seq > ${whole(replay.at)} order by seq limit ${whole(atOnce)}`,
      );
      let [count, read] = [0, 0];
      rows.forEach(4, (starts, ends) => {
        count++;
        const samples = rows.int(starts[2] as number);
        read += samples;
        replay.row({
          seq: rows.int(starts[0] as number),
          slot: rows.int(starts[1] as number),
          samples,
          payload: rows.bytes.subarray(starts[3], ends[3]),
        });
      });
      const damages = replay.takeDamages();
      if (damages.length > 0) await committed(connection, (one) => setAside(one, damages));
      await handed();
      isWhole = count < atOnce;
      if (count > 0) atOnce = Math.max(fewestRows, Math.min(mostRows, Math.floor(samplesAtOnce / (read / count))));
    }
    ended();
  }
  return known;
}

interface ReplayedRow {
  readonly seq: number;
  readonly slot: number;
  readonly samples: number;
  readonly payload: Buffer;
}

/** Reads the rows of a segment in their order, and knows where it stands. */
class SegmentReplay {
  at = -1;
  readonly #segment: number;
  readonly #take: (runs: Runs) => void;
  readonly #room: () => Float64Array | undefined;
  readonly #known: SegmentsBySlot;
  readonly #reader = new JournalSegmentReader();
  #isBroken = false;
  #damages: Damage[] = [];

  constructor(
    segment: number,
    take: (runs: Runs) => void,
    room: () => Float64Array | undefined,
    known: SegmentsBySlot,
  ) {
    this.#segment = segment;
    this.#take = take;
    this.#room = room;
    this.#known = known;
  }

  row({ seq, slot, samples, payload }: ReplayedRow): void {
    const segment = this.#segment;
    this.at = seq;
    const damage = this.#isBroken
      ? "it leans on a row before it that cannot be read"
      : damageIn(() => this.#take(runsOf(this.#reader, payload, samples, this.#room())));
    if (damage !== undefined) {
      this.#isBroken = true;
      this.#damages.push({ origin: "journal", segment, seq, slot, reason: damage });
      return;
    }
    const segments = this.#known.get(slot);
    if (segments) segments.add(segment);
    else this.#known.set(slot, new Set([segment]));
  }

  takeDamages(): readonly Damage[] {
    const taken = this.#damages;
    this.#damages = [];
    return taken;
  }
}

/** The samples of a row, which lean on those of the rows before it in its segment. Throws BlockError. */
export function runsOf(reader: JournalSegmentReader, payload: Buffer, samples: number, room?: Float64Array): Runs {
  const runs = reader.read(payload.subarray(0, unseal(payload)), room);
  if (runs.length !== samples) throw new BlockError(`it holds ${runs.length} samples where ${samples} were noted`, 0);
  return runs;
}
