import type { Condition } from "../../../../core/reading/document.ts";
import type { Arrangement } from "./arrange-ledger.ts";
import { ledgerColumns, defaultColumns } from "./ledger-columns.ts";

/** How the ledger is arranged, and which machines are folded out. */
export interface LedgerChoice extends Arrangement {
  readonly open: readonly string[];
}

const defaults: LedgerChoice = { columns: defaultColumns, where: [], group: "", sort: "name", open: [] };

/** What can be understood of a text that anybody may have written; the usual for what cannot. */
export function ledgerChoiceOf(text: string | null): LedgerChoice {
  let read: Partial<Record<keyof LedgerChoice, unknown>>;
  try {
    read = JSON.parse(text ?? "{}") ?? {};
  } catch {
    return defaults;
  }
  const texts = (value: unknown): readonly string[] | undefined =>
    Array.isArray(value) && value.every((one) => typeof one === "string") ? value : undefined;
  const columns = texts(read.columns)?.filter((id) => ledgerColumns.some((column) => column.id === id));
  const where =
    Array.isArray(read.where) && read.where.every(isCondition) ? (read.where as readonly Condition[]) : undefined;
  const open = texts(read.open);
  return {
    ...defaults,
    ...(columns && columns.length > 0 && { columns }),
    ...(where && { where }),
    ...(typeof read.group === "string" && { group: read.group }),
    ...(typeof read.sort === "string" && { sort: read.sort }),
    ...(open && { open }),
  };
}

function isCondition(value: unknown): boolean {
  const one = value as Partial<Condition> | null;
  const list = (some: unknown) =>
    some === undefined || (Array.isArray(some) && some.every((text) => typeof text === "string"));
  return (
    typeof one === "object" &&
    one !== null &&
    typeof one.tag === "string" &&
    list(one.is) &&
    list(one.not) &&
    (one.like === undefined || typeof one.like === "string")
  );
}
