import { useCallback, useMemo } from "react";
import { useSearchParts } from "../../ui/use-search-parts.ts";
import { type LedgerChoice, ledgerChoiceOf } from "./ledger-choice.ts";

const place = "nubrel.fleet";

/**
 * How this browser's ledger is arranged: in the address, so that it can be sent; what was chosen last where the address
 * says nothing.
 */
export function useArrangement(): readonly [LedgerChoice, (change: Partial<LedgerChoice>) => void] {
  const [search, setSearch] = useSearchParts();
  const text = search.get("ledger");
  const choice = useMemo(() => ledgerChoiceOf(text ?? remembered()), [text]);
  const change = useCallback(
    (some: Partial<LedgerChoice>) => {
      setSearch(
        (before) => {
          const next = JSON.stringify({ ...arrangementIn(before), ...some });
          try {
            localStorage.setItem(place, next);
          } catch {
            // The address still has it.
          }
          const parts = new URLSearchParams(before);
          parts.set("ledger", next);
          return parts;
        },
        { replace: true },
      );
    },
    [setSearch],
  );
  return [choice, change];
}

/** The arrangement that an address has, or else the one that was chosen last. */
export function arrangementIn(search: URLSearchParams): LedgerChoice {
  return ledgerChoiceOf(search.get("ledger") ?? remembered());
}

function remembered(): string | null {
  try {
    return localStorage.getItem(place);
  } catch {
    return null;
  }
}
