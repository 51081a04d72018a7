import { type ReactNode, useState } from "react";
import {
  changedCell,
  changedColumn,
  retypedColumn,
  withColumn,
  withoutColumn,
  withoutRow,
  withRow,
} from "../../../../../core/tables/change-table.ts";
import { cellOf } from "../../../../../core/tables/read-cell.ts";
import {
  type Cell,
  type Column,
  mostColumns,
  mostRows,
  type Table,
  timeText,
} from "../../../../../core/tables/table.ts";
import { SelectPart } from "../../../sentence/select-part.tsx";
import { TypedInput } from "../../../ui/typed-input.tsx";

export const columnKinds = [
  ["text", "words"],
  ["number", "numbers"],
  ["time", "times"],
] as const;
const pageRows = 50;

/** A table's cells, each a field; rows and columns come and go. */
export function TableCells({ table, onChange }: { table: Table; onChange: (table: Table) => void }): ReactNode {
  const [page, setPage] = useState(0);
  const first = Math.min(page, Math.max(0, Math.ceil(table.rows.length / pageRows) - 1)) * pageRows;
  return (
    <>
      <div className="max-h-80 max-w-full overflow-auto">
        <table className="text-[13.5px]">
          <caption className="sr-only">the tile's own table</caption>
          <thead>
            <tr>
              {table.columns.map((column, at) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: a column is its place while its name is typed
                <th key={at} className="p-0.5 text-left font-normal">
                  <TypedInput
                    aria-label={`name of column ${at + 1}`}
                    value={column.name}
                    maxLength={200}
                    onType={(name) => onChange(changedColumn(table, at, { name }))}
                    className="w-36 !py-0.5 font-bold"
                  />
                  <span className="flex gap-2 text-[12.5px] text-quiet">
                    <SelectPart
                      label={`what ${column.name} holds`}
                      value={column.kind}
                      options={columnKinds}
                      onChange={(kind) => onChange(retypedColumn(table, at, kind as Column["kind"]))}
                    />
                    {column.kind === "number" && (
                      <TypedInput
                        aria-label={`unit of ${column.name}, UCUM`}
                        placeholder="unit"
                        value={column.unit ?? ""}
                        maxLength={50}
                        onType={(unit) => onChange(changedColumn(table, at, { unit: unit.trim() }))}
                        className="w-14 !p-0"
                      />
                    )}
                    {table.columns.length > 1 && (
                      <button
                        type="button"
                        className="word-link"
                        aria-label={`leave out ${column.name}`}
                        onClick={() => onChange(withoutColumn(table, at))}
                      >
                        out
                      </button>
                    )}
                  </span>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {table.rows.slice(first, first + pageRows).map((row, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a row is its place
              <tr key={first + i}>
                {table.columns.map((column, at) => (
                  <td key={column.name} className="p-0.5">
                    <CellField
                      column={column}
                      cell={row[at] ?? null}
                      row={first + i + 1}
                      onType={(text) => onChange(changedCell(table, first + i, at, text))}
                    />
                  </td>
                ))}
                <td>
                  <button
                    type="button"
                    className="word-link text-[12.5px]"
                    aria-label={`leave out row ${first + i + 1}`}
                    onClick={() => onChange(withoutRow(table, first + i))}
                  >
                    out
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="mt-1 flex flex-wrap gap-4 text-[13px]">
        {table.rows.length < mostRows && (
          <button
            type="button"
            className="word-link"
            onClick={() => {
              onChange(withRow(table));
              setPage(Math.floor(table.rows.length / pageRows));
            }}
          >
            another row
          </button>
        )}
        {table.columns.length < mostColumns && (
          <button type="button" className="word-link" onClick={() => onChange(withColumn(table))}>
            another column
          </button>
        )}
        {table.rows.length > pageRows && (
          <span className="text-quiet">
            rows {first + 1} to {Math.min(table.rows.length, first + pageRows)} of {table.rows.length}{" "}
            <button
              type="button"
              className="word-link ml-2"
              disabled={first === 0}
              onClick={() => setPage(first / pageRows - 1)}
            >
              back
            </button>
            <button
              type="button"
              className="word-link ml-2"
              disabled={first + pageRows >= table.rows.length}
              onClick={() => setPage(first / pageRows + 1)}
            >
              further
            </button>
          </span>
        )}
      </p>
    </>
  );
}

/** What cannot be read as its column's kind is marked and not taken. */
function CellField({
  column,
  cell,
  row,
  onType,
}: {
  column: Column;
  cell: Cell;
  row: number;
  onType: (text: string) => void;
}): ReactNode {
  const [typed, setTyped] = useState<string | null>(null);
  const text = cell === null ? "" : column.kind === "time" ? timeText(Number(cell)) : String(cell);
  const isWrong = typed !== null && typed.trim() !== "" && cellOf(typed, column.kind) === undefined;
  return (
    <input
      aria-label={`${column.name}, row ${row}`}
      aria-invalid={isWrong}
      title={isWrong ? `This is no ${column.kind}; it is not taken.` : undefined}
      value={typed ?? text}
      onChange={(event) => {
        setTyped(event.target.value);
        onType(event.target.value);
      }}
      onBlur={() => setTyped(null)}
      className={`w-36 !py-0 ${column.kind === "number" ? "figure text-right" : ""} ${isWrong ? "!border-urgent" : ""}`}
    />
  );
}
