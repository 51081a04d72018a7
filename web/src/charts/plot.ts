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

/**
 * Owns one canvas: made once, drawn from models, disposed of. When it draws is the manager's affair. Everything is one
 * series of shapes:
 * a series a line, with the library's axes, took six times as long for twenty charts.
 */
export class Plot {
  readonly #chart: EChartsType;

  constructor(element: HTMLElement) {
    // Where the page is shown larger (on a wall), a canvas has as many dots as it is shown on.
    this.#chart = init(element, undefined, {
      renderer: "canvas",
      devicePixelRatio: devicePixelRatio * ((element as { currentCSSZoom?: number }).currentCSSZoom ?? 1),
    });
  }

  draw(model: PlotModel): void {
    const chart = this.#chart;
    const { left: x, top: y, right: edge, bottom } = plotInset;
    const place = { x, y, edge, width: chart.getWidth() - x - edge, height: chart.getHeight() - y - bottom };
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
