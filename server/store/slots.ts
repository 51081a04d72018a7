/** Chunks and journal rows hold two hours each, aligned to UTC. A slot is told by its number: two hours since 1970. */
export const slotMs = 7_200_000;

export const slotOf = (timeMs: number): number => Math.floor(timeMs / slotMs);

export const slotStart = (slot: number): number => slot * slotMs;
