import ical from "ical-generator";
import type { QuietView } from "../../core/api/quiet.ts";
import type { Tags } from "../../core/counters/counter.ts";
import { isAll, type Occurrence, occurrencesOf, quietAt, type QuietTime } from "../../core/quiet/quiet-time.ts";
import type { Database } from "../db/pool.ts";
import { countHidden, endQuietTime, insertQuietTime, listQuietTimes } from "./quiet-rows.ts";

const dayMs = 86_400_000;
/** The feed tells of so much to come, and of a little that was. */
const feedAheadMs = 180 * dayMs;
const feedBehindMs = 30 * dayMs;
const nextWithinMs = 370 * dayMs;

/** Quiet times: kept, and asked whether one holds. */
export class QuietDesk {
  readonly #database: Database;
  #all: readonly QuietTime[] | undefined;

  constructor(database: Database) {
    this.#database = database;
  }

  async all(nowMs: number): Promise<readonly QuietTime[]> {
    this.#all ??= await listQuietTimes(this.#database, nowMs - feedBehindMs);
    return this.#all;
  }

  /** What hides something with these tags now. */
  async at(tags: Tags, nowMs: number): Promise<Occurrence | undefined> {
    return quietAt(await this.all(nowMs), tags, nowMs);
  }

  /** What hides everything now. */
  async allQuiet(nowMs: number): Promise<Occurrence | undefined> {
    return quietAt(
      (await this.all(nowMs)).filter(({ scope }) => isAll(scope)),
      {},
      nowMs,
    );
  }

  async views(nowMs: number): Promise<readonly QuietView[]> {
    const hides = await countHidden(this.#database);
    return (await this.all(nowMs))
      .filter((quiet) => (quiet.endedAtMs ?? (quiet.repeat ? Number.POSITIVE_INFINITY : quiet.toMs)) > nowMs)
      .map((quiet) => {
        const ahead = occurrencesOf(quiet, nowMs, nowMs + nextWithinMs);
        const span = (one: Occurrence | undefined) => (one ? { fromMs: one.fromMs, toMs: one.toMs } : null);
        return {
          ...quiet,
          now: span(ahead.find(({ fromMs }) => fromMs <= nowMs)),
          next: span(ahead.find(({ fromMs }) => fromMs > nowMs)),
          hides: hides.get(quiet.id) ?? 0,
        };
      });
  }

  async add(quiet: Omit<QuietTime, "id" | "endedAtMs">): Promise<QuietTime> {
    this.#all = undefined;
    return insertQuietTime(this.#database, quiet);
  }

  async end(id: number, nowMs: number): Promise<QuietTime | undefined> {
    this.#all = undefined;
    return endQuietTime(this.#database, id, nowMs);
  }

  /**
   * What was and what is to come, as a calendar (iCalendar, RFC 5545), each time by itself, so that clocks that change
   * leave no doubt.
   */
  async calendar(nowMs: number): Promise<string> {
    const calendar = ical({
      name: "Nubrel: quiet times",
      prodId: { company: "Nubrel", product: "quiet times", language: "EN" },
    });
    for (const quiet of await this.all(nowMs)) {
      for (const { fromMs, toMs } of occurrencesOf(quiet, nowMs - feedBehindMs, nowMs + feedAheadMs)) {
        calendar.createEvent({
          id: `quiet-${quiet.id}-${fromMs}@nubrel`,
          start: new Date(fromMs),
          end: new Date(toMs),
          stamp: new Date(quiet.fromMs),
          summary: quiet.title,
          description: [quiet.why, scopeWords(quiet), quiet.by && `by ${quiet.by}`].filter(Boolean).join("\n"),
        });
      }
    }
    return calendar.toString();
  }
}

function scopeWords({ scope }: QuietTime): string {
  if (isAll(scope)) return "everything";
  return [scope.machines.join(", "), ...scope.tags.map(({ tag, is }) => `${tag} is ${is.join(" or ")}`)]
    .filter(Boolean)
    .join("; ");
}
