import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import type { MachineEvent } from "../../../../core/events/machine-event.ts";
import { windowEventsQuery } from "../../api/queries.ts";
import { useTime } from "../../time/time-provider.tsx";

const noEvents: readonly MachineEvent[] = [];

/** What happened in the window, as far as `concerns` lets it through; it should be stable. */
export function useEvents(concerns: (event: MachineEvent) => boolean): readonly MachineEvent[] {
  const { span } = useTime();
  const all = useQuery(windowEventsQuery(span)).data ?? noEvents;
  return useMemo(() => all.filter(concerns), [all, concerns]);
}
