import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { Dashboard } from "../../../../../core/dashboards/dashboard.ts";
import { type Picker, pickerTitle } from "../../../../../core/dashboards/pickers.ts";
import { countersQuery } from "../../../api/queries.ts";
import { PopoverPart } from "../../../sentence/popover-part.tsx";
import { SelectPart } from "../../../sentence/select-part.tsx";
import { TypedInput } from "../../../ui/typed-input.tsx";

const stepTag = " step";
const commonSteps = [15, 60, 300, 3600];
const mostPickers = 20;
const firstTags = ["machine", "site", "role", "environment"];

/**
 * The dashboard's pickers: of which tag, one or several, of all there is or of a list of one's own; each concerns those
 * after it.
 */
export function PickersForm({
  document,
  onChange,
}: {
  document: Dashboard;
  onChange: (document: Dashboard) => void;
}): ReactNode {
  const counters = useQuery(countersQuery).data ?? [];
  const known = [...new Set(counters.flatMap(({ tags }) => tags.map(({ tag }) => tag)))].filter((tag) => tag !== "le");
  const tags = [
    ...firstTags.filter((tag) => known.includes(tag)),
    ...known.filter((tag) => !firstTags.includes(tag)).sort(),
  ];
  const pickers = document.pickers ?? [];
  const set = (next: readonly Picker[]) => onChange({ ...document, pickers: next });
  const put = (at: number, picker: Picker) => set(pickers.map((one, i) => (i === at ? picker : one)));
  const add = (tag: string) =>
    set([
      ...pickers,
      tag === stepTag
        ? { id: freshId("step", pickers), steps: commonSteps, choose: "one" }
        : { id: freshId(tag, pickers), tag, choose: "several" },
    ]);
  const swap = (at: number) =>
    set(
      pickers.map((one, i) => (i === at - 1 ? (pickers[at] as Picker) : i === at ? (pickers[at - 1] as Picker) : one)),
    );
  return (
    <fieldset className="mt-2" data-pickers-form>
      <legend className="text-[13px] text-quiet">Pickers: each concerns those after it</legend>
      {pickers.map((picker, i) => (
        <p key={picker.id} className="leading-8">
          {picker.tag === undefined ? (
            <>
              length of a step, among{" "}
              <TypedInput
                aria-label={`steps of picker ${i + 1}, seconds`}
                value={(picker.steps ?? []).join(", ")}
                onType={(text) => {
                  const steps = numbers(text);
                  if (steps.length > 0) put(i, { ...picker, steps });
                }}
                className="figure w-40 !py-0"
              />{" "}
              s
            </>
          ) : (
            <>
              <strong className="font-normal underline decoration-hairline">{picker.tag}</strong>,{" "}
              <SelectPart
                label={`how many of ${picker.tag} are picked`}
                value={picker.choose}
                options={[
                  ["several", "all or several"],
                  ["one", "one"],
                ]}
                onChange={(choose) => put(i, { ...picker, choose: choose as Picker["choose"] })}
              />
              , of{" "}
              <TypedInput
                aria-label={`values of ${picker.tag}, with commas`}
                placeholder="all there is"
                value={(picker.values ?? []).join(", ")}
                onType={(text) => put(i, withValues(picker, text))}
                className="w-48 !py-0"
              />
            </>
          )}
          , called{" "}
          <TypedInput
            aria-label={`title of picker ${i + 1}`}
            placeholder={pickerTitle({ ...picker, title: "" })}
            value={picker.title ?? ""}
            maxLength={200}
            onType={(title) => put(i, { ...picker, title })}
            className="w-32 !py-0"
          />
          {i > 0 && (
            <button
              type="button"
              className="word-link ml-3 text-[13px]"
              aria-label={`move ${pickerTitle(picker)} before the one before it`}
              onClick={() => swap(i)}
            >
              before
            </button>
          )}
          <button
            type="button"
            className="word-link ml-3 text-[13px]"
            aria-label={`leave out the picker ${pickerTitle(picker)}`}
            onClick={() => set(pickers.filter((_, k) => k !== i))}
          >
            leave out
          </button>
        </p>
      ))}
      {pickers.length < mostPickers && (
        <PopoverPart label="add a picker" words="add a picker …" quiet>
          {(close) => (
            <ul>
              {[...tags, stepTag].map((tag) => (
                <li key={tag}>
                  <button
                    type="button"
                    className="w-full truncate py-0.5 text-left hover:text-act"
                    onClick={() => {
                      add(tag);
                      close();
                    }}
                  >
                    {tag === stepTag ? "the length of a step" : tag}
                  </button>
                </li>
              ))}
            </ul>
          )}
        </PopoverPart>
      )}
    </fieldset>
  );
}

function withValues({ values: _, ...picker }: Picker, text: string): Picker {
  const values = text
    .split(",")
    .map((value) => value.trim())
    .filter(Boolean);
  return values.length === 0 ? picker : { ...picker, values };
}

const numbers = (text: string) =>
  text
    .split(",")
    .map((part) => Number(part.trim()))
    .filter((n) => Number.isInteger(n) && n >= 1 && n <= 31 * 86_400);

function freshId(tag: string, pickers: readonly Picker[]): string {
  const plain = tag.replaceAll(/[^\w-]/g, "-").slice(0, 50) || "picker";
  for (let n = 1; ; n++) {
    const id = n === 1 ? plain : `${plain}-${n}`;
    if (!pickers.some((one) => one.id === id)) return id;
  }
}
