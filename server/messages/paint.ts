import type { SKRSContext2D } from "@napi-rs/canvas";
import type { Element } from "../../core/drawing/elements.ts";
import { paths } from "../../core/drawing/paths.ts";

/** Draws what a chart is made of with a pen, from the back to the front, as the chart library does it on screen. */
export function paint(pen: SKRSContext2D, elements: readonly Element[]): void {
  for (const element of [...elements].sort((a, b) => a.z2 - b.z2)) {
    pen.save();
    if (element.type === "text") {
      const { text, fill, font, align, verticalAlign } = element.style;
      pen.font = font;
      pen.fillStyle = fill;
      pen.textAlign = align;
      pen.textBaseline = verticalAlign;
      pen.fillText(text, element.x, element.y);
    } else {
      const { stroke, fill, lineWidth = 1, opacity = 1, lineDash = [], lineJoin } = element.style;
      pen.globalAlpha = opacity;
      pen.setLineDash([...lineDash]);
      if (lineJoin) pen.lineJoin = lineJoin;
      pen.beginPath();
      paths[element.type](pen, element.shape as never);
      if (fill && fill !== "none") {
        pen.fillStyle = fill;
        pen.fill();
      }
      if (stroke) {
        pen.strokeStyle = stroke;
        pen.lineWidth = lineWidth;
        pen.stroke();
      }
    }
    pen.restore();
  }
}
