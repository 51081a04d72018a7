import type { QueryClient } from "@tanstack/react-query";
import { meQuery } from "../../api/queries.ts";
import { forgetKeptPages } from "./kept-pages.ts";

const lookEveryMs = 50;
/** Once the server has answered, somebody who waits for the rest of a page waits on the page itself. */
const longestMs = 4000;

/** Takes the page as it stood away once the interface has drawn it anew. */
export function showKeptUntilDrawn(queries: QueryClient): void {
  const kept = document.getElementById("kept-page");
  if (!kept) return;
  let answeredMs: number | undefined;
  const look = setInterval(() => {
    if (queries.getQueryData(meQuery.queryKey) === undefined) return;
    answeredMs ??= performance.now();
    const isDrawn = queries.isFetching() === 0 && document.querySelector("#root [aria-busy=true]") === null;
    if (!isDrawn && performance.now() - answeredMs < longestMs) return;
    clearInterval(look);
    // what has come stands in the next frame
    requestAnimationFrame(() => requestAnimationFrame(() => kept.remove()));
  }, lookEveryMs);
}

/** Nobody is signed in any more: nothing of what was seen is shown or kept. */
export function forgetKept(): void {
  document.getElementById("kept-page")?.remove();
  forgetKeptPages();
}
