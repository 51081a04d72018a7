import { useEffect } from "react";
import { useSearchParts } from "../../ui/use-search-parts.ts";
import type { Dashboard } from "../../../../core/dashboards/dashboard.ts";

/** The dashboard's own window, where the address speaks of none. */
export function useStartWindow(document: Dashboard | undefined): void {
  const [search, setSearch] = useSearchParts();
  const start = document?.start;
  const says = search.has("from") || search.has("last");
  useEffect(() => {
    if (!start || says) return;
    setSearch(
      (before) => {
        const parts = new URLSearchParams(before);
        parts.set("last", String(start.lastSeconds));
        parts.set("every", String(start.everySeconds));
        return parts;
      },
      { replace: true },
    );
  }, [start, says, setSearch]);
}
