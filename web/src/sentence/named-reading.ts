import type { OpenReading } from "./reading-address.ts";

/** What people ask for by a name of its own: "processor busy", whatever counters it is worked out of. */
export interface NamedReading {
  readonly id: string;
  readonly words: string;
  /** The subject that it is of. */
  readonly subject: string;
  /** How it is worked out. */
  readonly explains: string;
  readonly reading: OpenReading;
}

/** Those that answer to what is typed; the usual ones where nothing is. */
export type FindNamed = (typed: string) => readonly NamedReading[];
