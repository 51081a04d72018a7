import type { RunListed } from "../../core/api/recordings.ts";
import type { RunRow } from "./run-rows.ts";

/** A run as lists have it. */
export function listedRun(row: RunRow): RunListed {
  const {
    document: _,
    seenMs: __,
    parts: ___,
    notes: ____,
    used: _____,
    events: ______,
    isKept: _______,
    ...listed
  } = row;
  return listed;
}
