import type { RequestHandler } from "express";
import { noteBasePath } from "./asked-below.ts";
import { Problem } from "./problem.ts";

/**
 * Serves below a path, for a proxy that has other things beside it: the path is taken from the front of what is asked,
 * so that no route knows of it.
 */
export function below(basePath: string): RequestHandler {
  return (request, response, next) => {
    noteBasePath(request, basePath);
    if (basePath === "" || request.url.startsWith(`${basePath}/`)) {
      request.url = request.url.slice(basePath.length);
      return next();
    }
    const [path, query] = request.url.split("?");
    if (path === "/" || path === basePath)
      return response.redirect(308, `${basePath}/${query === undefined ? "" : `?${query}`}`);
    throw new Problem(
      404,
      "not-below-its-path",
      `Nubrel is served below ${basePath} here (NUBREL_BASE_PATH), so this would be ${basePath}${path?.slice(0, 200)}. A proxy before it has to leave the path as it is.`,
    );
  };
}
