import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { countersQuery } from "../../api/queries.ts";
import type { FindNamed } from "../../sentence/named-reading.ts";
import { findFigures, namedFigures } from "./named-figures.ts";

/** Finds, by what is typed, the figures that people ask for by name, of what is gathered. */
export function useFindFigures(): FindNamed {
  const counters = useQuery(countersQuery).data;
  return useMemo(() => {
    const figures = namedFigures(counters ?? []);
    return (typed) => findFigures(figures, typed);
  }, [counters]);
}
