import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useEffect } from "react";
import type { Health } from "../../../core/api/views.ts";
import { useLiveStatus } from "../api/live-provider.tsx";
import { healthQuery, meQuery } from "../api/queries.ts";
import { exactClockTime } from "../time/moments.ts";

/** Says on every page that the server or its database is away, and since when. */
export function AwayNotice(): ReactNode {
  const status = useLiveStatus();
  const queries = useQueryClient();
  const health = useQuery(healthQuery);
  const lost = status.kind === "lost";
  useEffect(() => {
    // Away may also mean signed out: the answer tells which.
    if (lost) void queries.invalidateQueries({ queryKey: meQuery.queryKey });
  }, [lost, queries]);
  return (
    <div role="status">
      {lost && (
        <Bar>
          Nubrel's server has not answered since <span className="figure">{exactClockTime(status.sinceMs)}</span>. What you see stays as it is; it goes on by itself when the server is back.
        </Bar>
      )}
      {!lost && health.data && health.data.database !== "ok" && <DatabaseBar health={health.data} />}
    </div>
  );
}

function DatabaseBar({ health: { database, databaseSince, waitingSamples, mostWaiting } }: { health: Health }): ReactNode {
  return (
    <Bar>
      {database === "full" ? "The database's disk has been full since " : "The database has not answered since "}
      <span className="figure">{exactClockTime(databaseSince ?? Date.now())}</span>. Gathering goes on: <span className="figure">{waitingSamples.toLocaleString("en")}</span> samples wait in memory, of{" "}
      <span className="figure">{mostWaiting.toLocaleString("en")}</span> at most, and are stored when it is back. {database === "full" && "Make room, or keep samples for fewer days. "}What was stored before is safe; the last hours can still be seen.
    </Bar>
  );
}

function Bar({ children }: { children: ReactNode }): ReactNode {
  return <p className="border-b border-urgent bg-wash px-4 py-2 sm:px-7">{children}</p>;
}
