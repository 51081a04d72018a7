import { useCallback, useContext } from "react";
import type { Route } from "../../../../core/api/route.ts";
import { accessTo, mayAsk } from "../../../../core/api/who-may.ts";
import { linkSecret } from "../../api/by-link.ts";
import { WhoLooks } from "./who-looks.ts";

/** Says of a route whether the one who looks may ask it, by the table that the server goes by. */
export function useMay(): (route: Pick<Route, "method" | "path">) => boolean {
  const me = useContext(WhoLooks);
  return useCallback(
    (route) => {
      if (linkSecret() !== undefined) return mayAsk("link", accessTo(route));
      if (!me) return false;
      return mayAsk(me.role === "viewer" && me.limits ? "held viewer" : me.role, accessTo(route));
    },
    [me],
  );
}
