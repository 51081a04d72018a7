import { isWithin, type World } from "./world.ts";

/** Something that scripts and devices of the world tell as an event; seconds since 1970 UTC. */
export interface Happening {
  readonly from: number;
  readonly to: number;
  readonly kind: string;
  readonly machine: string;
  readonly text: string;
}

const day = 86_400;
const nights = [
  { kind: "backup", text: "archive copy ran", from: 2 * 3600 + 600, to: 3 * 3600 + 300 },
  {
    kind: "integrity scan",
    text: "integrity scan of the pool archive ran",
    from: 2 * 3600 + 1200,
    to: 3 * 3600 + 2400,
  },
] as const;

/** What had ended by a moment in `[from, to)`, oldest first. */
export function happenings(world: World, from: number, to: number): readonly Happening[] {
  const found: Happening[] = [
    { ...world.powerCut, kind: "power loss", machine: "ups", text: "The mains were away for 11 minutes" },
    { from: world.mastAway.to, to: world.mastAway.to, kind: "reboot", machine: "mast", text: "mast came back late" },
  ];
  for (
    let local = Math.floor((from + world.offsetSeconds) / day) - 1;
    local * day - world.offsetSeconds < to;
    local++
  ) {
    const midnight = local * day - world.offsetSeconds;
    for (const { kind, text, from: start, to: end } of nights)
      if (world.archiveCopy.rate(midnight + start + 900) > 0)
        found.push({ from: midnight + start, to: midnight + end, kind, machine: "vault", text });
  }
  return found.filter(({ to: end }) => isWithin(end, { from, to })).sort((a, b) => a.to - b.to);
}
