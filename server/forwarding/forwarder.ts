import { writeProtobufRequest } from "../../core/formats/otlp/otlp-protobuf.ts";
import { metricsRequestOf, type WrittenSeries } from "../../core/formats/otlp/otlp-writer.ts";
import type { ForwardStanding } from "../../core/forwarding/forward.ts";
import { isLike } from "../../core/reading/where.ts";
import type { Batch } from "../../core/series/batch.ts";
import { everyMultiple, type Schedule } from "../gather/schedule.ts";
import type { Series } from "../store/series-registry.ts";
import type { Store } from "../store/store.ts";
import type { StoredForward } from "./forward-rows.ts";
import { MetricsPoster } from "./post-metrics.ts";

/** What is stored in one moment comes in some batches: the newest is left to the next time. */
const settleMs = 2000;
/** So much of time is read at once while it catches up. */
const stretchMs = 300_000;
const mostPoints = 5000;
const mostLate = 100_000;

interface ForwarderParts {
  readonly store: Store;
  /** Of the headers. */
  readonly values: Readonly<Record<string, string>>;
  readonly noteSentUntil: (untilMs: number) => Promise<void>;
  readonly failed: (error: unknown) => void;
}

interface Sample {
  readonly id: number;
  readonly timeMs: number;
  readonly value: number;
}

/**
 * Sends samples on to one receiver, in the order of their times. The store is its spool: what was not taken there is
 * read again, from where it was when the server ended. What comes late is sent as it comes.
 */
export class Forwarder {
  readonly forward: StoredForward;
  readonly #parts: ForwarderParts;
  readonly #poster: MetricsPoster;
  readonly #schedule: Schedule;
  readonly #forget: () => void;
  #sentUntilMs: number;
  /** What is being read and sent ends here: what comes before it from then on is late. */
  #readUntilMs: number;
  #sent = 0;
  #refused = 0;
  #failure: ForwardStanding["failure"] = null;
  #late: Sample[] = [];
  #chosen: { readonly series: ReadonlyMap<number, Series>; readonly of: string } | undefined;
  #isEnded = false;

  constructor(forward: StoredForward, parts: ForwarderParts) {
    this.forward = forward;
    this.#parts = parts;
    this.#sentUntilMs = this.#readUntilMs = forward.sentUntilMs;
    const { url, issuer, everySeconds } = forward.settings;
    this.#poster = new MetricsPoster(url, parts.values, issuer);
    this.#forget = parts.store.onCommit((batch) => this.#noteLate(batch));
    this.#schedule = everyMultiple(everySeconds * 1000, () => this.#send(), parts.failed);
  }

  /** How many series it sends now. */
  get series(): number {
    return this.#wanted().size;
  }

