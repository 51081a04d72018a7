/** Three figures are enough for a limit that is set by hand. */
export const roundedLimit = (value: number): number => Number(value.toPrecision(3));
