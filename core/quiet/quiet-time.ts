import { tagOf } from "../counters/set-tag.ts";
import { DateTime } from "luxon";
import type { Tags } from "../counters/counter.ts";
import { momentsOfClock } from "../time/clock-moments.ts";

/** What a quiet time hides: machines, or tags of machines and lines; nothing said: everything. */
export interface QuietScope {
  readonly machines: readonly string[];
  /** Each tag with the values of which one must be there; all of them must hold. */
  readonly tags: readonly { readonly tag: string; readonly is: readonly string[] }[];
}

/** How often it comes again, by the clock of a zone. */
interface QuietRepeat {
  /** 1 Monday to 7 Sunday (ISO 8601). */
  readonly weekdays: readonly number[];
  /** IANA. */
  readonly zone: string;
}

/** A while in which nobody is told: once, or again and again until somebody ends it. */
export interface QuietTime {
  readonly id: number;
  readonly title: string;
  readonly why: string;
  readonly by: string;
  readonly scope: QuietScope;
  /** The first time; a repeated one begins at this time of the day and lasts as long. */
  readonly fromMs: number;
  readonly toMs: number;
  readonly repeat: QuietRepeat | null;
  /** It comes no more after this; null: until it is ended. Of one that comes once, when it was ended early. */
  readonly endedAtMs: number | null;
}

export interface Occurrence {
  readonly quiet: QuietTime;
  /** ms, half-open. */
  readonly fromMs: number;
  readonly toMs: number;
}

/** One lasts this long at most, so that none is left standing for ever. */
export const longestQuietMs = 31 * 86_400_000;
const mostOccurrences = 1000;

/**
 * When a quiet time holds within `[fromMs, toMs)`. A repeated one begins and ends at the same times of its zone's clock
 * as the first did, on each of its weekdays: in
 * the nights in which the clock is changed it is an hour shorter or longer. Where the clock is put forward over one of
 * the two, that is the moment of the change; where it is
 * put back over them, it begins at the first of both and ends at the last (IANA time zone rules).
 */
export function occurrencesOf(quiet: QuietTime, fromMs: number, toMs: number): readonly Occurrence[] {
  const made: Occurrence[] = [];
  const until = Math.min(toMs, quiet.endedAtMs ?? Number.POSITIVE_INFINITY);
  const add = (from: number, end: number) => {
    const to = Math.min(end, quiet.endedAtMs ?? Number.POSITIVE_INFINITY);
    if (from < until && to > fromMs && to > from) made.push({ quiet, fromMs: from, toMs: to });
  };
  if (!quiet.repeat) {
    add(quiet.fromMs, quiet.toMs);
    return made;
  }
  const { zone, weekdays } = quiet.repeat;
  const first = DateTime.fromMillis(quiet.fromMs, { zone });
  const last = DateTime.fromMillis(quiet.toMs, { zone });
  const days = Math.round(last.startOf("day").diff(first.startOf("day"), "days").days);
  // A day more on both sides: one may have begun before the window, and zones' days are not the window's.
  let day = DateTime.fromMillis(Math.max(quiet.fromMs, fromMs - (quiet.toMs - quiet.fromMs) - 86_400_000), {
    zone,
  }).startOf("day");
  while (day.toMillis() < until && made.length < mostOccurrences) {
    if (weekdays.includes(day.weekday)) {
      const begins = Math.min(...momentsOfClock(day, first));
      if (begins >= quiet.fromMs) add(begins, Math.max(...momentsOfClock(day.plus({ days }), last)));
    }
    day = day.plus({ days: 1 });
  }
  return made;
}

/**
 * The quiet time that holds for something with these tags at a moment; of several the one that ends last. Undefined
 * where none does.
 */
export function quietAt(all: readonly QuietTime[], tags: Tags, atMs: number): Occurrence | undefined {
  return all
    .filter(({ scope }) => concerns(scope, tags))
    .flatMap((quiet) => occurrencesOf(quiet, atMs, atMs + 1))
    .reduce<Occurrence | undefined>((a, b) => (a === undefined || b.toMs > a.toMs ? b : a), undefined);
}

export function concerns({ machines, tags: wanted }: QuietScope, tags: Tags): boolean {
  if (machines.length > 0 && !machines.includes(tags["machine"] ?? "")) return false;
  return wanted.every(({ tag, is }) => is.includes(tagOf(tags, tag) ?? ""));
}

/** Whether it hides everything: the one switch for all alerting. */
export const isAll = ({ machines, tags }: QuietScope): boolean => machines.length === 0 && tags.length === 0;
