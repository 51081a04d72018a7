import { useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useEffect } from "react";
import type { Health } from "../../../core/api/condition.ts";
import { useAsOf } from "../api/as-of.ts";
import { meQuery } from "../api/queries.ts";
import { exactClockTime } from "../time/moments.ts";
import { SectionLink } from "../time/section-link.tsx";
import { useAway } from "./use-away.ts";

/** Says on every page that the server, its database or its live stream is away, and since when. */
export function AwayBanner(): ReactNode {
  const away = useAway();
  const queries = useQueryClient();
  const lost = away?.kind === "server";
  useEffect(() => {
    // Away may also mean signed out: the answer tells which.
    if (lost) void queries.invalidateQueries({ queryKey: meQuery.queryKey });
  }, [lost, queries]);
  return (
    <div role="status">
      {away?.kind === "server" && (
        <Bar>
          Nubrel's server has not answered since <span className="moment">{exactClockTime(away.sinceMs)}</span>. What
          you see stays as it is; it goes on by itself when the server is back.
        </Bar>
      )}
      {away?.kind === "database" && <DatabaseBar sinceMs={away.sinceMs} health={away.health} />}
      {away?.kind === "stream" && (
        <Bar>
          News have not come by themselves since <span className="moment">{exactClockTime(away.sinceMs)}</span>: the
          server answers, but its stream is cut off. It is tried again; what is asked for is of now.
        </Bar>
      )}
    </div>
  );
}

function DatabaseBar({
  sinceMs,
  health: { database, databaseTries, waitingSamples, mostWaiting, waitingOnDisk },
}: {
  sinceMs: number;
  health: Health;
}): ReactNode {
  const asOfMs = useAsOf();
  return (
    <Bar>
      {database === "full" ? "The database's disk has been full since " : "The database has not answered since "}
      <span className="moment">{exactClockTime(sinceMs)}</span>.
      {databaseTries > 0 && (
        <>
          {" "}
          It was tried <span className="figure">{databaseTries}</span> times to start it:{" "}
          <SectionLink to="/sources/condition" className="word-link">
            what it says
          </SectionLink>
          .
        </>
      )}{" "}
      Gathering goes on: <span className="figure">{waitingSamples.toLocaleString("en")}</span> samples wait{" "}
      {waitingOnDisk ? "on disk" : "in memory"}, of <span className="figure">{mostWaiting.toLocaleString("en")}</span>{" "}
      at most, and are stored when it is back. {database === "full" && "Make room, or keep samples for fewer days. "}
      What was stored before is safe; the last hours can still be seen
      {asOfMs !== undefined && (
        <>
          , and lists as they were at <span className="moment">{exactClockTime(asOfMs)}</span>
        </>
      )}
      .
    </Bar>
  );
}

function Bar({ children }: { children: ReactNode }): ReactNode {
  return <p className="border-b border-urgent bg-wash px-4 py-2 sm:px-7">{children}</p>;
}
