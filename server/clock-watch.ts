import type { Logger } from "pino";
import { presentSpan } from "../core/units/present.ts";
import type { Alerting } from "./alerting/alerting.ts";
import type { ServerClock } from "./clock/server-clock.ts";
import type { Database } from "./db/pool.ts";
import { insertEvents } from "./events/event-rows.ts";
import type { Jobs } from "./jobs/jobs.ts";
import type { LiveHub } from "./live/live-hub.ts";
import type { Recordings } from "./recordings/recordings.ts";
import type { Sources } from "./sources/sources.ts";

interface ClockWatchParts {
  readonly clock: ServerClock;
  readonly database: Database;
  readonly machine: string;
  readonly sources: Sources;
  readonly alerting: Alerting;
  readonly recordings: Recordings;
  readonly jobs: Jobs;
  readonly live: LiveHub;
  readonly log: Logger;
}

/** Tells what plans by the clock when it was set, and notes that as an event; says at once where the clock cannot be believed. */
export function watchClock({
  clock,
  database,
  machine,
  sources,
  alerting,
  recordings,
  jobs,
  live,
  log,
}: ClockWatchParts): void {
  clock.onJump(({ atMs, byMs }) => {
    const words = `This server's clock was set ${byMs > 0 ? "ahead" : "back"} by ${presentSpan(Math.abs(byMs))}${byMs > 0 ? ", or the machine slept" : ""}.`;
    log.warn(words);
    recordings.rebase(atMs, byMs);
    if (byMs < 0) {
      sources.rebase(atMs);
      alerting.rebase(atMs);
      const failed = (error: unknown) =>
        log.warn({ err: error }, "jobs could not be put forward after the clock was set back");
      void jobs.rebase(byMs).catch(failed);
    }
    const event = { fromMs: atMs, toMs: atMs, kind: "clock", machine, text: words, tags: {} };
    void insertEvents(database, [event]).then(
      () => live.publish({ kind: "event" }),
      () => {},
    );
  });
  if (clock.isBelieved) return;
  const ahead = presentSpan(Date.now() - clock.actingMs());
  log.warn(
    `This server's clock says ${new Date().toISOString()}, ${ahead} beyond when it ran last. Nothing is deleted by it until another machine or a person says that it is right.`,
  );
}
