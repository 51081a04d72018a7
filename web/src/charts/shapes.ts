import { graphic } from "echarts/core";
import { paths } from "../../../core/drawing/paths.ts";

/** Makes our shapes known to the chart library, once. */
export function registerShapes(): void {
  for (const [type, buildPath] of Object.entries(paths))
    graphic.registerShape(type, graphic.extendShape({ type, shape: {}, buildPath } as never) as never);
}
