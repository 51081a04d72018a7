/** Chunks and journal rows hold two hours each, aligned to UTC. */
export const slotMs = 7_200_000;
const partitionMs = 86_400_000;

export const slotOf = (timeMs: number): number => Math.floor(timeMs / slotMs) * slotMs;

/** The statement that makes the day's partition of `chunk`, where it is not there yet. Only computed whole numbers stand in it. */
export function partitionStatement(slot: number): string {
  const day = Math.floor(slot / partitionMs);
  return `create table if not exists chunk_day_${day} partition of chunk for values from (${day * partitionMs}) to (${(day + 1) * partitionMs})`;
}
