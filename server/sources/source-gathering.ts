import { setTimeout as delay } from "node:timers/promises";
import type { Logger } from "pino";
import type { MachineEvent } from "../../core/events/machine-event.ts";
import type { IntakeLimits } from "../../core/sources/intake-limits.ts";
import type { Credentials, PullAddress, Source } from "../../core/sources/source.ts";
import type { RelayRecord, SentFailure, SentPage, SentReadings, StoredPage } from "../../core/relay/relay-wire.ts";
import { TextError } from "../../core/pages/text-error.ts";
import type { DeviceGatherer, Gathered } from "../gather/device-gatherer.ts";
import { openDevice } from "../gather/open-device.ts";
import { PageAsker, type PulledPage } from "../gather/pull/pull-page.ts";
import { diagnose } from "../transport/diagnose.ts";
import { PullError } from "../transport/pull-error.ts";
import { failureOf } from "./failure-of.ts";
import { readInPieces } from "./read-in-pieces.ts";
import type { Haste } from "./haste.ts";
import type { SourceRun } from "./source-run.ts";

/** How long stopping waits for what was gathered last to be stored. */
const lastWritesMs = 3000;

/** Keeps what devices say has happened. */
export type NoteEvents = (
  events: readonly (Omit<MachineEvent, "id"> & { readonly sourceId: number })[],
) => Promise<unknown>;

interface GatheringParts {
  readonly noteEvents: NoteEvents | undefined;
  readonly log: Logger;
  readonly limits: () => IntakeLimits;
  /** What gathers the machine that the server runs on, once it is known. */
  readonly ownGatherer: () => DeviceGatherer | undefined;
  /** Whether the source still runs with these settings: what comes late of others is left. */
  readonly isRunning: (run: SourceRun) => boolean;
}

interface SourceAsker {
  readonly asker: { close(): Promise<void> };
  readonly ask: (nowMs: number, only?: Haste) => Promise<void>;
}

/** Asks sources once, each in its own way, and hands what they say to their runs. */
export class SourceGathering {
  readonly #parts: GatheringParts;
  /** What was gathered and is not durable yet. */
  readonly #writing = new Set<Promise<unknown>>();
  #closed = false;

  constructor(parts: GatheringParts) {
    this.#parts = parts;
  }

  /** From now on failures are not told any more. */
  beginClose(): void {
    this.#closed = true;
  }

