import { useCalled } from "../../api/use-called.ts";
import { type ReactNode, useState } from "react";
import { type Picker, pickerTitle, pickWords } from "../../../../core/dashboards/pickers.ts";
import { stepWords } from "../../../../core/reading/sentence-words.ts";
import { PopoverPart } from "../../sentence/popover-part.tsx";
import { SelectPart } from "../../sentence/select-part.tsx";
import { usePicks } from "./picks-provider.tsx";

const manyValues = 12;

/** The pickers of a dashboard, in words: each opens what there is now, within those before it. */
export function PickersBar(): ReactNode {
  const called = useCalled();
  const { pickers, choices, picks, pick, isKnown } = usePicks();
  if (pickers.length === 0) return null;
  return (
    <p className="mb-3 flex flex-wrap gap-x-5 gap-y-1" data-pickers>
      {pickers.map((picker) => {
        const all = choices(picker);
        const picked = picks[picker.id] ?? [];
        const title = pickerTitle(picker);
        return (
          <span key={picker.id} data-picker={picker.id}>
            <span className="text-quiet">{title} </span>
            {picker.tag === undefined ? (
              <SelectPart
                label={title}
                value={picked[0] ?? ""}
                options={[
                  ["", "as it suits"],
                  ...all.map((value): readonly [string, string] => [value, `every ${stepWords(Number(value))}`]),
                ]}
                onChange={(value) => pick(picker, value === "" ? [] : [value])}
              />
            ) : (
              <PopoverPart
                label={title}
                words={
                  isKnown ? pickWords(picker, picker.tag === "machine" ? picked.map(called) : picked, all.length) : "…"
                }
              >
                {(close) => (
                  <Choices
                    picker={picker}
                    all={all}
                    picked={picked}
                    onPick={(values) => pick(picker, values)}
                    onDone={close}
                  />
                )}
              </PopoverPart>
            )}
          </span>
        );
      })}
    </p>
  );
}

interface ChoicesProps {
  readonly picker: Picker;
  readonly all: readonly string[];
  readonly picked: readonly string[];
  readonly onPick: (values: readonly string[]) => void;
  readonly onDone: () => void;
}

function Choices({ picker, all, picked, onPick, onDone }: ChoicesProps): ReactNode {
  const [typed, setTyped] = useState("");
  const called = useCalled();
  const words = (value: string) => (picker.tag === "machine" ? called(value) : value);
  const shown = all.filter((value) => `${value} ${words(value)}`.toLowerCase().includes(typed.trim().toLowerCase()));
  const isOne = picker.choose === "one";
  return (
    <>
      {all.length > manyValues && (
        <input
          aria-label="find a value"
          placeholder="find …"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          className="mb-2 w-full"
        />
      )}
      {!isOne && (
        <p className="mb-1">
          <button type="button" className="word-link" disabled={picked.length === 0} onClick={() => onPick([])}>
            all
          </button>
        </p>
      )}
      {all.length === 0 && <p className="text-quiet">Nothing here has the tag {picker.tag} now.</p>}
      <ul className="max-h-72 overflow-auto">
        {shown.map((value) => (
          <li key={value}>
            <label className="flex cursor-pointer items-center gap-2 py-0.5">
              <input
                type={isOne ? "radio" : "checkbox"}
                name={picker.id}
                className="accent-act"
                checked={picked.includes(value)}
                onChange={(event) => {
                  if (isOne) {
                    onPick([value]);
                    onDone();
                  } else
                    onPick(
                      event.target.checked
                        ? all.filter((one) => one === value || picked.includes(one))
                        : picked.filter((one) => one !== value),
                    );
                }}
              />
              <span className="min-w-0 truncate">{words(value) || <span className="text-quiet">nothing</span>}</span>
            </label>
          </li>
        ))}
      </ul>
      {shown.length === 0 && all.length > 0 && <p className="text-quiet">None has these letters.</p>}
    </>
  );
}
