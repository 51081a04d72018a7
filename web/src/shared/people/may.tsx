import type { ReactNode } from "react";
import type { Route } from "../../../../core/api/route.ts";
import { useMay } from "./use-may.ts";

/** Shows what leads to a route to those alone who may ask it. */
export function May({ ask, children }: { ask: Pick<Route, "method" | "path">; children: ReactNode }): ReactNode {
  return useMay()(ask) ? children : null;
}