  /** Waits, for a while, until what was gathered last is stored. */
  async lastWrites(): Promise<void> {
    await Promise.race([Promise.all(this.#writing), delay(lastWritesMs, undefined, { ref: false })]);
  }

  /** What asks a source, by what it is, and how it is closed. */
  askerOf(run: SourceRun, credentials: Credentials): SourceAsker {
    const { device, address, trust, kind } = run.source;
    // The gatherer of this machine outlives its run: what it remembers of the gathering before holds with other
    // settings too.
    if (kind === "this-machine")
      return {
        asker: { close: async () => {} },
        ask: (nowMs, only) => this.#gather(run, this.#parts.ownGatherer() as DeviceGatherer, nowMs, only),
      };
    if (device) {
      const gatherer = openDevice(device, trust, credentials);
      return { asker: gatherer, ask: (nowMs, only) => this.#gather(run, gatherer, nowMs, only) };
    }
    const asker = new PageAsker(address as PullAddress, trust, credentials);
    return { asker, ask: (nowMs, only) => this.#pull(run, asker, nowMs, only) };
  }

  async #gather(run: SourceRun, gatherer: DeviceGatherer, nowMs: number, only?: Haste): Promise<void> {
    const began = performance.now();
    try {
      // Rules of the source give counters other names: then it is asked for everything, and what is wanted is taken.
      const wanted = run.source.take.length > 0 ? undefined : only?.counters;
      const gathered = await gatherer.gather(nowMs, wanted);
      if (!this.#parts.isRunning(run)) return;
      // Not awaited: while the database is away, gathering goes on and the journal keeps what waits.
      this.#note(run, takeReadings(run, gathered, { nowMs, tookMs: performance.now() - began, only }));
      await this.#noteEvents(run, gathered.events ?? []);
    } catch (error) {
      if (this.#closed || !this.#parts.isRunning(run)) return;
      if (!(error instanceof PullError))
        this.#parts.log.error({ err: error, source: run.source.name }, "gathering a device failed");
      run.failed(
        failureOf(
          error instanceof PullError
            ? error
            : new PullError(
                "failed",
                `Gathering failed: ${(error as Error).message}`,
                "Try again; if it stays, look at the text as received.",
                { cause: error },
              ),
          nowMs,
        ),
      );
    }
  }

  /**
   * Takes what a relay gathered, at the time that it had there. Resolves when it is durable; what cannot be read is a
   * failure of the source.
   */
  async takeSent(run: SourceRun, sent: Sent, haste: Haste | undefined): Promise<void> {
    const { tookMs, atMs } = sent;
    const only = sent.isHasty ? (haste ?? wantsAll) : undefined;
    const when = { nowMs: Date.now(), atMs, tookMs, only, stored: sent.stored };
    if (sent.kind === "failed") return run.failed(sent.failure);
    const certificateUntilMs = sent.certificateUntilMs ?? undefined;
    if (sent.kind === "readings") {
      await takeReadings(run, { ...sent, leftOut: new Map(sent.leftOut), certificateUntilMs }, when);
      return await this.#noteEvents(run, sent.events);
    }
    try {
      const page = { ...sent, bytes: Buffer.from(sent.bytes, "base64"), certificateUntilMs };
      await (await takePage(run, page, when)).stored;
    } catch (error) {
      if (!(error instanceof TextError)) throw error;
      run.failed(failureOf(await diagnose(error, run.source.address as PullAddress), atMs));
    }
  }

  async #noteEvents(run: SourceRun, events: NonNullable<Gathered["events"]>): Promise<void> {
    const { id: sourceId, machine } = run.source;
    if (events.length > 0) await this.#parts.noteEvents?.(events.map((event) => ({ ...event, machine, sourceId })));
  }

  /** Follows what is being stored to its end, which nobody waits for but the end of the server. */
  #note(run: SourceRun, taking: Promise<unknown>): void {
    const write = taking
      .catch((error) =>
        this.#parts.log.warn({ err: error, source: run.source.name }, "what was gathered was not stored"),
      )
      .then(() => void this.#writing.delete(write));
    this.#writing.add(write);
  }

  async #pull(run: SourceRun, asker: PageAsker, nowMs: number, only?: Haste): Promise<void> {
    let pulled: PulledPage | undefined;
    try {
      pulled = await asker.ask(this.#parts.limits().bodyBytes);
      if (pulled.clock) run.noteDate(pulled.clock);
      const { stored } = await takePage(run, pulled, { nowMs, tookMs: pulled.tookMs, only });
      // Not awaited: while the database is away, gathering goes on and the journal keeps what waits.
      this.#note(run, stored);
    } catch (error) {
      if (this.#closed || !this.#parts.isRunning(run)) return;
      run.failed(
        failureOf(
          await diagnose(error, run.source.address as NonNullable<Source["address"]>, "answering", run.source.trust),
          nowMs,
        ),
      );
    }
  }
}

/** When something was gathered; at another time than now by a relay, whose clock has it then. */
interface When {
  readonly nowMs: number;
  readonly atMs?: number;
  readonly tookMs: number;
  readonly only: Haste | undefined;
  /** What was stored of it already, by who gathered it. */
  readonly stored?: StoredPage | undefined;
}

/** What a relay gathered of a source in one go. */
export type Sent = Pick<RelayRecord, "atMs" | "tookMs" | "isHasty" | "stored"> &
  (SentReadings | SentPage | SentFailure);

/** Of what was gathered in haste for somebody who has gone since, all is kept. */
const wantsAll: Haste = { everyMs: 0, untilMs: 0, counters: new Set(), wants: () => true };

/** Stores what a device said. Resolves when it is durable. */
function takeReadings(
  run: SourceRun,
  gathered: Gathered,
  { nowMs, atMs, tookMs, only, stored }: When,
): Promise<unknown> {
  const { readings, leftOut, raw, rawType, certificateUntilMs } = gathered;
  if (!only) {
    if (raw !== "") run.keepRaw(Buffer.from(raw), rawType, atMs ?? nowMs);
    run.certificateUntilMs = certificateUntilMs;
  }
  const intake = run.lendReadings();
  const page = intake.reader.read(readings, atMs, leftOut);
  if (!only) run.lastReadings = { reader: intake.reader, page };
  const taking = run.take(intake, page, nowMs, { tookMs, only, stored });
  run.giveBack("readings", intake);
  return taking;
}

/** Reads a page; `stored` resolves when it is durable. Throws TextError. */
async function takePage(
  run: SourceRun,
  { dialect, bytes, contentType, certificateUntilMs }: Omit<PulledPage, "tookMs" | "clock">,
  { nowMs, atMs, tookMs, only, stored }: When,
): Promise<{ readonly stored: Promise<unknown> }> {
  if (!only) run.keepRaw(bytes, contentType, atMs ?? nowMs);
  run.certificateUntilMs = certificateUntilMs;
  const intake = run.lendPages(dialect);
  const read = await readInPieces(intake.reader, bytes);
  const page = atMs === undefined ? read : { ...read, timeMs: read.timeMs.map((ms) => (Number.isNaN(ms) ? atMs : ms)) };
  const taking = run.take(intake, page, nowMs, { tookMs, only, stored });
  run.giveBack(dialect, intake);
  return { stored: taking };
}
