import type { ReactNode } from "react";
import type { UpkeepView } from "../../../../core/api/condition.ts";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";
import { Quantity } from "../../ui/quantity.tsx";

/** What the tables hold, by their names; those that are seldom large are told by these. */
const words: Readonly<Record<string, string>> = {
  chunk: "samples",
  chunk_times: "the times of samples",
  rollup_5m: "5 min buckets",
  rollup_1h: "1 h buckets",
  journal: "the newest samples, as they came",
  series: "series",
  event: "events",
  incident: "alerts",
  gathered: "how many samples a minute had",
  recording_samples: "samples of recordings",
  audit: "who did what",
};
/** Smaller tables are not told, nor are fewer rows that were left behind: there is always some. */
const toldBytes = 2 ** 20;
const toldDead = 0.01;
const isTold = ({ sizeBytes }: UpkeepView["tables"][number]) => sizeBytes >= toldBytes;
const largeBytes = 100e6;
const muchDead = 0.5;
/** The journal is emptied every two hours: what was cleaned within so long is cared for. */
const longMs = 86_400_000;
const nearlyFull = 0.9;

/** How PostgreSQL keeps this database in order, and what to do where it does not. */
export function Upkeep({ upkeep }: { upkeep: UpkeepView | null }): ReactNode {
  const { nowMs } = useTime();
  if (upkeep === null) return null;
  const { tables, tempBytes, tempFiles, mostTempBytes, keptWalBytes, mostKeptWalBytes, mostWalBytes } = upkeep;
  return (
    <section aria-labelledby="upkeep-title" className="border-t border-hairline py-4" data-upkeep>
      <h2 id="upkeep-title" className="font-bold">
        How its database is looked after
      </h2>
      {warningsOf(upkeep, nowMs).map((warning) => (
        <p key={warning} role="alert" className="my-2 border-l-2 border-notice pl-3">
          {warning}
        </p>
      ))}
      <ul className="pt-1">
        {tables.filter(isTold).map(({ name, parts, sizeBytes, rows, deadRows, cleanedAtMs }) => (
          <li
            key={name}
            className="grid grid-cols-[minmax(0,1fr)_6rem_minmax(0,1.2fr)] gap-x-4 border-t border-hairline py-1 max-sm:grid-cols-[minmax(0,1fr)_6rem]"
          >
            <span>
              {words[name] ?? <span className="figure">{name}</span>}
              {parts > 1 && <span className="text-quiet">, in {parts.toLocaleString("en")} parts</span>}
            </span>
            <span className="text-right">
              <Quantity value={sizeBytes} unit="By" />
            </span>
            <span className="text-quiet max-sm:col-span-2">
              {deadRows > toldDead * (rows + deadRows) && (
                <>
                  <Quantity value={(deadRows / (rows + deadRows)) * 100} unit="%" /> of its rows left behind
                  {cleanedAtMs !== null && ", "}
                </>
              )}
              {cleanedAtMs !== null && (
                <>
                  cleaned <span className="moment">{momentText(cleanedAtMs, nowMs)}</span>
                </>
              )}
            </span>
          </li>
        ))}
      </ul>
      <p className="pt-1 text-quiet">
        {tables.some(isTold) ? "Every other table" : "Every table"} is smaller than{" "}
        <Quantity value={toldBytes} unit="By" />. Its write-ahead log is let grow to{" "}
        <Quantity value={mostWalBytes} unit="By" />
        {keptWalBytes > 0 && (
          <>
            , and <Quantity value={keptWalBytes} unit="By" /> of it are kept for a standby
            {mostKeptWalBytes !== null && (
              <>
                , at most <Quantity value={mostKeptWalBytes} unit="By" />
              </>
            )}
          </>
        )}
        . Since its statistics were begun, <Quantity value={tempBytes} unit="By" /> went through{" "}
        <span className="figure">{tempFiles.toLocaleString("en")}</span> temporary {tempFiles === 1 ? "file" : "files"}
        {mostTempBytes !== null && (
          <>
            ; a query may put <Quantity value={mostTempBytes} unit="By" /> there at most
          </>
        )}
        .
      </p>
    </section>
  );
}

/** What is not in order, with what to do. */
export function warningsOf(
  { isAutovacuumOn, ageShare, tables, keptWalBytes, mostKeptWalBytes, mostWalBytes, lostSlots }: UpkeepView,
  nowMs: number,
): readonly string[] {
  const dead = tables.filter(
    ({ sizeBytes, rows, deadRows, cleanedAtMs }) =>
      sizeBytes > largeBytes && deadRows > muchDead * (rows + deadRows) && !(nowMs - (cleanedAtMs ?? 0) < longMs),
  );
  return [
    ...(isAutovacuumOn
      ? []
      : ["Autovacuum is off, so that the database only grows. Switch it on: alter system set autovacuum = on."]),
    ...(ageShare > nearlyFull
      ? [
          "Its transactions are nearly as old as they may be before PostgreSQL cleans in spite of all else. Let it: vacuum freeze, in a quiet hour.",
        ]
      : []),
    ...dead.map(
      ({ name }) =>
        `More than half of the rows in ${name} were left behind. A transaction that was left open may hinder cleaning: pg_stat_activity names the oldest.`,
    ),
    ...(keptWalBytes > 2 * mostWalBytes
      ? [
          mostKeptWalBytes === null
            ? "Write-ahead log is kept for a standby that does not take it, until the disk is full. Start that standby, or drop its slot: pg_replication_slots names it."
            : "Write-ahead log is kept for a standby that does not take it. Start that standby before so much is kept that no more is, or drop its slot: pg_replication_slots names it.",
        ]
      : []),
    ...lostSlots.map(
      (slot) =>
        `A standby took its write-ahead log too late, and what it lacks is gone. Make that standby anew, and drop its slot: select pg_drop_replication_slot('${slot}').`,
    ),
  ];
}
