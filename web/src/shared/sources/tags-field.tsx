import { type ReactNode, useState } from "react";
import type { Tags } from "../../../../core/counters/counter.ts";

/** Tags as words that can be taken away, and a pair of fields for one more. */
export function TagsField({
  tags,
  onChange,
  words,
}: {
  tags: Tags;
  onChange: (tags: Tags) => void;
  words: string;
}): ReactNode {
  const [tag, setTag] = useState("");
  const [value, setValue] = useState("");
  const add = () => {
    if (tag.trim() === "" || value.trim() === "") return;
    onChange({ ...tags, [tag.trim()]: value.trim() });
    setTag("");
    setValue("");
  };
  return (
    <div className="flex flex-wrap items-center gap-2">
      {words}
      {Object.entries(tags).map(([name, is]) => (
        <span key={name} className="border-b border-hairline">
          {name} <strong>{is}</strong>{" "}
          <button
            type="button"
            className="word-link text-[13px]"
            aria-label={`take the tag ${name} away`}
            onClick={() => onChange(Object.fromEntries(Object.entries(tags).filter(([other]) => other !== name)))}
          >
            away
          </button>
        </span>
      ))}
      <input
        aria-label="new tag"
        placeholder="site"
        value={tag}
        onChange={(event) => setTag(event.target.value)}
        className="w-28"
      />
      <input
        aria-label="value of the new tag"
        placeholder="studio"
        value={value}
        onChange={(event) => setValue(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === "Enter") {
            event.preventDefault();
            add();
          }
        }}
        className="w-32"
      />
      <button type="button" className="word-link" onClick={add}>
        add
      </button>
    </div>
  );
}
