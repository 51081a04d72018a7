import type { ReactNode } from "react";
import { passedLimit } from "../../../../../core/dashboards/limits.ts";
import type { Tile } from "../../../../../core/dashboards/dashboard.ts";
import type { ShownFigures } from "../../../../../core/dashboards/shown-figures.ts";
import { present } from "../../../../../core/units/present.ts";
import { palette } from "../../../../../core/drawing/palette.ts";
import { Strip } from "../../../charts/strip.tsx";
import { useTheme } from "../../../ui/theme.ts";
import { Signal } from "../../../ui/signal.tsx";
import { useTime } from "../../../time/time-provider.tsx";
import type { TileData } from "./use-tile.ts";

/** One figure, large, over the strip of its line. Which line and which of its values it is stands beside it. */
export function NumberTile({
  tile,
  figures,
  data,
  heightPx,
}: {
  tile: Tile;
  figures: ShownFigures;
  data: TileData;
  heightPx: number;
}): ReactNode {
  const { span } = useTime();
  const theme = useTheme();
  const row = figures.rows[0];
  const column = figures.columns[0];
  const value = row?.values[0] ?? null;
  const unit = tile.meter?.unit ?? column?.unit ?? "1";
  const shown = present(value, unit);
  const severity = value === null ? null : passedLimit(tile.limits ?? [], value);
  const line = data.answer?.lines.find(({ earlier }) => earlier === undefined);
  const others = figures.rows.length > 1 ? `; the first of ${figures.rows.length}` : "";
  return (
    <div className="flex h-full flex-col">
      <p className="figure text-[34px] leading-tight" data-number>
        {value === null ? <span className="text-[20px] text-quiet">{tile.meter?.none ?? "no value"}</span> : shown.text}
        <span className="ml-1 text-[17px] text-quiet">{shown.unit}</span>
        {severity && (
          <span className="ml-2 inline-block align-middle">
            <Signal of="raised" severity={severity} label={severity} />
          </span>
        )}
      </p>
      <p className="truncate text-[13px] text-quiet">
        {[row?.name || column?.name, figures.shown].filter(Boolean).join(", ")}
        {others}
      </p>
      {line && data.answer && (
        <div className="mt-auto">
          <Strip
            line={line}
            firstMs={data.answer.from}
            stepMs={data.answer.stepMs}
            span={span}
            scale={{ least: 0, most: line.max !== null && line.max > 0 ? line.max : 1 }}
            height={Math.max(16, Math.min(48, heightPx - 90))}
            colour={palette[theme][0] as string}
          />
        </div>
      )}
    </div>
  );
}
