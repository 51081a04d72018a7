import type { TokenView } from "../../../../core/api/tokens.ts";

const soonMs = 14 * 86_400_000;

/** Whether a token that works now ends within two weeks. */
export function tokenEndsSoon(
  { until, revokedAtMs }: Pick<TokenView, "until" | "revokedAtMs">,
  nowMs: number,
): boolean {
  if (until === null || revokedAtMs !== null) return false;
  const leftMs = Date.parse(until) - nowMs;
  return leftMs > 0 && leftMs < soonMs;
}
