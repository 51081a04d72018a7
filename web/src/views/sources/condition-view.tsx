import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { type ConditionView as Condition, confirmClock } from "../../../../core/api/condition.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { call } from "../../api/client.ts";
import { conditionQuery } from "../../api/queries.ts";
import { Quantity } from "../../ui/quantity.tsx";
import { exactClockTime, momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";
import { Servers, Standby } from "./servers-part.tsx";
import { Upkeep } from "./upkeep-part.tsx";
import { SourcesHeading } from "../../shared/sources/sources-heading.tsx";

/** How Nubrel itself is: its clock, its database, what it could not read, what its log has said. */
export function ConditionView(): ReactNode {
  const condition = useQuery(conditionQuery);
  return (
    <>
      <SourcesHeading />
      {condition.isPending && <p className="py-8 text-quiet">reading …</p>}
      {condition.error && (
        <p role="alert" className="py-2 text-urgent">
          {condition.error.message}
        </p>
      )}
      {condition.data && (
        <div className="max-w-5xl">
          <Clock clock={condition.data.clock} />
          <Database database={condition.data.database} />
          <Servers servers={condition.data.servers} />
          <Standby standby={condition.data.standby} />
          <Backups backups={condition.data.backups} />
          <Upkeep upkeep={condition.data.upkeep} />
          <Unseen unseen={condition.data.unseen} />
          <SetAside setAside={condition.data.setAside} />
          <Log log={condition.data.log} />
        </div>
      )}
    </>
  );
}

function Clock({ clock: { jumps, actingMs } }: { clock: Condition["clock"] }): ReactNode {
  const { nowMs } = useTime();
  const queries = useQueryClient();
  const confirm = useMutation({
    mutationFn: () => call(confirmClock, {}),
    onSuccess: () => queries.invalidateQueries(),
  });
  return (
    <section aria-labelledby="clock-title" className="py-4">
      <h2 id="clock-title" className="font-bold">
        Its clock
      </h2>
      {actingMs !== null && (
        <div role="alert" className="my-2 border-l-2 border-notice pl-3">
          <p>
            It is not believed: it stands {presentSpan(nowMs - actingMs)} beyond what is known to have been. What would
            be deleted or signed out waits, as if it were {momentText(actingMs, nowMs)}.
          </p>
          <p className="flex flex-wrap items-center gap-3 pt-2">
            <button type="button" className="act" disabled={confirm.isPending} onClick={() => confirm.mutate()}>
              The clock is right
            </button>
            <span className="text-quiet">
              The server was off for as long, say. If it is wrong, set it right instead.
            </span>
          </p>
          {confirm.error && <p className="pt-1 text-urgent">{confirm.error.message}</p>}
        </div>
      )}
      {jumps.length === 0 ? (
        <p className="text-quiet">{actingMs === null ? "It has not been set since the start." : ""}</p>
      ) : (
        <ul>
          {jumps.map(({ atMs, byMs }) => (
            <li key={atMs}>
              <span className="moment">{momentText(atMs, nowMs)}</span> set {byMs > 0 ? "ahead" : "back"} by{" "}
              {presentSpan(Math.abs(byMs))}
              {byMs > 0 && ", or the machine slept"}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

function Database({ database }: { database: Condition["database"] }): ReactNode {
  if (!database) return null;
  return (
    <section aria-labelledby="database-title" className="border-t border-hairline py-4">
      <h2 id="database-title" className="font-bold">
        Its PostgreSQL
      </h2>
      {database.said === null ? (
        <p>It had ended and was started again; it runs.</p>
      ) : (
        <>
          <p>
            It was tried <span className="figure">{database.tries}</span> times to start it; it does not come up. It
            says:
          </p>
          <pre className="figure mt-2 overflow-x-auto border-l-2 border-urgent bg-wash px-3 py-2 text-[13px] whitespace-pre-wrap">
            {database.said}
          </pre>
        </>
      )}
    </section>
  );
}

function Backups({ backups }: { backups: Condition["backups"] }): ReactNode {
  const { nowMs } = useTime();
  return (
    <section aria-labelledby="backups-title" className="border-t border-hairline py-4" data-backups>
      <h2 id="backups-title" className="font-bold">
        Its backups
      </h2>
      {backups === null ? (
        <p className="text-quiet">
          None are taken by the clock. Name a folder in <span className="figure">NUBREL_BACKUP_TO</span>, on another
          disk, and one is taken every night; or take one in the shell: <span className="figure">nubrel backup</span>.
        </p>
      ) : (
        <>
          {backups.problem !== null && (
            <p role="alert" className="my-2 border-l-2 border-urgent pl-3">
              The last one failed: {backups.problem}. It is tried again{" "}
              <span className="moment">{momentText(backups.nextAtMs, nowMs)}</span>.
            </p>
          )}
          <p>
            {backups.lastAtMs === null ? (
              "There is none yet"
            ) : (
              <>
                The newest is of <span className="moment">{momentText(backups.lastAtMs, nowMs)}</span>,{" "}
                <Quantity value={backups.bytes} unit="By" />
                {backups.checked === true && ", and was restored once to see that it can be"};{" "}
                <span className="figure">{backups.kept}</span> {backups.kept === 1 ? "is" : "are"} kept
              </>
            )}{" "}
            in <span className="figure break-all">{backups.folder}</span>.{" "}
            {backups.problem === null && (
              <>
                The next is taken <span className="moment">{momentText(backups.nextAtMs, nowMs)}</span>.
              </>
            )}
          </p>
          {backups.checked === false && (
            <p className="text-quiet">
              Its database's account may make no other database, so that none is tried by restoring it.
            </p>
          )}
        </>
      )}
    </section>
  );
}

/** In a container: what of the machine it does not see. */
function Unseen({ unseen }: { unseen: Condition["unseen"] }): ReactNode {
  if (unseen.length === 0) return null;
  return (
    <section aria-labelledby="unseen-title" className="border-t border-hairline py-4" data-unseen>
      <h2 id="unseen-title" className="font-bold">
        What it does not see of its machine
      </h2>
      <p>It runs in a container, which shows it a part of the machine only.</p>
      <ul className="list-disc pl-5">
        {unseen.map((words) => (
          <li key={words} className="max-w-prose">
            {words}
          </li>
        ))}
      </ul>
    </section>
  );
}

const origins: Readonly<Record<NonNullable<Condition["setAside"]>["rows"][number]["origin"], string>> = {
  journal: "samples just received",
  chunk: "samples of two hours",
  chunk_times: "times that series share",
  rollup_5m: "5 min buckets of a day",
  rollup_1h: "hours of ten days",
};

function SetAside({ setAside }: { setAside: Condition["setAside"] }): ReactNode {
  const { nowMs } = useTime();
  return (
    <section aria-labelledby="aside-title" className="border-t border-hairline py-4">
      <h2 id="aside-title" className="font-bold">
        What could not be read
      </h2>
      {setAside === null && <p className="text-quiet">Not known while the database is away.</p>}
      {setAside?.count === 0 && (
        <p className="text-quiet">
          Nothing. What is damaged on the disk is set aside whole, and stands here; the rest goes on.
        </p>
      )}
      {setAside && setAside.count > 0 && (
        <div className="overflow-x-auto">
          <p className="py-1">
            {setAside.count === 1 ? (
              "1 row was"
            ) : (
              <>
                <span className="figure">{setAside.count.toLocaleString("en")}</span> rows were
              </>
            )}{" "}
            set aside: damaged on the disk, or written by a newer version. A disk that does that once does it again:
            look at it, and keep a backup.
          </p>
          <table className="w-full min-w-[720px] text-[14px]">
            <thead>
              <tr className="text-left text-[13px] text-quiet">
                {["When", "What", "Of", "Size", "Why"].map((title) => (
                  <th key={title} className="py-1 pr-4 font-normal">
                    {title}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {setAside.rows.map(({ origin, place, reason, bytes, atMs, counter, machine }) => (
                <tr
                  key={`${origin} ${JSON.stringify(place)}`}
                  className="border-t border-hairline align-top"
                  data-set-aside={origin}
                >
                  <td className="moment py-1.5 pr-4 whitespace-nowrap">{momentText(atMs, nowMs)}</td>
                  <td className="py-1.5 pr-4">{origins[origin]}</td>
                  <td className="py-1.5 pr-4">
                    {counter
                      ? `${counter} of ${machine}`
                      : Object.entries(place)
                          .map(([name, value]) => `${name} ${value}`)
                          .join(", ")}
                  </td>
                  <td className="py-1.5 pr-4 whitespace-nowrap">
                    <Quantity value={bytes} unit="By" />
                  </td>
                  <td className="py-1.5">{reason}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}

function Log({ log }: { log: Condition["log"] }): ReactNode {
  const { nowMs } = useTime();
  return (
    <section aria-labelledby="log-title" className="border-t border-hairline py-4">
      <h2 id="log-title" className="font-bold">
        What its log has said since the start
      </h2>
      {log.length === 0 ? (
        <p className="text-quiet">Nothing: no warning, no error.</p>
      ) : (
        <ul>
          {log.map(({ level, words, why, firstMs, lastMs, times }) => (
            <li
              key={`${words} ${why}`}
              className="flex flex-wrap gap-x-4 border-t border-hairline py-1.5 first:border-t-0"
              data-log={level}
            >
              <span
                className="figure whitespace-nowrap text-quiet"
                title={times > 1 ? `first at ${exactClockTime(firstMs)}` : undefined}
              >
                {momentText(lastMs, nowMs)}
              </span>
              <span className="min-w-0 flex-1 basis-80 break-words">
                <span className={level === "error" ? "font-bold" : ""}>{words}</span>
                {times > 1 && (
                  <span className="text-quiet">
                    {" "}
                    · <span className="figure">{times.toLocaleString("en")}</span> times
                  </span>
                )}
                {why && <span className="block whitespace-pre-wrap text-quiet">{why}</span>}
              </span>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
