import { expectedBytesPerSample } from "../../core/capacity/disk-forecast.ts";
import { setTimeout as delay } from "node:timers/promises";
import type { Logger } from "pino";
import type { RunListed, RunningView } from "../../core/api/recordings.ts";
import { type EndedBecause, longestRunSeconds, type RunOrigin } from "../../core/recordings/recording.ts";
import { plannedAt } from "../../core/recordings/schedule.ts";
import { sends } from "../../core/sources/kinds/source-kinds.ts";
import { presentSpan } from "../../core/units/present.ts";
import type { ServerClock } from "../clock/server-clock.ts";
import type { Database } from "../db/pool.ts";
import { everyMultiple, type Schedule } from "../gather/schedule.ts";
import type { LiveHub } from "../live/live-hub.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import type { Sources } from "../sources/sources.ts";
import type { Store } from "../store/store.ts";
import type { Executor } from "../work/executor.ts";
import { listedRun } from "./listed-run.ts";
import { type FreeSpace, isNearlyFull } from "./disk-space.ts";
import { keepEndedRun } from "./keep-ended-run.ts";
import { type Moment, OnRun } from "./on-run.ts";
import { hastesOf, joinHastes, recordedSeries } from "./recorded-series.ts";
import { listRecordingRows, type RecordingRow } from "./recording-rows.ts";
import { sourcesOf } from "./recorded-sources.ts";
import {
  addRunNotes,
  endRunRow,
  forgetRuns,
  insertRun,
  noteRunSeen,
  openRuns,
  type RunRow,
  unkeptRuns,
} from "./run-rows.ts";
import { runningView } from "./running-view.ts";
import { samplesOfRun } from "./run-samples.ts";

const tickEveryMs = 1000;
/** A little after whole seconds: what is gathered then is there. */
const tickOffsetMs = 400;
/** How it stands is written down, and which series it holds is looked at, so often, in ticks. */
const lookEvery = 10;
const forgetEvery = 3600;
/** A run's samples are kept so long after its end: what sends may come a little later. */
const keptAfterMs = 20_000;
/** What sends and has not been heard since a run ended is waited for so long: it keeps what it gathers while it is away. */
const longestWaitMs = 3_600_000;
/** The server was away where nobody saw to a run for longer. */
const awayMs = 45_000;
const lastTickMs = 3000;

export interface RecordingsParts {
  readonly database: Database;
  readonly store: Store;
  readonly pool: Executor;
  readonly sources: Sources;
  readonly names: MachineNames;
  readonly live: LiveHub;
  readonly clock: ServerClock;
  readonly log: Logger;
  /** Where the database's own disk is, if that is known. */
  readonly dataFolder?: string | undefined;
  /** How full a disk is; for tests. */
  readonly freeOf?: FreeSpace;
  readonly now?: () => Moment;
}

const realNow = (): Moment => ({ wallMs: Date.now(), monotonicMs: performance.now() });

/** What records: begins runs by hand, by scripts and by schedules, ends them when they are to end, keeps what they took. It ticks. */
export class Recordings {
  readonly #parts: RecordingsParts;
  readonly #now: () => Moment;
  readonly #on = new Map<number, OnRun>();
  #all: readonly RecordingRow[] = [];
  #ticks = 0;
  #ticking: Schedule | undefined;
  #unlisten: (() => void) | undefined;
  bytesPerSample = expectedBytesPerSample;

  private constructor(parts: RecordingsParts) {
    this.#parts = parts;
    this.#now = parts.now ?? realNow;
  }

  /** Takes up the runs that were on: those whose end has passed meanwhile have ended then. */
  static async open(parts: RecordingsParts): Promise<Recordings> {
    const recordings = new Recordings(parts);
    await recordings.reread();
    for (const row of await openRuns(parts.database)) await recordings.#takeUp(row);
    return recordings;
  }

