import type { ReactNode } from "react";
import { figures } from "../../../core/units/present.ts";
import type { ChartLine } from "./chart-lines.ts";

const statistics = ["last", "min", "mean", "max"] as const;

/** A chart's lines in figures for those who hear the page instead of seeing it. */
export function LineTable({ caption, lines, scale, unit }: { caption: string; lines: readonly ChartLine[]; scale: number; unit: string }): ReactNode {
  if (lines.length === 0) return null;
  return (
    <div className="sr-only">
      <table>
        <caption>{caption}{unit && `, in ${unit}`}</caption>
        <thead>
          <tr>
            <th>line</th>
            {statistics.map((name) => <th key={name}>{name}</th>)}
          </tr>
        </thead>
        <tbody>
          {lines.map(({ key, name, line }) => (
            <tr key={key}>
              <th scope="row">{name}</th>
              {statistics.map((one) => <td key={one}>{line[one] === null ? "none" : figures((line[one] as number) * scale)}</td>)}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
