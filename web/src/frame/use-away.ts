import { useQuery } from "@tanstack/react-query";
import type { Health } from "../../../core/api/condition.ts";
import { useLiveStatus } from "../api/live-provider.tsx";
import { healthQuery } from "../api/queries.ts";

/** What of the server is away, and since when: all of it, its database, or the live stream alone. */
export type Away =
  | { readonly kind: "server"; readonly sinceMs: number }
  | { readonly kind: "database"; readonly sinceMs: number; readonly health: Health }
  | { readonly kind: "stream"; readonly sinceMs: number };

/** A server that answers is not away because its live stream broke off: whether it answers is asked of its health. */
export function useAway(): Away | undefined {
  const status = useLiveStatus();
  const health = useQuery(healthQuery);
  const answers = health.data !== undefined && !health.isError;
  if (status.kind === "lost" && (!answers || health.dataUpdatedAt < status.sinceMs))
    return { kind: "server", sinceMs: status.sinceMs };
  if (answers && health.data.database !== "ok")
    return { kind: "database", sinceMs: health.data.databaseSince ?? Date.now(), health: health.data };
  return status.kind === "lost" ? { kind: "stream", sinceMs: status.sinceMs } : undefined;
}
