import { useCallback } from "react";
import { type NavigateOptions, useSearchParams } from "react-router";

type Change = (next: (before: URLSearchParams) => URLSearchParams, options?: NavigateOptions) => void;

/**
 * The search part of the address, and what changes it. A change is given what stands in the address when it is made,
 * not what was drawn last: two that come before the page is drawn again both count.
 */
export function useSearchParts(): readonly [URLSearchParams, Change] {
  const [drawn, setSearch] = useSearchParams();
  const change = useCallback<Change>((next, options) => setSearch(next(searchNow()), options), [setSearch]);
  return [drawn, change];
}

/** What stands in the address now, drawn or not yet. */
export const searchNow = (): URLSearchParams => new URLSearchParams(location.search);
