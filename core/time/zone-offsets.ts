import { IANAZone } from "luxon";

const hourMs = 3_600_000;

/**
 * How far the clock of a zone (IANA) is ahead of UTC at a moment, in ms; looked up once an hour, for clocks are changed
 * on whole hours of UTC or halves of them. An unknown zone is UTC.
 */
export function zoneOffsets(zone: string): (ms: number) => number {
  const found = IANAZone.create(zone);
  const known = new Map<number, number>();
  return (ms) => {
    const half = Math.floor((2 * ms) / hourMs);
    let offset = known.get(half);
    if (offset === undefined)
      known.set(half, (offset = found.isValid ? found.offset((half * hourMs) / 2) * 60_000 : 0));
    return offset;
  };
}
