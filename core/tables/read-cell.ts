import { cellNumber } from "../formats/csv/cell.ts";
import { parseTimeText, type TimeForm, timeForms } from "../formats/csv/time-text.ts";
import type { Cell, Column } from "./table.ts";

const earliestMs = 0;
const latestMs = 4_102_444_800_000; // 2100

/**
 * What one typed text is in a column: null where it is empty, undefined where it cannot be read so. Numbers take a
 * point or a comma.
 */
export function cellOf(text: string, kind: Column["kind"]): Cell | undefined {
  const said = text.trim();
  if (said === "") return null;
  if (kind === "text") return said;
  if (kind === "number") return cellNumber(said, ".") ?? cellNumber(said, ",") ?? undefined;
  const form = formsOf([said])[0];
  return form === undefined ? undefined : parseTimeText(said, form, 0);
}

/** The ways in which all cells that are not empty read as times; none where all are empty. */
export function formsOf(cells: readonly string[]): readonly TimeForm[] {
  const said = cells.filter((cell) => cell !== "");
  if (said.length === 0) return [];
  return timeForms
    .filter((form) => !form.startsWith("unix"))
    .filter((form) => said.every((cell) => within(parseTimeText(cell, form, 0))));
}

const within = (ms: number | undefined) => ms !== undefined && ms >= earliestMs && ms < latestMs;
