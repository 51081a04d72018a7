import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { windowEventsQuery } from "../../../api/queries.ts";
import { nearMomentText } from "../../../time/moments.ts";
import { useTime } from "../../../time/time-provider.tsx";
import { usePicks } from "../picks-provider.tsx";

/** What happened in the window, of the picked machines, the newest first. */
export function EventRows(): ReactNode {
  const { span, nowMs } = useTime();
  const { pickers, picks } = usePicks();
  const machines = pickers.filter(({ tag }) => tag === "machine").flatMap(({ id }) => picks[id] ?? []);
  const events = useQuery(windowEventsQuery(span));
  if (events.error)
    return (
      <p role="alert" className="text-[13px] text-urgent">
        {events.error.message}
      </p>
    );
  if (!events.data) return <p className="text-quiet">reading …</p>;
  const shown = events.data.filter(
    ({ machine }) => machines.length === 0 || machine === "" || machines.includes(machine),
  );
  if (shown.length === 0) return <p className="text-[13px] text-quiet">Nothing happened in this window.</p>;
  return (
    <ul className="h-full overflow-auto text-[13.5px]">
      {[...shown].reverse().map((event) => (
        <li key={event.id} className="grid grid-cols-[5.5rem_minmax(0,1fr)] gap-2 border-b border-hairline py-0.5">
          <span className="figure text-quiet">{nearMomentText(event.fromMs, nowMs)}</span>
          <span>
            {event.text}
            {event.machine && <span className="text-quiet"> · {event.machine}</span>}
          </span>
        </li>
      ))}
    </ul>
  );
}
