/** The UCUM unit of a rate: per second. Seconds a second are a plain ratio. */
export function rateUnit(unit: string): string {
  if (unit === "s") return "1";
  return unit === "1" ? "/s" : `${unit}/s`;
}
