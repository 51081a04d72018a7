import type { Emit } from "../../counters/counter.ts";

/** What a reader gives, by `counter{tag=value,…}`; a name that comes twice fails. */
export function readingsOf(read: (emit: Emit) => unknown): Record<string, number> {
  const readings: Record<string, number> = {};
  read((counter, tags, value) => {
    const key = `${counter}{${Object.keys(tags)
      .sort()
      .map((tag) => `${tag}=${tags[tag]}`)
      .join(",")}}`;
    if (key in readings) throw new Error(`${key} came twice`);
    readings[key] = value;
  });
  return readings;
}
