/** Of a figure of the mono face at the flag's size, and of the flag's tip and edges, px. */
const [letterPx, edgesPx] = [6.7, 14] as const;

/**
 * So much of a limit's words as has room in its flag, the figure first: "90 % for 30 min, clears 80 %" loses when it
 * clears, then how long it must last. The whole is told on pointing.
 */
export function fittingFlag(text: string, roomPx: number): string {
  const most = Math.floor((roomPx - edgesPx) / letterPx);
  const [withoutClear = text] = text.split(", clears");
  const [figure = text] = withoutClear.split(" for ");
  return [text, withoutClear, figure].find((words) => words.length <= most) ?? figure;
}
