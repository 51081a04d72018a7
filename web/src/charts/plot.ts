import { CustomChart } from "echarts/charts";
import { type EChartsType, init, use } from "echarts/core";
import { CanvasRenderer } from "echarts/renderers";
import { elementsOf } from "../../../core/drawing/elements.ts";
import type { PlotModel } from "../../../core/drawing/model.ts";
import { registerShapes } from "./shapes.ts";
import { pageColours } from "../../../core/drawing/palette.ts";

use([CustomChart, CanvasRenderer]);
registerShapes();

/** Where the plot stands inside its canvas, in px; the same for all charts, so that their times line up. */
export const plotInset = { left: 64, right: 6, top: 8, bottom: 20 } as const;

/** Of a chart with its scales, px. */
export interface PlotSize {
  readonly width: number;
  readonly height: number;
}

/**
 * Owns one canvas: made once, drawn from models, disposed of. When it draws is the manager's affair. Everything is one
 * series of shapes:
 * a series a line, with the library's axes, took six times as long for twenty charts.
 */
export class Plot {
  readonly #chart: EChartsType;
  readonly #canvas: HTMLCanvasElement;
  #size: PlotSize;
  #model: PlotModel | undefined;

  /** A canvas of a size in an element, with so many dots to a px. */
  constructor(element: HTMLElement, size: PlotSize, dots = dotsOf(element)) {
    this.#size = size;
    this.#canvas = canvasOf(element, size);
    this.#chart = init(this.#canvas, undefined, { renderer: "canvas", ...size, devicePixelRatio: dots });
  }

  draw(model: PlotModel, { width, height }: PlotSize): void {
    const chart = this.#chart;
    this.#model = model;
    if (width !== this.#size.width || height !== this.#size.height) chart.resize({ width, height });
    this.#size = { width, height };
    const { left: x, top: y, right: edge, bottom } = plotInset;
    const place = { x, y, edge, width: width - x - edge, height: height - y - bottom };
    const children = elementsOf(model, place, pageColours[model.theme]);
    chart.setOption(
      {
        animation: false,
        series: [
          {
            id: "all",
            type: "custom",
            coordinateSystem: "none",
            silent: true,
            data: [0],
            renderItem: () => ({ type: "group", children }),
          },
        ],
      },
      { replaceMerge: ["series"] },
    );
  }

  /** What stands on the canvas, drawn anew with so many dots to a px, for a picture. */
  canvas(pixelRatio: number): HTMLCanvasElement {
    const picture = new Plot(document.createElement("div"), this.#size, pixelRatio);
    if (this.#model) picture.draw(this.#model, this.#size);
    picture.#chart.dispose();
    return picture.#canvas;
  }

  dispose(): void {
    this.#chart.dispose();
    this.#canvas.remove();
  }
}

/** Where the page is shown larger (on a wall), a canvas has as many dots as it is shown on. */
const dotsOf = (element: HTMLElement & { readonly currentCSSZoom?: number }): number =>
  devicePixelRatio * (element.currentCSSZoom ?? 1);

/**
 * A canvas of its own in the element: the library would make one only while it draws, and charts that are drawn
 * together had the page's styles worked out for each.
 */
function canvasOf(element: HTMLElement, { width, height }: PlotSize): HTMLCanvasElement {
  const canvas = document.createElement("canvas");
  canvas.style.width = `${width}px`;
  canvas.style.height = `${height}px`;
  element.append(canvas);
  return canvas;
}
