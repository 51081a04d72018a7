import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { linkSecret } from "./by-link.ts";
import { machineColoursQuery, sharedQuery } from "./queries.ts";

const none: ReadonlyMap<string, number> = new Map();

/** The colour that each machine has everywhere; by a link, those of the machines that it shows. */
export function useMachineColours(): ReadonlyMap<string, number> {
  const byLink = linkSecret() !== undefined;
  const all = useQuery({ ...machineColoursQuery, enabled: !byLink }).data;
  const shown = useQuery({ ...sharedQuery, enabled: byLink }).data?.colours;
  return useMemo(() => (shown ? new Map(Object.entries(shown)) : (all ?? none)), [shown, all]);
}
