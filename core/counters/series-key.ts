import type { Tags } from "./counter.ts";

/**
 * The canonical text of a series: counter and tags in code-unit order of their names, values quoted as JSON strings.
 * Two series are the same exactly when their texts are.
 *
 * @example seriesKey("system.disk.io", { machine: "vault", device: "sda" })
 *          // system.disk.io{device="sda",machine="vault"}
 */
export function seriesKey(counter: string, tags: Tags): string {
  const names = Object.keys(tags).sort();
  const parts = [counter, "{"];
  for (let i = 0; i < names.length; i++) {
    const name = names[i] as string;
    parts.push(i === 0 ? "" : ",", name, "=", JSON.stringify(tags[name]));
  }
  parts.push("}");
  return parts.join(""); // one flat text: put together by + it would keep its pieces in memory
}
