import { useMay } from "../../../shared/people/use-may.ts";
import { listRules } from "../../../../../core/api/rules.ts";
import { useQuery } from "@tanstack/react-query";
import type { RuleView } from "../../../../../core/api/rules.ts";
import { rulesQuery } from "../../../api/queries.ts";
import { usePicks } from "../picks-provider.tsx";

const none: readonly RuleView[] = [];

/** The tile that a shown tile is of: those that repeat have a number behind their id. */
export const savedTileId = (shownId: string): string => shownId.split("~")[0] as string;

/** The rules that belong to a tile of a saved dashboard. */
export function useTileRules(tileId: string): readonly RuleView[] {
  const { dashboardId } = usePicks();
  const mayList = useMay()(listRules);
  const rules = useQuery({ ...rulesQuery, enabled: dashboardId !== undefined && mayList }).data ?? none;
  return dashboardId === undefined
    ? none
    : rules.filter(({ place }) => place?.dashboard === dashboardId && place.tile === savedTileId(tileId));
}
