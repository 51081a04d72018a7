import { useCallback, useMemo } from "react";
import { useSearchParams } from "react-router";
import type { Condition } from "../../../../core/reading/document.ts";
import type { Arrangement } from "./arrange-ledger.ts";
import { ledgerColumns, usualColumns } from "./ledger-columns.ts";

const place = "nubrel.fleet";
const usual: Arrangement & { readonly open: readonly string[] } = { columns: usualColumns, where: [], group: "", sort: "name", open: [] };

export type LedgerChoice = typeof usual;

/** How this browser's ledger is arranged: in the address, so that it can be sent; what was chosen last where the address says nothing. */
export function useArrangement(): readonly [LedgerChoice, (change: Partial<LedgerChoice>) => void] {
  const [search, setSearch] = useSearchParams();
  const text = search.get("ledger");
  const choice = useMemo(() => ({ ...usual, ...checkedChoice(text ?? remembered()) }), [text]);
  const change = useCallback(
    (some: Partial<LedgerChoice>) => {
      const next = JSON.stringify({ ...choice, ...some });
      try {
        localStorage.setItem(place, next);
      } catch {
        // The address still has it.
      }
      setSearch((before) => {
        const parts = new URLSearchParams(before);
        parts.set("ledger", next);
        return parts;
      }, { replace: true });
    },
    [choice, setSearch],
  );
  return [choice, change];
}

function remembered(): string | null {
  try {
    return localStorage.getItem(place);
  } catch {
    return null;
  }
}

/** What can be understood of a text that anybody may have written. */
function checkedChoice(text: string | null): Partial<LedgerChoice> {
  let read: Partial<Record<keyof LedgerChoice, unknown>>;
  try {
    read = JSON.parse(text ?? "{}") ?? {};
  } catch {
    return {};
  }
  const texts = (value: unknown): readonly string[] | undefined => (Array.isArray(value) && value.every((one) => typeof one === "string") ? value : undefined);
  const columns = texts(read.columns)?.filter((id) => ledgerColumns.some((column) => column.id === id));
  const where = Array.isArray(read.where) && read.where.every(isCondition) ? (read.where as readonly Condition[]) : undefined;
  const open = texts(read.open);
  return { ...(columns && columns.length > 0 && { columns }), ...(where && { where }), ...(typeof read.group === "string" && { group: read.group }), ...(typeof read.sort === "string" && { sort: read.sort }), ...(open && { open }) };
}

function isCondition(value: unknown): boolean {
  const one = value as Partial<Condition> | null;
  const list = (some: unknown) => some === undefined || (Array.isArray(some) && some.every((text) => typeof text === "string"));
  return typeof one === "object" && one !== null && typeof one.tag === "string" && list(one.is) && list(one.not) && (one.like === undefined || typeof one.like === "string");
}