  /** Begins to tick. */
  start(): void {
    const { log, store } = this.#parts;
    this.#unlisten = store.onCommit((batch) => {
      for (const run of this.#on.values()) run.count(batch);
    });
    this.#hasten();
    const failed = (error: unknown) => log.error({ err: error }, "seeing to recordings failed");
    this.#ticking = everyMultiple(tickEveryMs, () => this.tick(), failed, { offsetMs: tickOffsetMs });
  }

  /** Reads the recordings anew: one was made, changed or removed. */
  async reread(): Promise<void> {
    this.#all = await listRecordingRows(this.#parts.database);
    const known = new Set(this.#all.map(({ id }) => id));
    for (const run of [...this.#on.values()])
      if (!known.has(run.row.recordingId)) await this.end(run.row.id, "removed");
  }

  all(): readonly RecordingRow[] {
    return this.#all;
  }

  /** By its number, or by its name in any case. */
  find(which: number | string): RecordingRow | undefined {
    return this.#all.find(({ id, document }) =>
      typeof which === "number" ? id === which : document.name.toLowerCase() === which.toLowerCase(),
    );
  }

  /** The runs that are on. */
  running(): readonly RunningView[] {
    const now = this.#now();
    return [...this.#on.values()].map((run) => runningView(this.#parts, run, now, this.bytesPerSample));
  }

  on(runId: number): OnRun | undefined {
    return this.#on.get(runId);
  }

  /** Begins a run; undefined where its time of the schedule has had one. */
  async begin(
    { id, document }: RecordingRow,
    origin: RunOrigin,
    { forSeconds = document.forSeconds, untilMs, plannedMs = null }: BeginHow = {},
  ): Promise<RunningView | undefined> {
    const { database, store, names, sources } = this.#parts;
    const now = this.#now();
    const startedAtMs = Math.floor(now.wallMs);
    const series = recordedSeries(store, names, document);
    const notes = sourcesOf(sources, document, series).flatMap(({ name, why, everySeconds }) =>
      why === null ? [] : [`${name} keeps its own interval of ${presentSpan(everySeconds * 1000)}: ${why}.`],
    );
    for (const { id: sourceId, why, name } of sourcesOf(sources, document, series)) {
      const source = sources.find(sourceId)?.source;
      if (why === null && source?.kind === "collector" && source.intervalMs > document.everySeconds * 1000)
        notes.push(
          `The collector of ${name} hears of it when it sends next, up to ${presentSpan(Math.max(15_000, source.intervalMs))} after the beginning.`,
        );
    }
    if (plannedMs !== null && startedAtMs - plannedMs > awayMs)
      notes.push(
        `It was to begin ${presentSpan(startedAtMs - plannedMs)} earlier; the server was away, or the recording was changed.`,
      );
    if (series.length === 0) notes.push("Nothing reported what it asks for when it began.");
    const row = await insertRun(database, {
      recordingId: id,
      document,
      origin,
      startedAtMs,
      untilMs: untilMs ?? startedAtMs + (forSeconds ?? longestRunSeconds) * 1000,
      plannedMs,
      notes,
    });
    if (!row) return undefined;
    const run = new OnRun(row, now);
    this.#on.set(row.id, run);
    this.#look(run);
    this.#changed();
    return runningView(this.#parts, run, now, this.bytesPerSample);
  }

  /** Ends a run that is on; undefined where there is none. */
  async end(runId: number, because: EndedBecause, endedAtMs?: number): Promise<RunListed | undefined> {
    const run = this.#on.get(runId);
    if (!run) return undefined;
    const atMs = Math.floor(endedAtMs ?? run.endMs(this.#now().wallMs));
    const parts = run.partsUntil(atMs);
    // Where the clock was set back in it, it ends before it began by that clock: its latest moment is said.
    const lastMs = Math.max(run.row.startedAtMs, ...parts.map(({ toMs }) => toMs));
    const { database } = this.#parts;
    await noteRunSeen(database, { ...run.row, ...this.#standing(run), parts, seenMs: atMs });
    const row = await endRunRow(database, runId, { endedAtMs: lastMs, because, parts });
    this.#on.delete(runId);
    this.#changed();
    return row && listedRun(row);
  }

  /** The clock was set, and shows `atMs` now. */
  rebase(atMs: number, byMs: number): void {
    for (const run of this.#on.values()) {
      run.rebase(atMs, byMs);
      const words = `The server's clock was set ${byMs > 0 ? "ahead" : "back"} by ${presentSpan(Math.abs(byMs))} while it ran.`;
      void addRunNotes(this.#parts.database, run.row.id, [words]).catch(() => {});
    }
    this.#hasten();
  }

  async tick(): Promise<void> {
    const now = this.#now();
    const { dataFolder, freeOf } = this.#parts;
    const looks = this.#ticks++ % lookEvery === 0;
    const isFull = looks && this.#on.size > 0 && (await isNearlyFull(dataFolder, freeOf));
    for (const run of [...this.#on.values()]) {
      const due = isFull ? "disk nearly full" : run.dueBecause(now, run.samples * this.bytesPerSample);
      if (due) await this.end(run.row.id, due);
      else if (looks) await this.#see(run, now);
    }
    if (looks) this.#hasten();
    await this.#beginPlanned(now);
    if (looks) await this.#keepEnded(now);
    if (this.#ticks % forgetEvery === 1) await forgetRuns(this.#parts.database, this.#parts.clock.actingMs());
  }

  async close(): Promise<void> {
    this.#unlisten?.();
    await Promise.race([this.#ticking?.stop(), delay(lastTickMs, undefined, { ref: false })]);
    this.#parts.sources.hasten(new Map());
  }

  async #takeUp(row: RunRow): Promise<void> {
    const { database, store, names } = this.#parts;
    const now = this.#now();
    const awayUntilMs = row.untilMs === null ? now.wallMs : Math.min(now.wallMs, row.untilMs);
    if (awayUntilMs - row.seenMs > awayMs)
      await addRunNotes(database, row.id, [
        `The server was away for ${presentSpan(awayUntilMs - row.seenMs)} while it ran.`,
      ]);
    const run = new OnRun(row, now);
    this.#on.set(row.id, run);
    const due = run.dueBecause(now, row.bytes);
    if (due) {
      await this.end(row.id, due, row.untilMs ?? undefined);
      return;
    }
    const taken = await samplesOfRun(store, names, row, run.partsUntil(now.wallMs));
    const samples = taken.reduce((sum, { column }) => sum + column.timeMs.length, 0);
    const again = new OnRun(row, now, samples);
    this.#on.set(row.id, again);
    this.#look(again);
  }

  async #beginPlanned({ wallMs }: Moment): Promise<void> {
    for (const row of this.#all) {
      const { schedule, name } = row.document;
      const planned = schedule && plannedAt(schedule, wallMs);
      if (!planned || this.#planned.get(row.id) === planned.fromMs) continue;
      this.#planned.set(row.id, planned.fromMs);
      const untilMs = Math.min(planned.toMs, wallMs + (row.document.forSeconds ?? longestRunSeconds) * 1000);
      try {
        const begun = await this.begin(row, "schedule", { untilMs, plannedMs: planned.fromMs });
        if (begun) this.#parts.log.info({ recording: name }, "a recording began by its schedule");
      } catch (error) {
        this.#planned.delete(row.id);
        throw error;
      }
    }
  }

  /** Of each recording, the time of its schedule that has been seen to. */
  readonly #planned = new Map<number, number>();

  async #keepEnded({ wallMs }: Moment): Promise<void> {
    const { database, log } = this.#parts;
    for (const row of await unkeptRuns(database, wallMs - keptAfterMs)) {
      if (wallMs - (row.endedAtMs ?? 0) < longestWaitMs && this.#isAwaited(row)) continue;
      try {
        await keepEndedRun(this.#parts, row);
        this.#parts.live.publish({ kind: "recording" });
      } catch (error) {
        log.warn({ err: error, run: row.id }, "the samples of a run could not be kept; it is tried again");
      }
    }
  }

  /** Whether something that sends has not been heard since a run ended: what it gathered in it is still to come. */
  #isAwaited({ document, endedAtMs }: RunRow): boolean {
    const { store, names, sources } = this.#parts;
    return sourcesOf(sources, document, recordedSeries(store, names, document)).some(({ id }) => {
      const run = sources.find(id);
      return (
        run !== undefined && sends(run.source) && run.source.pause === null && (run.heardMs ?? 0) < (endedAtMs ?? 0)
      );
    });
  }

  async #see(run: OnRun, { wallMs }: Moment): Promise<void> {
    this.#look(run);
    await noteRunSeen(this.#parts.database, {
      ...run.row,
      ...this.#standing(run),
      parts: run.partsUntil(wallMs),
      seenMs: Math.floor(wallMs),
    });
  }

  #standing(run: OnRun): Pick<RunRow, "untilMs" | "samples" | "bytes"> {
    return { untilMs: run.untilMs, samples: run.samples, bytes: run.samples * this.bytesPerSample };
  }

  /** Looks which series it holds: some may have come since. */
  #look(run: OnRun): void {
    const { store, names } = this.#parts;
    const ids = recordedSeries(store, names, run.row.document).map(({ series }) => series.id);
    store.keepIntervals(ids);
    run.holds(ids);
  }

  /** Has the sources asked for what the runs want that are on. */
  #hasten(): void {
    const { store, names, sources } = this.#parts;
    const { wallMs } = this.#now();
    // Who does not look again in time has gone: the sources fall back by themselves.
    const guardMs = wallMs + lookEvery * tickEveryMs * 6;
    sources.hasten(
      joinHastes(
        [...this.#on.values()].map((run) =>
          hastesOf(store, names, run.row.document, Math.min(run.untilMs ?? Number.POSITIVE_INFINITY, guardMs)),
        ),
      ),
    );
  }

  #changed(): void {
    this.#hasten();
    this.#parts.live.publish({ kind: "recording" });
  }
}

interface BeginHow {
  readonly forSeconds?: number | undefined;
  readonly untilMs?: number;
  readonly plannedMs?: number | null;
}
