import type { ReactNode } from "react";
import type { Route } from "../../../../core/api/route.ts";
import { useMay } from "./use-may.ts";

/** Fields that everybody sees as they stand, and those alone change who may ask the route that keeps them. */
export function Changeable({ ask, children }: { ask: Pick<Route, "method" | "path">; children: ReactNode }): ReactNode {
  return (
    <fieldset className="contents" disabled={!useMay()(ask)}>
      {children}
    </fieldset>
  );
}
