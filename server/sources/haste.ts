import type { Tags } from "../../core/counters/counter.ts";
import type { RelayedSource } from "../../core/relay/relay-wire.ts";
import { type SourceKind, sends } from "../../core/sources/kinds/source-kinds.ts";
import type { Source } from "../../core/sources/source.ts";

/** What is wanted of a source more often than it is gathered usually: while a recording runs. */
export interface Haste {
  readonly everyMs: number;
  /** It falls back by itself then, whatever happens to who wanted it. */
  readonly untilMs: number;
  /** The counters wanted, by the names that they are stored under. */
  readonly counters: ReadonlySet<string>;
  /** Whether a series is wanted, as it is stored. */
  readonly wants: (counter: string, tags: Tags) => boolean;
}

/** A haste as whoever asks the source elsewhere is told of it; no counters where all of it is to be asked for. */
export function toldHaste({ take }: Pick<Source, "take">, haste: Haste | undefined): RelayedSource["haste"] {
  if (!haste) return null;
  // Rules of the source give counters other names: then all of it is asked for.
  return { everyMs: haste.everyMs, untilMs: haste.untilMs, counters: take.length > 0 ? [] : [...haste.counters] };
}

/** What two want at once, by one gathering at the finer interval. */
export function bothHastes(a: Haste, b: Haste): Haste {
  return {
    everyMs: Math.min(a.everyMs, b.everyMs),
    untilMs: Math.max(a.untilMs, b.untilMs),
    counters: new Set([...a.counters, ...b.counters]),
    wants: (counter, tags) => a.wants(counter, tags) || b.wants(counter, tags),
  };
}

/**
 * Why a source cannot be gathered at an interval of a recording; undefined where it can. `sentTables` says that a
 * collector sends counter logs.
 */
export function whyNotFaster(kind: SourceKind, sentTables: boolean): string | undefined {
  if (kind === "collector")
    return sentTables
      ? "its collector gathers by the system's own tool, whose interval is fixed when it starts"
      : undefined;
  if (kind === "relay") return undefined;
  if (kind === "flow") return "its routers export at an interval of their own";
  return sends({ kind }) ? "it only sends, at an interval of its own" : undefined;
}
