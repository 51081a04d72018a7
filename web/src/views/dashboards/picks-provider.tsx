import { useQuery } from "@tanstack/react-query";
import { createContext, type ReactNode, useContext, useMemo } from "react";
import { useSearchParts } from "../../ui/use-search-parts.ts";
import type { Tags } from "../../../../core/counters/counter.ts";
import type { Dashboard } from "../../../../core/dashboards/dashboard.ts";
import { choicesOf, effectivePicks, type Picker, type Picks } from "../../../../core/dashboards/pickers.ts";
import type { RuleView } from "../../../../core/api/rules.ts";
import { countersQuery, tagsQuery } from "../../api/queries.ts";
import { picksFrom, searchWithPick } from "./picks-address.ts";
import { savedTileId, useRulesByTile } from "./use-rules-by-tile.ts";

interface PicksControl {
  /** The number of the saved dashboard; undefined of a ready-made one, which no rule belongs to. */
  readonly dashboardId: number | undefined;
  readonly pickers: readonly Picker[];
  readonly picks: Picks;
  choices(picker: Picker): readonly string[];
  pick(picker: Picker, values: readonly string[]): void;
  /** Whether a counter has a tag: those that have not are not concerned by its picker. */
  hasTag(counter: string, tag: string): boolean;
  /** Whether the values that can be picked are known yet. */
  readonly isKnown: boolean;
  /** The rules that belong to a tile of the saved dashboard; none of a ready-made one. */
  rulesOf(tileId: string): readonly RuleView[];
}

const noRules: readonly RuleView[] = [];
const none: PicksControl = {
  dashboardId: undefined,
  pickers: [],
  picks: {},
  choices: () => [],
  pick: () => {},
  hasTag: () => false,
  isKnown: true,
  rulesOf: () => noRules,
};
const PicksContext = createContext<PicksControl>(none);
/** An address has room for so many names; beyond, all counters are asked for. */
const mostCounters = 120;
const noPickers: readonly Picker[] = [];
const noTags: readonly Tags[] = [];

/** The picks of everything below; they live in the address. */
export function PicksProvider({
  document,
  id,
  children,
}: {
  document: Dashboard;
  id?: number;
  children: ReactNode;
}): ReactNode {
  const pickers = document.pickers ?? noPickers;
  const [search, setSearch] = useSearchParts();
  const tags = [...new Set(pickers.flatMap(({ tag }) => (tag === undefined ? [] : [tag])))];
  // Offered is what the dashboard's own counters have: anything else would leave it empty.
  const read = [
    ...new Set(
      document.tiles.flatMap(({ reading }) => Object.values(reading?.sentences ?? {}).map(({ counter }) => counter)),
    ),
  ].sort();
  const answer = useQuery({
    ...tagsQuery(tags, read.length <= mostCounters ? read : []),
    enabled: tags.length > 0 && read.length > 0,
  });
  const present = answer.data?.combinations ?? noTags;
  const weights = answer.data?.counters;
  const counters = useQuery(countersQuery).data;
  const known = useMemo(
    () => new Map(counters?.map(({ name, tags: own }) => [name, new Set(own.map(({ tag }) => tag))])),
    [counters],
  );
  const isKnown =
    tags.length === 0 || read.length === 0 || (answer.data !== undefined && counters !== undefined) || answer.isError;
  const byTile = useRulesByTile(id);
  const text = search.toString();
  const control = useMemo((): PicksControl => {
    const picks = effectivePicks(pickers, picksFrom(new URLSearchParams(text), pickers), present, weights);
    return {
      dashboardId: id,
      pickers,
      picks,
      isKnown,
      choices: (picker) => choicesOf(picker, pickers, picks, present),
      pick: (picker, values) => setSearch((before) => searchWithPick(before, picker, values)),
      hasTag: (counter, tag) => known.get(counter)?.has(tag) ?? false,
      rulesOf: (tileId) => byTile.get(savedTileId(tileId)) ?? noRules,
    };
  }, [id, pickers, text, present, weights, known, setSearch, isKnown, byTile]);
  return <PicksContext value={control}>{children}</PicksContext>;
}

export const usePicks = (): PicksControl => useContext(PicksContext);
