import type { SourceFailure } from "../../core/sources/source-failure.ts";
import type { PullError } from "../transport/pull-error.ts";

/** What failed at a source, as it is shown. */
export function failureOf({ kind, message, remedy, certificate }: PullError, atMs: number): SourceFailure {
  return { kind, words: message, remedy, atMs, certificate: certificate ?? null };
}