  get standing(): ForwardStanding {
    return { sentUntilMs: this.#sentUntilMs, sent: this.#sent, refused: this.#refused, failure: this.#failure };
  }

  /** From where it has to go on after an end: what came late and is not sent yet lies before what is. */
  get goesOnFromMs(): number {
    return this.#late.reduce((first, { timeMs }) => Math.min(first, timeMs), this.#sentUntilMs);
  }

  async close(): Promise<void> {
    this.#isEnded = true;
    this.#forget();
    await this.#poster.close();
    await this.#schedule.stop();
  }

  async #send(): Promise<void> {
    const from = this.goesOnFromMs;
    try {
      const late = [...this.#late];
      if (late.length > 0) {
        if (!(await this.#post(this.#writtenOf(late)))) return;
        this.#late = this.#late.slice(late.length); // others may have come meanwhile
      }
      const untilMs = Date.now() - settleMs;
      while (this.#sentUntilMs < untilMs && !this.#isEnded) {
        const beganMs = this.#sentUntilMs;
        const to = Math.min(untilMs, beganMs + stretchMs);
        this.#readUntilMs = to;
        if (!(await this.#post(await this.#readOf(beganMs, to)))) return;
        if (this.#sentUntilMs === beganMs) this.#sentUntilMs = to;
      }
    } finally {
      if (this.goesOnFromMs !== from) await this.#parts.noteSentUntil(this.goesOnFromMs);
    }
  }

  /** Posts in requests of a bounded size. False where it has to be tried again. */
  async #post(written: readonly WrittenSeries[]): Promise<boolean> {
    for (const some of bounded(written)) {
      if (this.#isEnded) return false;
      const posted = await this.#poster.post(writeProtobufRequest(metricsRequestOf(some)));
      if (this.#isEnded) return false;
      const points = some.reduce((sum, { timeMs }) => sum + timeMs.length, 0);
      if (posted.kind === "failed") {
        this.#failure = { words: posted.words, atMs: Date.now() };
        return false;
      }
      const refused = posted.kind === "refused" ? points : posted.refused;
      this.#sent += points - refused;
      this.#refused += refused;
      this.#failure =
        refused > 0 ? { words: `It refused ${refused} values for good. ${posted.words}`, atMs: Date.now() } : null;
    }
    return true;
  }

  async #readOf(fromMs: number, toMs: number): Promise<readonly WrittenSeries[]> {
    const wanted = [...this.#wanted().values()];
    const columns = await this.#parts.store.read(
      wanted.map(({ id }) => id),
      fromMs,
      toMs,
    );
    return wanted.flatMap((series, i) => {
      const column = columns[i];
      return column && column.timeMs.length > 0 ? [{ ...series, ...column }] : [];
    });
  }

  #writtenOf(samples: readonly Sample[]): readonly WrittenSeries[] {
    return samples.flatMap(({ id, timeMs, value }) => {
      const series = this.#wanted().get(id);
      return series ? [{ ...series, timeMs: [timeMs], value: [value] }] : [];
    });
  }

  /** What is wanted, looked for anew where there are other series than then. */
  #wanted(): ReadonlyMap<number, Series> {
    const { series } = this.#parts.store;
    const all = series.all();
    const of = `${series.generation} ${all.length}`;
    if (this.#chosen?.of !== of)
      this.#chosen = { of, series: new Map(chosenOf(this.forward, all).map((one) => [one.id, one])) };
    return this.#chosen.series;
  }

  #noteLate({ series, timeMs, value, length }: Batch): void {
    const untilMs = Math.max(this.#sentUntilMs, this.#readUntilMs);
    let wanted: ReadonlyMap<number, Series> | undefined;
    for (let i = 0; i < length; i++) {
      const [id, atMs] = [series[i] as number, timeMs[i] as number];
      if (atMs >= untilMs) continue;
      wanted ??= this.#wanted();
      if (!wanted.has(id)) continue;
      if (this.#late.length < mostLate) this.#late.push({ id, timeMs: atMs, value: value[i] as number });
      // Too much came late to be kept aside: everything since is sent again.
      else this.#sentUntilMs = Math.min(this.#sentUntilMs, atMs);
    }
  }
}

/** The series that a forward sends. */
const chosenOf = ({ settings }: Pick<StoredForward, "settings">, all: readonly Series[]): readonly Series[] =>
  all.filter(
    ({ counter, tags }) =>
      isLike(tags["machine"] ?? "", settings.machine) && settings.counters.some((like) => isLike(counter, like)),
  );

function* bounded(written: readonly WrittenSeries[]): Generator<readonly WrittenSeries[]> {
  let some: WrittenSeries[] = [];
  let points = 0;
  for (const series of written)
    for (let at = 0; at < series.timeMs.length; at += mostPoints) {
      const part = { ...series, timeMs: partOf(series.timeMs, at), value: partOf(series.value, at) };
      if (points + part.timeMs.length > mostPoints && some.length > 0) {
        yield some;
        some = [];
        points = 0;
      }
      some.push(part);
      points += part.timeMs.length;
    }
  if (some.length > 0) yield some;
}

const partOf = (values: ArrayLike<number>, at: number): ArrayLike<number> =>
  Array.from({ length: Math.min(mostPoints, values.length - at) }, (_, i) => values[at + i] as number);
