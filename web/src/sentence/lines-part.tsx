import type { ReactNode } from "react";
import type { Combine, Lines, Sentence } from "../../../core/reading/document.ts";
import { combineWords, keepWords, keptByWords, linesWords } from "../../../core/reading/sentence-words.ts";
import { NumberField } from "../ui/number-field.tsx";
import { PopoverPart } from "./popover-part.tsx";
import { SelectPart } from "./select-part.tsx";

interface LinesPartProps {
  readonly lines: Lines;
  readonly tags: readonly string[];
  readonly onChange: (lines: Lines) => void;
}

/** How series become lines: each its own, all together, or one a value of some tags. */
export function LinesPart({ lines, tags, onChange }: LinesPartProps): ReactNode {
  const per = typeof lines === "object" ? lines.per : [];
  const toggle = (tag: string, on: boolean) => {
    const next = on ? [...per, tag] : per.filter((one) => one !== tag);
    onChange(next.length === 0 ? "together" : { per: next });
  };
  const choice = (value: Lines & string, words: string) => (
    <label className="flex cursor-pointer items-center gap-2 py-0.5">
      <input
        type="radio"
        name="lines"
        className="accent-act"
        checked={lines === value}
        onChange={() => onChange(value)}
      />
      {words}
    </label>
  );
  return (
    <PopoverPart label="lines" words={linesWords(lines)}>
      {() => (
        <fieldset>
          <legend className="text-quiet">Draw</legend>
          {choice("each", "every series as a line of its own")}
          {choice("together", "all in one line")}
          <p className="mt-2 text-quiet">or one line per</p>
          {tags.map((tag) => (
            <label key={tag} className="flex cursor-pointer items-center gap-2 py-0.5">
              <input
                type="checkbox"
                className="accent-act"
                checked={per.includes(tag)}
                onChange={(event) => toggle(tag, event.target.checked)}
              />
              {tag}
            </label>
          ))}
        </fieldset>
      )}
    </PopoverPart>
  );
}

/** How series that share a line become one. */
export function CombinePart({
  combine,
  onChange,
}: {
  combine: Combine;
  onChange: (combine: Combine) => void;
}): ReactNode {
  return (
    <SelectPart
      label="how they are joined"
      value={combine}
      options={Object.entries(combineWords)}
      onChange={(value) => onChange(value as Combine)}
    />
  );
}

type Keep = Sentence["keep"];
type KeptBy = keyof typeof keptByWords;

/** Which of many lines are kept. */
export function KeepPart({ keep, onChange }: { keep: Keep; onChange: (keep: Keep) => void }): ReactNode {
  const end = keep?.lowest !== undefined ? "lowest" : keep ? "highest" : "all";
  const count = keep?.highest ?? keep?.lowest ?? 8;
  const by = keep?.by ?? "mean";
  const said = (nextEnd: string, nextCount: number, nextBy: KeptBy): Keep =>
    nextEnd === "all" ? undefined : { [nextEnd]: nextCount, by: nextBy, ...(keep?.rest && { rest: true }) };
  return (
    <PopoverPart
      label="how many lines"
      words={keep ? keepWords(keep) : "only the highest …"}
      quiet={keep === undefined}
    >
      {() => (
        <p className="flex flex-wrap items-baseline gap-x-2 gap-y-2">
          <SelectPart
            label="which end"
            value={end}
            options={[
              ["all", "all lines"],
              ["highest", "the highest"],
              ["lowest", "the lowest"],
            ]}
            onChange={(next) => onChange(said(next, count, by))}
          />
          {keep && (
            <>
              <NumberField
                label="how many"
                value={count}
                usual={String(count)}
                least={1}
                most={1000}
                onChange={(next) => next !== undefined && onChange(said(end, next, by))}
                className="w-20 text-right"
              />
              by{" "}
              <SelectPart
                label="by what"
                value={by}
                options={Object.entries(keptByWords)}
                onChange={(next) => onChange(said(end, count, next as KeptBy))}
              />
              <label className="flex w-full cursor-pointer items-center gap-2">
                <input
                  type="checkbox"
                  className="accent-act"
                  checked={keep.rest === true}
                  onChange={(event) => {
                    const { rest: _, ...plain } = keep;
                    onChange(event.target.checked ? { ...plain, rest: true } : plain);
                  }}
                />
                the rest as one more line, added up
              </label>
            </>
          )}
        </p>
      )}
    </PopoverPart>
  );
}
