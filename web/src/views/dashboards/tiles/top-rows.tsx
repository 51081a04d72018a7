import { steadyFirst } from "../../../../../core/dashboards/steady-first.ts";
import { type ReactNode, useEffect, useRef } from "react";
import type { Tile } from "../../../../../core/dashboards/dashboard.ts";
import { passedLimit } from "../../../../../core/dashboards/limits.ts";
import { defaultMost } from "../../../../../core/dashboards/meters.ts";
import type { ShownFigures } from "../../../../../core/dashboards/shown-figures.ts";
import { present } from "../../../../../core/units/present.ts";
import { Signal } from "../../../ui/signal.tsx";

/** Who is ahead by so much of the longest has clearly passed, and takes the place. */
const clearShare = 0.05;

/** Rows by their first figure, the highest first, each with its length beside the longest. */
export function TopRows({ tile, figures }: { tile: Tile; figures: ShownFigures }): ReactNode {
  const unit = tile.meter?.unit ?? figures.columns[0]?.unit ?? "1";
  const most = tile.most ?? defaultMost;
  const stood = useRef<readonly string[]>([]);
  const by = ({ values }: ShownFigures["rows"][number]) => values[0] ?? Number.NEGATIVE_INFINITY;
  const plain = [...figures.rows].sort((a, b) => by(b) - by(a));
  const sorted = steadyFirst(
    plain,
    stood.current,
    (one, other) => by(one) > by(other) + clearShare * Math.abs(plain[0]?.values[0] ?? 0),
  );
  const rows = sorted.slice(0, most);
  useEffect(() => {
    stood.current = rows.map(({ key }) => key);
  });
  const longest = Math.max(...rows.map(({ values }) => values[0] ?? 0), Number.MIN_VALUE);
  return (
    <div className="flex h-full flex-col">
      <ol className="min-h-0 overflow-auto text-[13.5px]">
        {rows.map(({ key, name, values }) => {
          const value = values[0] ?? null;
          const shown = present(value, unit);
          const severity = value === null ? null : passedLimit(tile.limits ?? [], value);
          return (
            <li key={key} className="grid grid-cols-[minmax(0,1fr)_36%_5.5rem] items-center gap-2 leading-[21px]">
              <span className="truncate" title={name}>
                {name}
              </span>
              <span aria-hidden="true" className="h-1.5 border-b border-hairline">
                <span
                  className="block h-full bg-act"
                  style={{ width: `${Math.max(0, Math.min(100, (100 * (value ?? 0)) / longest))}%` }}
                />
              </span>
              <span className="figure text-right whitespace-nowrap">
                {severity && <Signal of="raised" severity={severity} label={severity} />} {shown.text}
                <span className="ml-0.5 text-quiet">{shown.unit}</span>
              </span>
            </li>
          );
        })}
      </ol>
      <p className="pt-1 text-[12px] text-quiet">
        {[
          figures.shown === "last" ? "" : figures.shown,
          sorted.length > most ? `the first ${most} of ${sorted.length}` : "",
          figures.columns.length > 1 ? `by ${figures.columns[0]?.name}` : "",
        ]
          .filter(Boolean)
          .join(", ")}
      </p>
    </div>
  );
}
