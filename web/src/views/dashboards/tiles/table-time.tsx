import type { ReactNode } from "react";
import { spanOfTable } from "../../../../../core/tables/table-lines.ts";
import { type Table, timeText } from "../../../../../core/tables/table.ts";
import { shortestMs } from "../../../time/time-window.ts";
import { useTime } from "../../../time/time-provider.tsx";

/** A table that has nothing to draw over time in this window says why, and goes to its own time. */
export function TableTime({ table }: { table: Table }): ReactNode {
  const { change } = useTime();
  const times = spanOfTable(table);
  if (!times)
    return (
      <p className="text-[13px] text-quiet">This table has no column of times: draw it as meters, a list or a table.</p>
    );
  if (!table.columns.some(({ kind }) => kind === "number"))
    return <p className="text-[13px] text-quiet">This table has no column of numbers to draw.</p>;
  const margin = Math.max(shortestMs, (times.to - times.from) * 0.02);
  return (
    <p className="text-[13.5px] text-quiet">
      No row of the table lies in this window; it reaches from {timeText(times.from)} to {timeText(times.to)} UTC.{" "}
      <button
        type="button"
        className="word-link"
        onClick={() =>
          change({ kind: "fixed", fromMs: Math.round(times.from - margin), toMs: Math.round(times.to + margin) })
        }
      >
        Look there
      </button>
    </p>
  );
}
