/** Whole numbers up to this size are packed: second differences, doubled for their sign, stay exact (2^53). */
export const largestInteger = 2 ** 50;

/** Numbers share one bit width in groups of 32, so that a spike costs one group; 32 numbers of w bits are w words. */
export const groupSize = 32;
/** Set in the mode byte where all groups have one width, which is then written once. */
export const oneWidth = 0x80;
/**
 * Set in the mode byte where no number is 2^31 or more away from the first (in "frame": from the least): words suffice
 * for adding up.
 */
export const near = 0x40;

/**
 * How a column of n integers becomes the items that are packed:
 *  - frame: the least, then n items above it
 *  - delta: the first, then n − 1 differences, their sign in the low bit
 *  - rise: the first and the least difference, then n − 1 differences above that
 *  - bend: the first and the first difference, then n − 2 differences of differences, their sign in the low bit
 *  - changes: the first, a bitmap of n − 1 bits, then the differences that are not 0, their sign in the low bit
 */
export const modes = { frame: 0, delta: 1, rise: 2, bend: 3, changes: 4 } as const;
export type Mode = (typeof modes)[keyof typeof modes];

/** How a column of words becomes the items that are packed: above the least, or as differences modulo 2^32. */
export const planeIs = { frame: 0, delta: 1 } as const;
