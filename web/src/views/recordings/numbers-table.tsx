import type { ReactNode } from "react";
import type { LineNumbers } from "../../../../core/recordings/line-numbers.ts";
import { present } from "../../../../core/units/present.ts";
import { lineStyles, useLineStyles } from "../../charts/line-styles.ts";
import { runChartTitle } from "./run-chart.tsx";

const columns = [
  ["least", "the lowest of its samples"],
  ["mean", "weighted by for how long each value held"],
  ["most", "the highest of its samples"],
  ["last", "the last value at the recording's interval"],
  ["p95", "95 of 100 values at the recording's interval are not above this"],
  ["change", "the last value less the first"],
  ["sum", "of a total: by how much it grew"],
] as const;
const heads = { least: "lowest", most: "highest", p95: "95th perc.", sum: "grew by" } as const;

interface NumbersTableProps {
  readonly title: string;
  readonly lines: readonly LineNumbers[];
  readonly nameOf: (line: LineNumbers) => string;
}

/** Every line of a run in figures; here lines are hidden, shown and raised in the charts beside. */
export function NumbersTable({ title, lines, nameOf }: NumbersTableProps): ReactNode {
  const several = new Set(lines.map(({ unit }) => unit)).size > 1;
  return (
    <div className="relative overflow-x-auto" data-numbers>
      <table className="w-full text-[13px]">
        <caption className="sr-only">{title} in figures</caption>
        <thead>
          <tr className="text-quiet">
            <th className="pr-3 text-left font-normal">line</th>
            {columns.map(([name, meaning]) => (
              <th key={name} className="px-2 text-right font-normal" title={meaning}>
                {name in heads ? heads[name as keyof typeof heads] : name}
              </th>
            ))}
            <th className="not-in-print pl-3 text-left font-normal">
              <span className="sr-only">show</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {lines.map((line) => (
            <NumbersRow
              key={`${line.of} ${JSON.stringify(line.tags)}`}
              chart={runChartTitle(title, several ? line.unit : "")}
              line={line}
              name={nameOf(line)}
            />
          ))}
        </tbody>
      </table>
    </div>
  );
}

function NumbersRow({ chart, line, name }: { chart: string; line: LineNumbers; name: string }): ReactNode {
  const style = useLineStyles(chart)(name);
  const [hide, raise] = [style.hidden ? "show" : "hide", style.raised ? "lower" : "raise"];
  const text = (value: number | null, unit: string) => {
    const shown = present(value, unit);
    return (
      <>
        {shown.text}
        {shown.unit && <span className="ml-[0.2em] text-[0.85em] text-quiet">{shown.unit}</span>}
      </>
    );
  };
  return (
    <tr className="border-t border-hairline">
      <th
        scope="row"
        className={`max-w-72 truncate py-0.5 pr-3 text-left font-normal ${style.hidden ? "text-quiet line-through" : ""}`}
        title={name}
      >
        {name}
      </th>
      {columns.map(([column]) => (
        <td key={column} className="figure px-2 text-right whitespace-nowrap">
          {column === "sum" ? (line.sum ? text(line.sum.value, line.sum.unit) : "") : text(line[column], line.unit)}
        </td>
      ))}
      <td className="not-in-print pl-3 whitespace-nowrap">
        <button
          type="button"
          className="word-link"
          aria-label={`${hide} ${name}`}
          onClick={() => lineStyles.set(chart, name, { hidden: !style.hidden })}
        >
          {hide}
        </button>{" "}
        <button
          type="button"
          className="word-link"
          aria-pressed={style.raised ?? false}
          aria-label={`${raise} ${name}`}
          onClick={() => lineStyles.set(chart, name, { raised: !style.raised })}
        >
          {raise}
        </button>
      </td>
    </tr>
  );
}
