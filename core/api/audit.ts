import type { PageQuery } from "./page-query.ts";
import { type LinesOf, type Nothing, route } from "./route.ts";

/** One thing that somebody did, or was refused. */
export interface Deed {
  readonly id: number;
  readonly atMs: number;
  /** A person's or a token's name; "nobody" where nobody knows. */
  readonly who: string;
  readonly knownBy: "person" | "token" | "link" | "command" | "nothing";
  /** The address it was asked from. */
  readonly place: string;
  /** The method and path of the route. */
  readonly did: string;
  /** The same in words that follow the name. */
  readonly words: string;
  /** What it was done to, by number or name; empty where that is all there is of its kind. */
  readonly subject: string;
  /** What was otherwise before, and is now; secrets are left out. */
  readonly before: unknown;
  readonly after: unknown;
  /** "done", or why it was refused. */
  readonly outcome: string;
}

export interface AuditQuery {
  readonly from?: number;
  readonly to?: number;
  readonly who?: string;
  /** Any part of the words, the subject or the path. */
  readonly text?: string;
  readonly refused?: boolean;
}

/** The newest first. */
export const listDeeds = route("GET", "/audit")<Nothing, readonly Deed[], AuditQuery & PageQuery>();
/** The same as lines of JSON, all of them, the newest first. */
export const getDeedsFile = route("GET", "/audit/file")<Nothing, LinesOf<Deed>, AuditQuery>();
