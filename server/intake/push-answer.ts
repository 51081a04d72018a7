import type { PushAnswer } from "../../core/api/sources.ts";
import type { Dialect } from "../../core/formats/exposition/families.ts";
import type { PageTaken } from "../sources/series-table.ts";

/** Which text a body is by its Content-Type. */
export const dialectOf = (contentType: string): Dialect =>
  /openmetrics-text/i.test(contentType) ? "openmetrics" : "text";

/** By which User-Agent a collector says which version it is. */
export const collectorVersion = (userAgent: string | undefined): string | undefined =>
  /^nubrel-collector\/([\w.-]{1,50})$/.exec(userAgent ?? "")?.[1];

/** What a sender is answered; `leftOut` is what its page was read without. */
export function answerOfPage(
  { found, taken, leftOut }: PageTaken,
  readWithout: ReadonlyMap<string, number>,
): PushAnswer {
  const exemplars = readWithout.get("exemplars");
  return { found, taken, leftOut, notes: exemplars ? [`${exemplars} exemplars were read and dropped.`] : [] };
}

/** What is kept of a text received, to be looked at. */
export const mostRaw = 262_144;

/** The beginning of a text; one that is not whole ends at the end of a line. */
export const rawOf = (begin: Buffer, size: number): Buffer =>
  begin.length === size ? begin : begin.subarray(0, begin.lastIndexOf("\n") + 1);
