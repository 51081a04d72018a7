import { noise, wander } from "./noise.ts";

const hour = 3600;

/** How much goes on air at a moment, 0 to 1: live shows at 07–09 and 17–19 local time. `offsetSeconds` is the zone's. */
export function showLoad(second: number, offsetSeconds: number): number {
  const ofDay = (((second + offsetSeconds) % (24 * hour)) + 24 * hour) % (24 * hour);
  const bump = (from: number, to: number) => smoothstep((ofDay - (from - 0.25) * hour) / (0.5 * hour)) * (1 - smoothstep((ofDay - (to - 0.25) * hour) / (0.5 * hour)));
  return Math.max(bump(7, 9), bump(17, 19));
}

/** The recording of the last programme is encoded for a minute and a half every quarter of an hour: all cores work. */
export function encodes(second: number): boolean {
  return second % 900 >= 240 && second % 900 < 330;
}

/** Share of the four cores that is busy. */
export function busyShare(second: number, offsetSeconds: number): number {
  const calm = 0.07 + 0.05 * wander(1, second, 400) + 0.03 * noise(2, Math.floor(second / 5)) + 0.2 * showLoad(second, offsetSeconds);
  return encodes(second) ? Math.min(0.97, calm + 0.68 + 0.1 * noise(3, Math.floor(second / 5))) : calm;
}

/** Bytes a second that leave for the transmitter and the stream. */
export function sentBytes(second: number, offsetSeconds: number): number {
  return 240_000 + 60_000 * wander(4, second, 300) + 900_000 * showLoad(second, offsetSeconds) * (0.8 + 0.4 * wander(5, second, 60));
}

export function receivedBytes(second: number, offsetSeconds: number): number {
  return 40_000 + 30_000 * wander(6, second, 200) + (second % 3600 < 120 ? 3_000_000 * noise(7, Math.floor(second / 5)) : 0) + 150_000 * showLoad(second, offsetSeconds);
}

export function diskReadBytes(second: number): number {
  return 350_000 + 200_000 * wander(8, second, 120) + (encodes(second) ? 9_000_000 : 0);
}

export function diskWriteBytes(second: number): number {
  return 180_000 + 120_000 * wander(9, second, 90) + (encodes(second) ? 4_000_000 : 0);
}

/** Bytes of programme archive on the audio disk: grows with the weeks, tidied every Sunday night. */
export function archiveBytes(second: number): number {
  const week = 7 * 24 * hour;
  return 590e9 + 38e9 * ((second % week) / week);
}

function smoothstep(x: number): number {
  const t = Math.min(1, Math.max(0, x));
  return t * t * (3 - 2 * t);
}
