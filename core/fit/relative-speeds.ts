/** How fast machines are beside the slowest of those that were measured, whose factor is 1; speeds in any one unit, above 0. */
export function relativeSpeeds(measured: ReadonlyMap<string, number>): ReadonlyMap<string, number> {
  const slowest = Math.min(...measured.values());
  return new Map([...measured].map(([machine, speed]) => [machine, Number((speed / slowest).toPrecision(3))]));
}
