import { queryOptions, useQuery } from "@tanstack/react-query";
import { useCallback } from "react";
import { machinesQuery } from "./queries.ts";

/** What people call machines, of those that have a name of people's own; read from what is fetched for the fleet. */
const callsQuery = queryOptions({
  ...machinesQuery,
  select: (machines) =>
    new Map(machines.flatMap(({ name, friendlyName }) => (friendlyName === "" ? [] : [[name, friendlyName] as const]))),
  staleTime: 60_000,
  refetchInterval: false,
});

/** Says what people call a machine: its own name where they call it nothing else. */
export function useCalled(): (machine: string) => string {
  const calls = useQuery(callsQuery).data;
  return useCallback((machine) => calls?.get(machine) ?? machine, [calls]);
}
