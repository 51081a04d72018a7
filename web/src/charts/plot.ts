import { LineChart } from "echarts/charts";
import { GridComponent } from "echarts/components";
import { type EChartsType, init, use } from "echarts/core";
import { CanvasRenderer } from "echarts/renderers";
import type { Axis } from "../../../core/units/axis.ts";
import { timeTicks } from "../time/moments.ts";
import { pageColours, type Theme } from "./palette.ts";

use([LineChart, GridComponent, CanvasRenderer]);

/** Where the plot stands inside its canvas, in px; the same for all charts, so that their times line up. */
export const plotInset = { left: 58, right: 6, top: 8, bottom: 20 } as const;

/** Half the width of a character of the axis labels, px. */
const labelHalfWidth = 3.4;

export interface PlotLine {
  readonly key: string;
  readonly values: readonly (number | null)[];
  /** Least and most within each step: drawn as a light band behind the line. */
  readonly lows?: readonly (number | null)[] | undefined;
  readonly highs?: readonly (number | null)[] | undefined;
  readonly colour: string;
  /** Drawn thick; where any line is raised the others are faint. */
  readonly raised: boolean;
}

export interface PlotModel {
  readonly fromMs: number;
  readonly toMs: number;
  /** Start of the first value's step, and the steps' length. */
  readonly firstMs: number;
  readonly stepMs: number;
  readonly axis: Axis;
  readonly lines: readonly PlotLine[];
  readonly stacked: boolean;
  readonly theme: Theme;
}

/** Owns one canvas: made once, updated with models, disposed of. */
export class Plot {
  readonly #chart: EChartsType;
  readonly #resize: ResizeObserver;

  constructor(element: HTMLElement) {
    this.#chart = init(element, undefined, { renderer: "canvas" });
    this.#resize = new ResizeObserver(() => this.#chart.resize());
    this.#resize.observe(element);
  }

  update(model: PlotModel): void {
    const colours = pageColours[model.theme];
    const font = { fontFamily: "Atkinson Hyperlegible Mono Variable", fontSize: 11, color: colours.quiet };
    const width = this.#chart.getWidth() - plotInset.left - plotInset.right;
    const ticks = timeTicks(model.fromMs, model.toMs, Math.max(2, Math.floor(width / 90)));
    // A label is centred at its tick: one that would reach beyond the canvas is left out, its tick stays.
    const fits = (atMs: number, text: string) => ((model.toMs - atMs) / (model.toMs - model.fromMs)) * width + plotInset.right > text.length * labelHalfWidth;
    const texts = new Map(ticks.map(({ atMs, text }) => [atMs, fits(atMs, text) ? text : ""]));
    const { axis } = model;
    const lastTick = axis.ticks[axis.ticks.length - 1];
    const labels = new Map(axis.ticks.map((tick, i) => [tick, `${axis.labels[i]}${tick === lastTick && axis.unit ? ` ${axis.unit}` : ""}`]));
    const anyRaised = model.lines.some((line) => line.raised);
    this.#chart.setOption(
      {
        animation: false,
        grid: { ...plotInset, containLabel: false },
        xAxis: {
          type: "value",
          min: model.fromMs,
          max: model.toMs,
          splitLine: { show: false },
          axisLine: { show: true, onZero: false, lineStyle: { color: colours.quiet } },
          axisTick: { show: true, customValues: ticks.map((tick) => tick.atMs), lineStyle: { color: colours.quiet } },
          axisLabel: { ...font, customValues: ticks.map((tick) => tick.atMs), formatter: (value: number) => texts.get(value) ?? "", hideOverlap: true },
        },
        yAxis: {
          type: "value",
          min: axis.min,
          max: axis.max,
          axisLine: { show: false },
          axisTick: { show: false, customValues: [...axis.ticks] },
          splitLine: { show: false },
          axisLabel: { ...font, customValues: [...axis.ticks], formatter: (value: number) => labels.get(value) ?? "", showMinLabel: true, showMaxLabel: true },
        },
        series: [gridLines(model, colours.hairline), ...model.lines.flatMap((line) => bandOf(line, model, anyRaised)), ...model.lines.map((line) => seriesOf(line, model, anyRaised, colours.paper))],
      },
      { notMerge: true },
    );
  }

  dispose(): void {
    this.#resize.disconnect();
    this.#chart.dispose();
  }
}

/** The hairlines at the ticks, as one broken line: the axis's own would ignore custom ticks. */
function gridLines(model: PlotModel, colour: string): object {
  const data = model.axis.ticks.flatMap((tick) => [[model.fromMs, tick], [model.toMs, tick], [model.toMs, "-"]]);
  return { type: "line", data, silent: true, showSymbol: false, lineStyle: { color: colour, width: 1 }, z: 1 };
}

/** What a step's mean hides: the band between its least and its most, as what is above the least stacked on it. */
function bandOf(line: PlotLine, model: PlotModel, anyRaised: boolean): object[] {
  const { lows, highs, key, colour } = line;
  if (!lows || !highs || model.stacked || (anyRaised && !line.raised)) return [];
  const part = (valueAt: (i: number) => number | null, opacity: number) => ({
    type: "line",
    data: lows.map((_, i) => [model.firstMs + (i + 0.5) * model.stepMs, valueAt(i) ?? "-"]),
    silent: true,
    showSymbol: false,
    connectNulls: false,
    stack: `band ${key}`,
    stackStrategy: "all",
    lineStyle: { opacity: 0 },
    areaStyle: { color: colour, opacity, origin: "start" },
    z: 2,
  });
  const above = (i: number) => (lows[i] === null || highs[i] === null ? null : (highs[i] as number) - (lows[i] as number));
  return [part((i) => lows[i] as number | null, 0), part(above, 0.16)];
}

function seriesOf(line: PlotLine, model: PlotModel, anyRaised: boolean, paper: string): object {
  const faint = anyRaised && !line.raised;
  const data = line.values.map((value, i) => [model.firstMs + (i + 0.5) * model.stepMs, value ?? "-"]);
  return {
    type: "line",
    data,
    silent: true,
    // A value between two gaps has no line: it is drawn as a dot.
    showSymbol: true,
    symbol: (_: unknown, { dataIndex }: { dataIndex: number }) => (alone(line.values, dataIndex) ? "circle" : "none"),
    symbolSize: 3,
    itemStyle: { color: line.colour },
    connectNulls: false,
    z: line.raised ? 4 : 3,
    ...(model.stacked
      ? { stack: "all", stackStrategy: "all", areaStyle: { color: line.colour, opacity: faint ? 0.25 : 0.85 }, lineStyle: { color: paper, width: 1 } }
      : { lineStyle: { color: line.colour, width: line.raised ? 2.6 : 1.5, opacity: faint ? 0.3 : 1 } }),
  };
}

const alone = (values: PlotLine["values"], i: number) => values[i] !== null && (values[i - 1] ?? null) === null && (values[i + 1] ?? null) === null;
