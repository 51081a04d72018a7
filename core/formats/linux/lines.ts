/** Calls `take` with the fields of every line that is not blank; fields are separated by spaces or tabs. */
export function eachLine(text: string, take: (fields: readonly string[], line: string) => void): void {
  for (const line of text.split("\n")) {
    const trimmed = line.trim();
    if (trimmed !== "") take(trimmed.split(/[ \t]+/), trimmed);
  }
}

/**
 * The number in a field; NaN where there is none, so that a field which a kernel lacks is left out and not invented.
 */
export function numberIn(field: string | undefined): number {
  return field !== undefined && /^-?\d+(\.\d+)?$/.test(field) ? Number(field) : Number.NaN;
}
