import type { Express } from "express";
import { namedRoutes } from "../../core/api/who-may.ts";

interface Layer {
  readonly route?: { readonly path: string; readonly stack: readonly { readonly method: string }[] };
  readonly handle?: { readonly stack?: readonly Layer[] };
}

/** What stands in a stack of Express's routers, at every depth: "POST /api/events"; what is mounted has no prefix. */
function routesIn(stack: readonly Layer[]): readonly string[] {
  return stack.flatMap(({ route, handle }) =>
    route
      ? [...new Set(route.stack.map(({ method }) => method))].map((method) => `${method.toUpperCase()} ${route.path}`)
      : routesIn(handle?.stack ?? []),
  );
}

/**
 * Throws an Error where the application answers a route that stands in no row of who may ask what
 * (core/api/who-may.ts), however it came to be served.
 */
export function assertNamed(app: Express): void {
  const named = new Set(namedRoutes);
  const unnamed = routesIn(app.router.stack as readonly Layer[]).filter(
    (route) => !named.has(route.replace(" /api/", " /")),
  );
  if (unnamed.length > 0) throw new Error(`${unnamed.join(", ")}: in no row of who may ask what (core/api/who-may.ts)`);
}
