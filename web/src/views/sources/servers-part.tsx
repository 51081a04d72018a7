import type { ReactNode } from "react";
import type { ServerView, StandbyView } from "../../../../core/api/condition.ts";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";
import { Quantity } from "../../ui/quantity.tsx";

/** Where several servers work on one database: which leads, and how far the others are behind. */
export function Servers({ servers }: { servers: readonly ServerView[] }): ReactNode {
  const { nowMs } = useTime();
  if (servers.length === 0) return null;
  return (
    <section aria-labelledby="servers-title" className="border-t border-hairline py-4">
      <h2 id="servers-title" className="font-bold">
        The servers of its database
      </h2>
      <ul>
        {servers.map(({ host, pid, address, leads, sinceMs, behindMs, asks, storesPerSecond }) => (
          <li key={address + pid} className="py-1">
            <span className="figure break-all">{address}</span>{" "}
            <span className="text-quiet">
              on {host}, process <span className="figure">{pid}</span>, since{" "}
              <span className="moment">{momentText(sinceMs, nowMs)}</span>:
            </span>{" "}
            {leads ? (
              "it leads: decides and checks, and asks what no other asks"
            ) : (
              <>
                {behindMs === null ? (
                  "answers readings; nothing has come there in the last seconds"
                ) : (
                  <>
                    answers readings, <Quantity value={behindMs / 1000} unit="s" /> behind
                  </>
                )}
                {storesPerSecond !== null && storesPerSecond > 0 && (
                  <>
                    ; stores <Quantity value={storesPerSecond} unit="{sample}" /> samples a second itself
                  </>
                )}
                {asks !== null && asks > 0 && (
                  <>
                    ; asks <span className="figure">{asks}</span> {asks === 1 ? "source" : "sources"}
                  </>
                )}
              </>
            )}
          </li>
        ))}
      </ul>
      {servers.length === 1 && (
        <p className="text-quiet">
          No other stands beside it. One that is started on the same database with{" "}
          <span className="figure">NUBREL_SEVERAL_SERVERS=yes</span> does, and takes its place where it ends.
        </p>
      )}
    </section>
  );
}

/** The standby that readings are taken from, and how far it is behind. */
export function Standby({ standby }: { standby: StandbyView | null }): ReactNode {
  if (standby === null) return null;
  const { host, isUsed, behindMs, behindBytes, failure } = standby;
  return (
    <section aria-labelledby="standby-title" className="border-t border-hairline py-4">
      <h2 id="standby-title" className="font-bold">
        The standby that it reads from
      </h2>
      <p role={failure === null ? undefined : "alert"}>
        <span className="figure break-all">{host}</span>{" "}
        {failure !== null ? (
          `cannot be read just now, and the database itself is read instead: ${failure}`
        ) : (
          <>
            is {behindMs === null ? "further behind than is known" : <Quantity value={behindMs / 1000} unit="s" />}
            {behindBytes !== null && (
              <>
                {" "}
                (<Quantity value={behindBytes} unit="By" />)
              </>
            )}{" "}
            behind the database.{" "}
            {isUsed
              ? "Large readings are taken from it."
              : "It lacks what readings need just now: the database itself is read until it has it."}
          </>
        )}
      </p>
    </section>
  );
}
