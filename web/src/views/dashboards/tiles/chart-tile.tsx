import type { ReactNode } from "react";
import type { Drawn } from "../../../../../core/drawing/drawings.ts";
import type { ReadingAnswer } from "../../../../../core/reading/document.ts";
import { ChartWithActions } from "../../../shared/charts/chart-with-actions.tsx";
import { withUnit } from "../../../../../core/rules/incident-text.ts";
import { useTime } from "../../../time/time-provider.tsx";
import { limitsOf, useRuleMarks } from "../../../shared/rules/rule-marks.ts";
import { usePicks } from "../picks-provider.tsx";
import { savedTileId } from "../use-rules-by-tile.ts";
import type { ReadingTileProps } from "./tile-props.ts";

/** What a chart needs beside its plot, px: the axis below, and the words under the labels. */
const chartEdges = 48;
const bareEdges = 30;

/** A tile that is a chart of lines over time. */
export function ChartTile({ tile, data, heightPx, bare }: ReadingTileProps): ReactNode {
  const { span } = useTime();
  const { answer, nameOf, reading } = data;
  const unit = answer?.lines[0]?.unit ?? "1";
  const others = answer && new Set(answer.lines.map((line) => line.unit)).size > 1;
  const { dashboardId, rulesOf } = usePicks();
  const rules = rulesOf(tile.id);
  const marks = useRuleMarks(rules);
  const limits = [
    ...(tile.limits ?? []).map(({ at, severity }) => ({
      key: `${severity} ${at}`,
      value: at,
      severity,
      text: withUnit(at, unit),
    })),
    ...rules.filter(({ on }) => on).flatMap((rule) => limitsOf(rule)),
  ];
  return (
    <>
      {others && (
        <p className="text-[13px] text-quiet">
          Its sentences have different units, which one scale cannot hold; drawn is the first.
        </p>
      )}
      <ChartWithActions
        title={tile.title || "tile"}
        answer={others ? onlyUnit(answer, unit) : answer}
        span={span}
        unit={unit}
        nameOf={nameOf}
        drawn={tile.kind as Drawn}
        limits={limits}
        marks={marks}
        place={dashboardId === undefined ? undefined : { dashboard: dashboardId, tile: savedTileId(tile.id) }}
        {...(reading && { reading })}
        height={Math.max(40, heightPx - (bare ? bareEdges : chartEdges))}
        labels={bare ? "none" : "narrow"}
      />
    </>
  );
}

const onlyUnit = (answer: ReadingAnswer, unit: string): ReadingAnswer => ({
  ...answer,
  lines: answer.lines.filter((line) => line.unit === unit),
});
