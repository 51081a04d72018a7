import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { countersQuery } from "../../api/queries.ts";
import { SelectPart } from "../../sentence/select-part.tsx";
import { TypedInput } from "../../ui/typed-input.tsx";

export interface TagValues {
  readonly tag: string;
  readonly is: readonly string[];
}

/** Tags that must have one of some values; all of them must hold. */
export function TagConditions({
  tags,
  onChange,
}: {
  tags: readonly TagValues[];
  onChange: (tags: readonly TagValues[]) => void;
}): ReactNode {
  const counters = useQuery(countersQuery).data ?? [];
  const known = [...new Set(counters.flatMap((counter) => counter.tags.map(({ tag }) => tag)))]
    .filter((tag) => tag !== "le")
    .sort();
  const put = (at: number, change: Partial<TagValues>) =>
    onChange(tags.map((one, i) => (i === at ? { ...one, ...change } : one)));
  return (
    <fieldset className="mt-2">
      <legend className="text-[13px] text-quiet">Of which tags</legend>
      {tags.map(({ tag, is }, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a condition is its place
        <p key={i} className="leading-8">
          <SelectPart
            label={`tag ${i + 1}`}
            value={tag}
            options={known.map((name) => [name, name])}
            onChange={(name) => put(i, { tag: name })}
          />{" "}
          is{" "}
          <TypedInput
            aria-label={`values of tag ${i + 1}, with commas`}
            value={is.join(", ")}
            onType={(text) =>
              put(i, {
                is: text
                  .split(",")
                  .map((value) => value.trim())
                  .filter(Boolean),
              })
            }
            className="w-60 !py-0"
          />
          <button
            type="button"
            className="word-link ml-3 text-[13px]"
            onClick={() => onChange(tags.filter((_, k) => k !== i))}
          >
            leave out
          </button>
        </p>
      ))}
      <button
        type="button"
        className="word-link text-[13px]"
        onClick={() => onChange([...tags, { tag: known[0] ?? "site", is: [] }])}
      >
        {tags.length === 0 ? "where a tag is …" : "and another tag …"}
      </button>
    </fieldset>
  );
}
