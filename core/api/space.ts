import type { ReadingDocument } from "../reading/document.ts";
import { type Nothing, route } from "./route.ts";

/** Something that fills. */
export interface SpaceView {
  /** What it is, in words: "/srv", "archive". */
  readonly what: string;
  readonly machine: string;
  readonly kind: "filesystem" | "inodes" | "pool" | "guest's disk" | "tier" | "given";
  readonly used: number;
  readonly size: number;
  /** UCUM, of both. */
  readonly unit: string;
  /** Growth a day, in its unit; below 0 where it empties. */
  readonly perDay: number;
  /** What it grew by in seven days, in its unit; null where it was not known then. */
  readonly weekChange: number | null;
  /** When it is full: eight in ten lie between; null where it does not fill, or nothing can be said. */
  readonly fullFromMs: number | null;
  readonly fullToMs: number | null;
  readonly fullLikelyMs: number | null;
  /** Why nothing is said of when, in words; null where it is. */
  readonly why: string | null;
  /** What forecasts made so many days ago said of now, less what came, of its size. */
  readonly error: { readonly days7: number | null; readonly days14: number | null; readonly days28: number | null };
  /** By the day over eight weeks, of its size; null for days that nothing is known of. */
  readonly strip: readonly (number | null)[];
  /** Its chart; null of what has none. */
  readonly reading: Omit<ReadingDocument, "window"> | null;
}

/** Everything that fills, what is full first on top. */
export const getSpace = route("GET", "/planning/space")<Nothing, readonly SpaceView[]>();
