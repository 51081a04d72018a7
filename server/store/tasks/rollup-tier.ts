/** How long the stretches are that one rollup sums up. */
export type RollupTier = "5m" | "1h";
