import { CustomChart } from "echarts/charts";
import { GridComponent } from "echarts/components";
import { type EChartsType, init, use } from "echarts/core";
import { CanvasRenderer } from "echarts/renderers";
import { timeTicks } from "../time/moments.ts";
import { elementsOf } from "./drawing/elements.ts";
import type { PlotModel } from "./drawing/model.ts";
import { registerShapes } from "./drawing/shapes.ts";
import { pageColours } from "./palette.ts";

use([CustomChart, GridComponent, CanvasRenderer]);
registerShapes();

/** Where the plot stands inside its canvas, in px; the same for all charts, so that their times line up. */
export const plotInset = { left: 58, right: 6, top: 8, bottom: 20 } as const;

/** Half the width of a character of the axis labels, px. */
const labelHalfWidth = 3.4;

/** Owns one canvas: made once, drawn from models, disposed of. When it draws is the manager's affair. */
export class Plot {
  readonly #chart: EChartsType;

  constructor(element: HTMLElement) {
    this.#chart = init(element, undefined, { renderer: "canvas" });
  }

  draw(model: PlotModel): void {
    const chart = this.#chart;
    const colours = pageColours[model.theme];
    const font = { fontFamily: "Atkinson Hyperlegible Mono Variable", fontSize: 11, color: colours.quiet };
    const width = chart.getWidth() - plotInset.left - plotInset.right;
    const place = { x: plotInset.left, y: plotInset.top, width, height: chart.getHeight() - plotInset.top - plotInset.bottom };
    const ticks = timeTicks(model.fromMs, model.toMs, Math.max(2, Math.floor(width / 90)));
    // A label is centred at its tick: one that would reach beyond the canvas is left out, its tick stays.
    const fits = (atMs: number, text: string) => ((model.toMs - atMs) / (model.toMs - model.fromMs)) * width + plotInset.right > text.length * labelHalfWidth;
    const texts = new Map(ticks.map(({ atMs, text }) => [atMs, fits(atMs, text) ? text : ""]));
    const { axis } = model;
    const bare = model.drawn === "heat";
    const lastTick = axis.ticks[axis.ticks.length - 1];
    const labels = new Map(axis.ticks.map((tick, i) => [tick, `${axis.labels[i]}${tick === lastTick && axis.unit ? ` ${axis.unit}` : ""}`]));
    const moments = ticks.map(({ atMs }) => atMs);
    chart.setOption(
      {
        animation: false,
        grid: { ...plotInset, containLabel: false },
        xAxis: {
          type: "value",
          min: model.fromMs,
          max: model.toMs,
          splitLine: { show: false },
          axisLine: { show: true, onZero: false, lineStyle: { color: colours.quiet } },
          axisTick: { show: true, customValues: moments, lineStyle: { color: colours.quiet } },
          axisLabel: { ...font, customValues: moments, formatter: (value: number) => texts.get(value) ?? "", hideOverlap: true },
        },
        yAxis: {
          type: "value",
          min: axis.min,
          max: axis.max,
          axisLine: { show: false },
          axisTick: { show: false, customValues: [...axis.ticks] },
          splitLine: { show: false },
          axisLabel: { ...font, show: !bare, customValues: [...axis.ticks], formatter: (value: number) => labels.get(value) ?? "", showMinLabel: true, showMaxLabel: true },
        },
        series: [{ id: "all", type: "custom", silent: true, clip: true, data: [[model.fromMs, axis.min]], renderItem: () => ({ type: "group", children: elementsOf(model, place, colours) }) }],
      },
      { replaceMerge: ["series"], lazyUpdate: false },
    );
  }

  resize(): void {
    this.#chart.resize();
  }

  /** What stands on the canvas, for a picture. */
  canvas(pixelRatio: number): HTMLCanvasElement {
    return this.#chart.renderToCanvas({ pixelRatio });
  }

  dispose(): void {
    this.#chart.dispose();
  }
}
