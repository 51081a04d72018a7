import type { QueryClient } from "@tanstack/react-query";
import { machinesQuery, readingQuery } from "../../api/queries.ts";
import { pageBegunMs } from "../../time/page-begun.ts";
import { spanOf, windowFromSearch } from "../../time/time-window.ts";
import { searchNow } from "../../ui/use-search-parts.ts";
import { ledgerReadings, readColumns } from "./ledger-readings.ts";
import { arrangementIn } from "./use-arrangement.ts";

/** Asks for what the fleet will show, while the page is still being put together: on a weak link that is a round trip. */
export function askFleetAhead(queries: QueryClient): void {
  const search = searchNow();
  const span = spanOf(windowFromSearch(search), pageBegunMs);
  void queries.prefetchQuery(machinesQuery);
  for (const { reading } of ledgerReadings(readColumns(arrangementIn(search)), span))
    void queries.prefetchQuery(readingQuery(reading));
}
