import type { ReactNode } from "react";
import type { Route } from "../../../../core/api/route.ts";
import { accessTo, whoMay } from "../../../../core/api/who-may.ts";
import { useMay } from "./use-may.ts";

/** A page for those alone who may ask a route; everybody else is told for whom it is, and nothing is asked. */
export function OnlyFor({ ask, children }: { ask: Pick<Route, "method" | "path">; children: ReactNode }): ReactNode {
  if (useMay()(ask)) return children;
  const isForKeepers = whoMay(accessTo(ask)).includes("keeper");
  return <p className="py-6">This page is for {isForKeepers ? "keepers and owners" : "owners"}.</p>;
}
