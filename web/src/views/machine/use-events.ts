import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import type { MachineEvent } from "../../../../core/events/machine-event.ts";
import { eventsQuery } from "../../api/queries.ts";
import { useTime } from "../../time/time-provider.tsx";

const noEvents: readonly MachineEvent[] = [];
/** Windows that move on by seconds ask for the same events. */
const roundedMs = 10_000;

/** What happened in the window, as far as `concerns` lets it through; it should be stable. */
export function useEvents(concerns: (event: MachineEvent) => boolean): readonly MachineEvent[] {
  const { span } = useTime();
  const all =
    useQuery(eventsQuery(Math.floor(span.fromMs / roundedMs) * roundedMs, Math.ceil(span.toMs / roundedMs) * roundedMs))
      .data ?? noEvents;
  return useMemo(() => all.filter(concerns), [all, concerns]);
}
