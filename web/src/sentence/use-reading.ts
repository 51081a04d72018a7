import { type UseQueryResult, useQuery } from "@tanstack/react-query";
import type { ReadingAnswer } from "../../../core/reading/document.ts";
import { readingQuery } from "../api/queries.ts";
import type { Span } from "../time/time-window.ts";
import type { OpenReading } from "./reading-address.ts";

const defaultPoints = 360;

/** The answer to a reading over a span; the one before stays while a newer is fetched. `enabled` false asks nothing. */
export function useReading(
  reading: OpenReading,
  span: Span,
  points = defaultPoints,
  enabled = true,
): UseQueryResult<ReadingAnswer> {
  return useQuery({
    ...readingQuery({ ...reading, points, window: { from: Math.round(span.fromMs), to: Math.round(span.toMs) } }),
    enabled,
  });
}
