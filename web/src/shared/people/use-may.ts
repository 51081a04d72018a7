import { useQuery } from "@tanstack/react-query";
import type { Route } from "../../../../core/api/route.ts";
import { accessTo, mayAsk } from "../../../../core/api/who-may.ts";
import { linkSecret } from "../../api/by-link.ts";
import { meQuery } from "../../api/queries.ts";

/** Says of a route whether the one who looks may ask it, by the table that the server goes by. */
export function useMay(): (route: Pick<Route, "method" | "path">) => boolean {
  const byLink = linkSecret() !== undefined;
  const me = useQuery({ ...meQuery, enabled: !byLink }).data;
  return (route) => {
    if (byLink) return mayAsk("link", accessTo(route));
    if (!me) return false;
    return mayAsk(me.role === "viewer" && me.limits ? "held viewer" : me.role, accessTo(route));
  };
}
