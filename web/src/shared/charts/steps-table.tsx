import type { ReactNode } from "react";
import type { Line, ReadingAnswer } from "../../../../core/reading/document.ts";
import { earlierWords } from "../../../../core/reading/sentence-words.ts";
import { figures, scaleFor } from "../../../../core/units/present.ts";
import { ScrollRegion } from "../../ui/scroll-region.tsx";
import { dayOf, exactClockTime } from "../../time/moments.ts";

const mostRows = 300;
const mostLines = 40;

/** The values of every step, the newest first, one column a line. */
export function StepsTable({
  caption,
  answer,
  nameOf,
}: {
  caption: string;
  answer: ReadingAnswer;
  nameOf: (line: Line) => string;
}): ReactNode {
  const lines = answer.lines.slice(0, mostLines);
  const scales = lines.map((line) =>
    scaleFor(
      line.unit,
      Math.max(
        ...answer.lines
          .filter(({ unit }) => unit === line.unit)
          .map(({ max, min }) => Math.max(Math.abs(max ?? 0), Math.abs(min ?? 0))),
      ),
    ),
  );
  const rows = Array.from({ length: Math.min(mostRows, answer.count) }, (_, i) => answer.count - 1 - i);
  return (
    <ScrollRegion label="Values of every step" data-steps-table>
      <table className="text-[13px]">
        <caption className="sr-only">{caption}</caption>
        <thead className="sticky top-0 bg-paper">
          <tr className="text-quiet">
            <th className="pr-5 text-left font-normal">step begins</th>
            {lines.map((line, i) => (
              <th
                key={`${line.of} ${JSON.stringify(line.tags)} ${line.earlier ?? ""}`}
                className="max-w-40 px-3 text-right font-normal"
              >
                <span className="block truncate">
                  {nameOf(line)}
                  {line.earlier && `, ${earlierWords(line.earlier)}`}
                </span>
                <span className="block text-[11.5px]">{scales[i]?.unit}</span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody className="figure">
          {rows.map((row) => {
            const atMs = answer.edges?.[row] ?? answer.from + row * answer.stepMs;
            return (
              <tr key={row} className="border-t border-hairline">
                <th scope="row" className="pr-5 text-left font-normal whitespace-nowrap">
                  {dayOf(atMs)} {exactClockTime(atMs)}
                </th>
                {lines.map((line, i) => (
                  <td key={`${line.of} ${JSON.stringify(line.tags)} ${line.earlier ?? ""}`} className="px-3 text-right">
                    {line.values[row] === null || line.values[row] === undefined
                      ? "–"
                      : figures((line.values[row] as number) * (scales[i]?.factor ?? 1))}
                  </td>
                ))}
              </tr>
            );
          })}
        </tbody>
      </table>
      {(answer.count > mostRows || answer.lines.length > mostLines) && (
        <p className="py-2 text-quiet">
          Shown are {rows.length} of {answer.count} steps and {lines.length} of {answer.lines.length} lines; the chart's
          CSV has all.
        </p>
      )}
    </ScrollRegion>
  );
}
