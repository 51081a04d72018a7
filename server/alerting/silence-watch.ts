import { allowedSilenceMs, stateOf } from "../../core/sources/source.ts";
import type { Database } from "../db/pool.ts";
import type { SourceRun } from "../sources/source-run.ts";
import type { Sources } from "../sources/sources.ts";
import { closeIncident, openSilence, openSilences } from "../rules/incident-rows.ts";
import type { RuleNews } from "../rules/rule-checker.ts";

/**
 * Makes the silence of a source an incident, and closes it when the source is heard, paused, removed, or no longer to
 * be told of.
 */
export class SilenceWatch {
  readonly #database: Database;
  readonly #sources: Sources;
  readonly #tell: (news: RuleNews) => void;
  /** Open incidents by source. */
  readonly #open = new Map<number, number>();
  #running: Promise<void> = Promise.resolve();

  private constructor(database: Database, sources: Sources, tell: (news: RuleNews) => void) {
    this.#database = database;
    this.#sources = sources;
    this.#tell = tell;
  }

  static async open(database: Database, sources: Sources, tell: (news: RuleNews) => void): Promise<SilenceWatch> {
    const watch = new SilenceWatch(database, sources, tell);
    for (const { id, sourceId } of await openSilences(database)) watch.#open.set(sourceId, id);
    return watch;
  }

  check(nowMs: number): Promise<void> {
    this.#running = this.#running.catch(() => {}).then(() => this.#check(nowMs));
    return this.#running;
  }

  async #check(nowMs: number): Promise<void> {
    for (const run of this.#sources.all()) {
      const open = this.#open.get(run.source.id);
      if (this.#isSilent(run, nowMs)) {
        if (open === undefined) await this.#raise(run, nowMs);
        // One that has not been heard since the server began to wait for it: its incident from before goes on.
      } else if (
        open !== undefined &&
        (run.source.pause || !run.source.tellsSilence || (run.heardMs ?? 0) >= run.waitedSinceMs())
      )
        await this.#clear(run.source.id, open, run.heardMs ?? nowMs);
    }
    for (const [sourceId, id] of this.#open) if (!this.#sources.find(sourceId)) await this.#clear(sourceId, id, nowMs);
  }

  #isSilent({ source, heardMs, waitedSinceMs }: SourceRun, nowMs: number): boolean {
    return source.tellsSilence && stateOf(source, heardMs, waitedSinceMs(), nowMs) === "silent";
  }

  async #raise(run: SourceRun, nowMs: number): Promise<void> {
    const incident = await openSilence(
      this.#database,
      run.source,
      allowedSilenceMs(run.source.intervalMs) / 1000,
      (nowMs - run.waitedSinceMs()) / 1000,
      nowMs,
    );
    if (!incident) return;
    this.#open.set(run.source.id, incident.id);
    this.#tell({ kind: "raised", incident });
  }

  async #clear(sourceId: number, id: number, atMs: number): Promise<void> {
    const incident = await closeIncident(this.#database, id, atMs);
    this.#open.delete(sourceId);
    if (incident) this.#tell({ kind: "cleared", incident });
  }
}
