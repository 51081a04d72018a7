import { type ReactNode, useDeferredValue } from "react";
import { figures } from "../../../core/units/present.ts";
import type { ChartLine } from "./chart-lines.ts";

const statistics = ["last", "min", "mean", "max"] as const;

const none: readonly ChartLine[] = [];

/**
 * A chart's lines in figures for those who hear the page instead of seeing it. It comes after what is seen has been
 * drawn.
 */
export function LineTable({
  caption,
  lines: newest,
  scale,
  unit,
}: {
  caption: string;
  lines: readonly ChartLine[];
  scale: number;
  unit: string;
}): ReactNode {
  const lines = useDeferredValue(newest, none);
  if (lines.length === 0) return null;
  return (
    <div className="sr-only">
      <table>
        <caption>
          {caption}
          {unit && `, in ${unit}`}
        </caption>
        <thead>
          <tr>
            <th>line</th>
            {statistics.map((name) => (
              <th key={name}>{name}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {lines.map(({ key, name, line }) => (
            <tr key={key}>
              <th scope="row">{name}</th>
              {statistics.map((one) => (
                <td key={one}>{line[one] === null ? "none" : figures((line[one] as number) * scale)}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
