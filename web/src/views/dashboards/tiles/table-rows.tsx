import { type ReactNode, useState } from "react";
import { passedLimit, type TileLimit } from "../../../../../core/dashboards/limits.ts";
import type { Line } from "../../../../../core/reading/document.ts";
import { earlierWords } from "../../../../../core/reading/sentence-words.ts";
import { type Cell, type Column, type Table, timeText } from "../../../../../core/tables/table.ts";
import { present } from "../../../../../core/units/present.ts";
import type { ShownFigures } from "../../../../../core/dashboards/shown-figures.ts";
import { Signal } from "../../../ui/signal.tsx";
import { Quantity } from "../../../ui/quantity.tsx";

const statistics = ["last", "min", "mean", "max"] as const;
const words = { last: "last", min: "lowest", mean: "mean", max: "highest" } as const;
const headLook = "py-0.5 font-normal text-quiet";

/** Each line's figures, sorted by the column that is pressed. */
export function LineRows({
  lines,
  nameOf,
  title,
  limits = [],
}: {
  lines: readonly Line[];
  nameOf: (line: Line) => string;
  title: string;
  limits?: readonly TileLimit[] | undefined;
}): ReactNode {
  const [by, setBy] = useState<"name" | (typeof statistics)[number]>("last");
  const rows = lines.map((line) => ({
    line,
    name: line.earlier === undefined ? nameOf(line) : `${nameOf(line)}, ${earlierWords(line.earlier)}`,
  }));
  rows.sort((a, b) =>
    by === "name"
      ? a.name.localeCompare(b.name, "en", { numeric: true })
      : (b.line[by] ?? Number.NEGATIVE_INFINITY) - (a.line[by] ?? Number.NEGATIVE_INFINITY),
  );
  const head = (name: typeof by, text: string) => (
    <button
      type="button"
      className={by === name ? "underline underline-offset-4" : ""}
      aria-pressed={by === name}
      onClick={() => setBy(name)}
    >
      {text}
    </button>
  );
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reached by keys
    <div className="h-full overflow-auto" tabIndex={0} role="group" aria-label={`rows of ${title || "the tile"}`}>
      <table className="w-full text-[13.5px]">
        <caption className="sr-only">{title}</caption>
        <thead>
          <tr>
            <th className={`text-left ${headLook}`}>{head("name", "line")}</th>
            {statistics.map((name) => (
              <th key={name} className={`pl-3 text-right ${headLook}`}>
                {head(name, words[name])}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map(({ line, name }) => {
            const severity = line.last === null ? null : passedLimit(limits, line.last);
            return (
              <tr
                key={`${line.of} ${JSON.stringify(line.tags)} ${line.earlier ?? ""}`}
                className="border-t border-hairline"
              >
                <th scope="row" className="w-2/5 max-w-0 truncate text-left font-normal" title={name}>
                  {severity && <Signal of="raised" severity={severity} label={severity} />} {name}
                </th>
                {statistics.map((one) => {
                  const shown = present(line[one], line.unit);
                  return (
                    <td key={one} className="figure pl-3 text-right whitespace-nowrap">
                      {shown.text}
                      <span className="ml-0.5 text-[12px] text-quiet">{shown.unit}</span>
                    </td>
                  );
                })}
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}

/** Single figures of several sentences: a row for each of theirs, a column a sentence. */
export function FigureRows({
  figures: { columns, rows, shown },
  title,
}: {
  figures: ShownFigures;
  title: string;
}): ReactNode {
  const [by, setBy] = useState(-1);
  const sorted =
    by < 0
      ? rows
      : [...rows].sort(
          (a, b) => (b.values[by] ?? Number.NEGATIVE_INFINITY) - (a.values[by] ?? Number.NEGATIVE_INFINITY),
        );
  return (
    <div className="flex h-full flex-col">
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reached by keys */}
      <div className="min-h-0 overflow-auto" tabIndex={0} role="group" aria-label={`rows of ${title || "the tile"}`}>
        <table className="w-full text-[13.5px]">
          <caption className="sr-only">{title}</caption>
          <thead>
            <tr>
              <th className={`text-left ${headLook}`}>line</th>
              {columns.map(({ name }, i) => (
                <th key={name} className={`pl-3 text-right ${headLook}`}>
                  <button
                    type="button"
                    className={by === i ? "underline underline-offset-4" : ""}
                    aria-pressed={by === i}
                    onClick={() => setBy(by === i ? -1 : i)}
                  >
                    {name}
                  </button>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {sorted.map(({ key, name, values }) => (
              <tr key={key} className="border-t border-hairline">
                <th scope="row" className="w-2/5 max-w-0 truncate text-left font-normal" title={name}>
                  {name}
                </th>
                {columns.map((column, i) => (
                  <td key={column.name} className="figure pl-3 text-right whitespace-nowrap">
                    <Quantity value={values[i] ?? null} unit={column.unit} />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="pt-1 text-[12px] text-quiet">{shown}</p>
    </div>
  );
}

/** A table of one's own as it is. */
export function TableRows({ table: { columns, rows }, title }: { table: Table; title: string }): ReactNode {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reached by keys
    <div className="h-full overflow-auto" tabIndex={0} role="group" aria-label={`rows of ${title || "the tile"}`}>
      <table className="w-full text-[13.5px]">
        <caption className="sr-only">{title}</caption>
        <thead>
          <tr>
            {columns.map(({ name, kind }) => (
              <th key={name} className={`${kind === "number" ? "pl-3 text-right" : "pr-3 text-left"} ${headLook}`}>
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a row of a table is its place
            <tr key={i} className="border-t border-hairline">
              {columns.map((column, k) => (
                <td
                  key={column.name}
                  className={
                    column.kind === "text"
                      ? "pr-3"
                      : column.kind === "number"
                        ? "figure pl-3 text-right whitespace-nowrap"
                        : "figure pr-3 whitespace-nowrap"
                  }
                >
                  {cellText(row[k] ?? null, column)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function cellText(cell: Cell, { kind, unit = "1" }: Column): ReactNode {
  if (cell === null) return "";
  if (kind === "text") return String(cell);
  if (kind === "time") return timeText(Number(cell));
  if (unit === "1") return String(cell);
  const shown = present(Number(cell), unit);
  return (
    <>
      {shown.text}
      <span className="ml-0.5 text-[12px] text-quiet">{shown.unit}</span>
    </>
  );
}
