import { useCalled } from "../api/use-called.ts";
import { type ReactNode, useState } from "react";
import type { Condition } from "../../../core/reading/document.ts";
import { conditionWords, machineWords } from "../../../core/reading/sentence-words.ts";
import { isIdle } from "../../../core/reading/idle.ts";
import { TypedInput } from "../ui/typed-input.tsx";
import { PopoverPart } from "./popover-part.tsx";
import { SelectPart } from "./select-part.tsx";

export type TagValues = readonly { readonly tag: string; readonly values: readonly string[] }[];

type Way = "is" | "not" | "like";
const ways: readonly (readonly [Way, string])[] = [
  ["is", "is"],
  ["not", "is not"],
  ["like", "is like"],
];
const manyValues = 12;

interface ConditionPartProps {
  readonly condition: Condition;
  readonly known: TagValues;
  /** Undefined takes the condition away. */
  readonly onChange: (condition: Condition | undefined) => void;
}

/** Which machines a sentence is about. */
export function MachinePart({
  where,
  known,
  onChange,
}: {
  where: readonly Condition[];
  known: TagValues;
  onChange: (where: readonly Condition[]) => void;
}): ReactNode {
  const called = useCalled();
  const others = where.filter(({ tag }) => tag !== "machine");
  const own = where.find(({ tag }) => tag === "machine") ?? { tag: "machine", is: [] };
  return (
    <PopoverPart label="machines" words={machineWords(where.map((one) => withCalledValues(one, called)))}>
      {() => (
        <ConditionFields
          condition={own}
          known={known}
          fixedTag
          onChange={(changed) => onChange(changed && !isIdle(changed) ? [changed, ...others] : others)}
        />
      )}
    </PopoverPart>
  );
}

/** One condition on a tag. */
export function ConditionPart({ condition, known, onChange }: ConditionPartProps): ReactNode {
  return (
    <PopoverPart
      label="condition"
      words={isIdle(condition) ? `${condition.tag} is anything` : conditionWords(condition)}
    >
      {(close) => (
        <>
          <ConditionFields condition={condition} known={known} onChange={onChange} />
          <button
            type="button"
            className="word-link mt-3"
            onClick={() => {
              close();
              onChange(undefined);
            }}
          >
            leave this out
          </button>
        </>
      )}
    </PopoverPart>
  );
}

function ConditionFields({
  condition,
  known,
  fixedTag = false,
  onChange,
}: ConditionPartProps & { fixedTag?: boolean }): ReactNode {
  const called = useCalled();
  const words = (value: string) => (condition.tag === "machine" ? called(value) : value);
  const [typed, setTyped] = useState("");
  const way: Way = condition.like !== undefined ? "like" : condition.not ? "not" : "is";
  const values = known.find(({ tag }) => tag === condition.tag)?.values ?? [];
  const chosen = condition.is ?? condition.not ?? [];
  const said = (next: Way, list: readonly string[]): Condition =>
    next === "like" ? { tag: condition.tag, like: condition.like ?? "*" } : { tag: condition.tag, [next]: list };
  const shown = [...new Set([...values, ...chosen])].filter((value) =>
    `${value} ${words(value)}`.toLowerCase().includes(typed.toLowerCase()),
  );
  return (
    <div>
      <p className="mb-2">
        {fixedTag ? (
          "machine"
        ) : (
          <SelectPart
            label="tag"
            value={condition.tag}
            options={known.filter(({ tag }) => tag !== "machine").map(({ tag }) => [tag, tag])}
            onChange={(tag) => onChange({ tag, is: [] })}
          />
        )}{" "}
        <SelectPart
          label="how it is compared"
          value={way}
          options={ways}
          onChange={(next) => onChange(said(next as Way, chosen))}
        />
      </p>
      {way === "like" ? (
        <label>
          <span className="text-quiet">a pattern; * stands for any characters</span>
          <TypedInput
            value={condition.like ?? "*"}
            onType={(like) => onChange({ tag: condition.tag, like })}
            className="figure mt-1 w-full"
          />
        </label>
      ) : (
        <>
          {values.length > manyValues && (
            <input
              aria-label="find a value"
              placeholder="find …"
              value={typed}
              onChange={(event) => setTyped(event.target.value)}
              className="mb-2 w-full"
            />
          )}
          <ul className="max-h-60 overflow-auto">
            {shown.map((value) => (
              <li key={value}>
                <label className="flex cursor-pointer items-center gap-2 py-0.5">
                  <input
                    type="checkbox"
                    className="accent-act"
                    checked={chosen.includes(value)}
                    onChange={(event) =>
                      onChange(
                        said(way, event.target.checked ? [...chosen, value] : chosen.filter((one) => one !== value)),
                      )
                    }
                  />
                  <span className="min-w-0 truncate">{value === "" ? "nothing" : words(value)}</span>
                </label>
              </li>
            ))}
          </ul>
          {shown.length === 0 && <p className="text-quiet">Nothing has that value.</p>}
          <p className="mt-1 text-[12.5px] text-quiet">
            {chosen.length === 0 ? "With none chosen, all are meant." : `${chosen.length} chosen`}
          </p>
        </>
      )}
    </div>
  );
}

/** A condition on machines with what people call them, to be read. */
function withCalledValues(condition: Condition, called: (machine: string) => string): Condition {
  const { tag, is, not } = condition;
  if (tag !== "machine") return condition;
  return { ...condition, ...(is && { is: is.map(called) }), ...(not && { not: not.map(called) }) };
}
