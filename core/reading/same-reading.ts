/** Whether two documents say the same, whatever the order of their fields: the database does not keep it. */
export function sameReading(a: unknown, b: unknown): boolean {
  if (typeof a !== "object" || typeof b !== "object" || a === null || b === null) return a === b;
  const [left, right] = [a as Record<string, unknown>, b as Record<string, unknown>];
  const names = Object.keys(left);
  return (
    names.length === Object.keys(right).length &&
    names.every((name) => name in right && sameReading(left[name], right[name]))
  );
}
