import { notifyManager } from "@tanstack/react-query";

/**
 * Has answers that come close together take effect together, once a frame: many charts are then one change of the page.
 * A hidden page has no frames.
 */
export function answerInFrames(): void {
  notifyManager.setScheduler((take) => {
    if (document.visibilityState === "visible") requestAnimationFrame(() => take());
    else setTimeout(take, 0);
  });
}
