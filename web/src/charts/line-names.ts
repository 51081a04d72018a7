import { restTag } from "../../../core/reading/kept-lines.ts";
import type { Line, ReadingDocument } from "../../../core/reading/document.ts";

/** What of a line says what it is called. */
export type NamedLine = Pick<Line, "of" | "tags">;

/**
 * Names lines by what tells them apart: the values of the tags in which they differ, led by the sentence's name where
 * there are several
 * sentences. A line alone is named by its own tags, or by its sentence. Where `per` says by which tags lines were made,
 * those are the name. `called` says what people call a machine.
 */
export function lineNames(
  lines: readonly NamedLine[],
  per?: readonly string[],
  called: (machine: string) => string = (machine) => machine,
): (line: NamedLine) => string {
  const tags = [...new Set(lines.flatMap((line) => Object.keys(line.tags)))];
  const differing =
    per && per.length > 0
      ? per
      : tags
          .filter((tag) => tag !== restTag && new Set(lines.map((line) => line.tags[tag])).size > 1)
          .sort((a, b) => order(a) - order(b) || a.localeCompare(b));
  const named = differing.length > 0 ? differing : tags.includes("machine") ? ["machine"] : tags.slice(0, 1);
  const several = new Set(lines.map(({ of }) => of)).size > 1;
  return (line) => {
    const rest = line.tags[restTag];
    if (rest !== undefined) return rest;
    const values = named
      .map((tag) => (tag === "machine" ? called(line.tags[tag] ?? "") : (line.tags[tag] ?? "")))
      .filter(Boolean)
      .join(" ");
    return several ? `${line.of}${values ? `: ${values}` : ""}` : values || (line.of === "figure" ? "result" : line.of);
  };
}

const order = (tag: string) => (tag === "machine" ? 0 : 1);

/** The tags by which a reading makes its lines, where every sentence says so; else none. */
export function tagsOfLines({ sentences }: Pick<ReadingDocument, "sentences">): readonly string[] {
  const all = Object.values(sentences).map(({ lines }) => (typeof lines === "object" ? lines.per : undefined));
  return all.every((per) => per !== undefined) ? [...new Set(all.flat() as string[])] : [];
}
