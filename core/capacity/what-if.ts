/** What is supposed to change of something that fills. */
export interface Supposed {
  /** It grows this many times as fast. */
  readonly faster?: number;
  /** So much more is written to it once, in its unit. */
  readonly added?: number;
  /** So much is moved away from it. */
  readonly moved?: number;
  /** Its size, in its unit. */
  readonly size?: number;
}

/** How something fills: amounts in its unit, times in ms. */
export interface Filling {
  readonly used: number;
  readonly size: number;
  readonly perDay: number;
  /** When it is full as things stand; null where it does not fill. */
  readonly fullFromMs: number | null;
  readonly fullToMs: number | null;
}

const dayMs = 86_400_000;

/**
 * The same, if things were otherwise. The range keeps its width as a share of the time that is left: the rate is as
 * uncertain as before. Arithmetic; amounts below nothing are nothing.
 */
export function whatIf(
  filling: Filling,
  { faster = 1, added = 0, moved = 0, size = filling.size }: Supposed,
  nowMs: number,
): Filling {
  const used = Math.max(0, filling.used + added - moved);
  const perDay = filling.perDay * (filling.perDay > 0 ? faster : 1);
  const [from, to] = [filling.fullFromMs, filling.fullToMs];
  if (used >= size) return { used, size, perDay, fullFromMs: nowMs, fullToMs: nowMs };
  if (from === null || to === null || !(perDay > 0)) return { used, size, perDay, fullFromMs: null, fullToMs: null };
  const before = (filling.size - filling.used) / filling.perDay;
  const after = (size - used) / perDay;
  const factor = before > 0 ? after / before : Number.NaN;
  const at = (ms: number) => (Number.isNaN(factor) ? nowMs + after * dayMs : nowMs + (ms - nowMs) * factor);
  return { used, size, perDay, fullFromMs: at(from), fullToMs: at(to) };
}
