import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { getSteadiness } from "../../../../core/api/steadiness.ts";
import type { Line, ReadingAnswer } from "../../../../core/reading/document.ts";
import { call } from "../../api/client.ts";
import { viewerZone } from "../../api/queries.ts";

const dayMs = 86_400_000;
const days = 30;
const renewedMs = 300_000;

/** How steady each machine was over the last thirty days, a line each, as the columns of the ledger have it; asked where it is wanted. */
export function useSteadiness(isWanted: boolean): ReadingAnswer | undefined {
  const steady = useQuery({
    queryKey: ["steadiness", "ledger"],
    queryFn: ({ signal }) => {
      const to = Date.now();
      const query = { from: to - (days - 1) * dayMs, to, zone: viewerZone };
      return call(getSteadiness, {}, undefined, { signal, query });
    },
    enabled: isWanted,
    staleTime: renewedMs,
    refetchInterval: renewedMs,
  }).data;
  return useMemo(
    () =>
      steady && {
        from: steady[0]?.days[0]?.day ?? 0,
        stepMs: dayMs,
        count: steady[0]?.days.length ?? 0,
        tier: "raw",
        notes: [],
        lines: steady.map(({ machine, days: of }): Line => {
          const values = of.map(({ value }) => value);
          const mean = values.reduce((sum, value) => sum + value, 0) / Math.max(1, values.length);
          return {
            of: "steadiness",
            tags: { machine },
            unit: "1",
            values,
            last: values.at(-1) ?? null,
            min: Math.min(...values),
            mean,
            max: Math.max(...values),
          };
        }),
      },
    [steady],
  );
}
