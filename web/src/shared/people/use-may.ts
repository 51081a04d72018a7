import { useQuery } from "@tanstack/react-query";
import type { Route } from "../../../../core/api/route.ts";
import { accessTo, mayAsk } from "../../../../core/api/who-may.ts";
import { meQuery } from "../../api/queries.ts";

/** Says of a route whether the one who looks may ask it, by the table that the server goes by. */
export function useMay(): (route: Pick<Route, "method" | "path">) => boolean {
  const me = useQuery(meQuery).data;
  return (route) => {
    if (!me) return false;
    return mayAsk(me.role === "viewer" && me.limits ? "held viewer" : me.role, accessTo(route));
  };
}
