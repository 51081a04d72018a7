import { type RefObject, useLayoutEffect, useRef } from "react";
import { type ChartHandle, chartManager } from "./chart-manager.ts";
import type { PlotModel } from "../../../core/drawing/model.ts";

/**
 * Has the manager draw a model into an element, once there is one; the handle gives pictures. The model must be the
 * same object while nothing changes.
 */
export function usePlot(
  element: RefObject<HTMLElement | null>,
  model: PlotModel | undefined,
): RefObject<ChartHandle | null> {
  const handle = useRef<ChartHandle>(null);
  useLayoutEffect(() => {
    const made = chartManager.add(element.current as HTMLElement);
    handle.current = made;
    return () => {
      handle.current = null;
      made.release();
    };
  }, [element]);
  useLayoutEffect(() => {
    if (model) handle.current?.draw(model);
  }, [model]);
  return handle;
}
