import {
  longestTurnSeconds,
  shortestTurnSeconds,
  defaultTurnSeconds,
  type WallShow,
} from "../../../../../core/dashboards/wall.ts";

/** What an address says of a wall; what cannot be read has its usual value. */
export function wallFromSearch(search: URLSearchParams): WallShow {
  const every = Number(search.get("turn") ?? Number.NaN);
  const [from, to] =
    /^(\d{1,2})-(\d{1,2})$/
      .exec(search.get("night") ?? "")
      ?.slice(1)
      .map(Number) ?? [];
  const show = search.getAll("show").filter((one) => /^(\d{1,9}|ready:[\w-]{1,60})$/.test(one));
  return {
    show,
    everySeconds: every >= shortestTurnSeconds && every <= longestTurnSeconds ? every : defaultTurnSeconds,
    night: from !== undefined && to !== undefined && from < 24 && to < 24 && from !== to ? { from, to } : null,
  };
}

/** The address's search part of a wall. */
export function searchOfWall({ show, everySeconds, night }: WallShow): URLSearchParams {
  return new URLSearchParams([
    ...show.map((one) => ["show", one]),
    ["turn", String(everySeconds)],
    ...(night ? [["night", `${night.from}-${night.to}`]] : []),
  ]);
}
