import { useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useEffect } from "react";
import { useLiveStatus } from "../api/live-provider.tsx";
import { meQuery } from "../api/queries.ts";
import { exactClockTime } from "../time/moments.ts";

/** Says on every page that the server is away, and since when. */
export function AwayNotice(): ReactNode {
  const status = useLiveStatus();
  const queries = useQueryClient();
  const lost = status.kind === "lost";
  useEffect(() => {
    // Away may also mean signed out: the answer tells which.
    if (lost) void queries.invalidateQueries({ queryKey: meQuery.queryKey });
  }, [lost, queries]);
  return (
    <div role="status">
      {lost && (
        <p className="border-b border-urgent bg-wash px-4 py-2 sm:px-7">
          Nubrel's server has not answered since <span className="figure">{exactClockTime(status.sinceMs)}</span>. What you see stays as it is; it goes on by itself when the server is back.
        </p>
      )}
    </div>
  );
}
