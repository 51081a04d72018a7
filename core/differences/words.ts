import { catalogue } from "../counters/catalogue.ts";
import type { Tags } from "../counters/counter.ts";
import { withUnit } from "../rules/incident-text.ts";
import type { DifferenceEntry, Moved } from "./fold.ts";

/** Tags that name what a line is of, from the most telling on. */
const telling = [
  "container",
  "guest",
  "device",
  "mountpoint",
  "pool",
  "array",
  "interface",
  "network.interface.name",
  "name",
  "sensor",
  "state",
  "direction",
] as const;

/** "the disk sda, reading": what tells a line apart from others of its counter on its machine. */
function partWords(tags: Tags): string {
  const others = Object.entries(tags).filter(([tag]) => tag !== "machine");
  const known = telling.flatMap((tag) => (tags[tag] ? [tags[tag]] : []));
  const rest = others.filter(([tag]) => !(telling as readonly string[]).includes(tag)).map(([, value]) => value);
  return [...known, ...rest].slice(0, 3).join(", ");
}

/** A value as it is told: shares of time in percent. */
function valueWords({ counter, unit }: Pick<Moved, "counter" | "unit">, value: number): string {
  return unit === "1" && catalogue.get(counter)?.unit === "s" ? withUnit(value * 100, "%") : withUnit(value, unit);
}

/** "processor time of hive 97 %, usually 12 %": a line in words, without its moment. */
export function lineWords(line: Moved): string {
  const part = partWords(line.tags);
  return `${catalogue.get(line.counter)?.words ?? line.counter}${part === "" ? "" : ` (${part})`} ${valueWords(line, line.was)}, usually ${valueWords(line, line.usual)}`;
}

/**
 * "vault: disk time (sda) 97 %, usually 12 %, from 07:21": an entry in a sentence without a full stop. `clock` writes a
 * moment.
 */
export function entryWords({ machine, lines, atMs }: DifferenceEntry, clock: (ms: number) => string): string {
  const [first, ...others] = lines as [Moved, ...Moved[]];
  const more =
    others.length === 0 ? "" : others.length === 1 ? "; and one line more" : `; and ${others.length} lines more`;
  return `${machine || "all machines"}: ${lineWords(first)}, from ${clock(atMs)}${more}`;
}
