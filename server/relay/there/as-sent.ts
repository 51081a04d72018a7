import type { SentFailure, SentPage, SentReadings } from "../../../core/relay/relay-wire.ts";
import type { Gathered } from "../../gather/device-gatherer.ts";
import type { PulledPage } from "../../gather/pull/pull-page.ts";
import { failureOf } from "../../sources/failure-of.ts";
import { PullError } from "../../transport/pull-error.ts";

/** What asking a device gave, as it goes to the server. */
export function sentReadings(
  { readings, leftOut, raw, rawType, certificateUntilMs, events }: Gathered,
  withRaw: boolean,
): SentReadings {
  return {
    kind: "readings",
    readings,
    leftOut: [...(leftOut ?? [])],
    raw: withRaw ? raw : "",
    rawType,
    certificateUntilMs: certificateUntilMs ?? null,
    events: events ?? [],
  };
}

/** What an address answered, as it goes to the server. */
export function sentPage({ dialect, contentType, bytes, certificateUntilMs }: PulledPage): SentPage {
  return {
    kind: "page",
    dialect,
    contentType,
    bytes: Buffer.from(bytes).toString("base64"),
    certificateUntilMs: certificateUntilMs ?? null,
  };
}

/** Why asking gave nothing, found out here, where it was asked. */
export function sentFailure(error: unknown, atMs: number): SentFailure {
  const known =
    error instanceof PullError
      ? error
      : new PullError(
          "failed",
          `Gathering failed: ${(error as Error).message}`,
          "Try again; if it stays, look at the relay's own messages.",
        );
  return { kind: "failed", failure: failureOf(known, atMs) };
}
