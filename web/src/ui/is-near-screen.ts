/** Whether an element has a size (what is not shown has none) and stands within so many px of what is seen. */
export function isNearScreen(element: Element, acrossPx: number, downPx: number): boolean {
  const { left, right, top, bottom } = element.getBoundingClientRect();
  const isThere = right > left && bottom > top;
  return isThere && right > -acrossPx && left < innerWidth + acrossPx && bottom > -downPx && top < innerHeight + downPx;
}
