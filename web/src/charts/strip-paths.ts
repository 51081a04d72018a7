import type { Span } from "../time/time-window.ts";

const bands = 3;
/** Units across a strip; it is stretched to its cell. */
export const stripWidth = 200;

/** One closed path a band; a run of values without a gap is one piece of it. */
export function bandPaths(
  values: readonly (number | null)[],
  firstMs: number,
  stepMs: number,
  span: Span,
  most: number,
  height: number,
): readonly string[] {
  const perBand = most / bands;
  const x = (i: number) =>
    Math.max(0, Math.min(stripWidth, ((firstMs + i * stepMs - span.fromMs) / (span.toMs - span.fromMs)) * stripWidth));
  return Array.from({ length: bands }, (_, band) => {
    let path = "";
    let open = false;
    values.forEach((value, i) => {
      if (value === null) {
        if (open) path += `V${height}Z`;
        open = false;
        return;
      }
      const filled = Math.max(0, Math.min(1, (value - band * perBand) / perBand));
      const y = (height * (1 - filled)).toFixed(1);
      path += open ? `V${y}H${x(i + 1).toFixed(1)}` : `M${x(i).toFixed(1)} ${height}V${y}H${x(i + 1).toFixed(1)}`;
      open = true;
    });
    return open ? `${path}V${height}Z` : path;
  });
}
