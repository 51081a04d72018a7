import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { listRules, type RuleView } from "../../../../core/api/rules.ts";
import { rulesQuery } from "../../api/queries.ts";
import { useMay } from "../../shared/people/use-may.ts";

/** The tile that a shown tile is of: those that repeat have a number behind their id. */
export const savedTileId = (shownId: string): string => shownId.split("~")[0] as string;

const none: ReadonlyMap<string, readonly RuleView[]> = new Map();

/** The rules of a saved dashboard by the tiles that they belong to: looked up once, for all its tiles. */
export function useRulesByTile(dashboardId: number | undefined): ReadonlyMap<string, readonly RuleView[]> {
  const mayList = useMay()(listRules);
  const rules = useQuery({ ...rulesQuery, enabled: dashboardId !== undefined && mayList }).data;
  return useMemo(() => {
    if (!rules || rules.length === 0) return none; // before rules are known and where there are none, alike
    const byTile = new Map<string, RuleView[]>();
    for (const rule of rules) {
      if (!rule.place || rule.place.dashboard !== dashboardId) continue;
      const own = byTile.get(rule.place.tile);
      if (own) own.push(rule);
      else byTile.set(rule.place.tile, [rule]);
    }
    return byTile;
  }, [rules, dashboardId]);
}
