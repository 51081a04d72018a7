import type { ReactNode } from "react";
import type { MachineView } from "../../../../core/api/machines.ts";
import { ConditionPart, type TagValues } from "../../sentence/condition-part.tsx";
import { PopoverPart } from "../../sentence/popover-part.tsx";
import { SelectPart } from "../../sentence/select-part.tsx";
import { tagsOfMachine } from "./arrange-ledger.ts";
import { type LedgerColumn, ledgerColumns, defaultColumns } from "./ledger-columns.ts";
import type { LedgerChoice } from "./ledger-choice.ts";

interface LedgerSentenceProps {
  readonly machines: readonly MachineView[];
  readonly choice: LedgerChoice;
  /** Columns of which anything is gathered here. */
  readonly present: (column: LedgerColumn) => boolean;
  readonly onChange: (change: Partial<LedgerChoice>) => void;
}

/** What stands in the ledger, as a sentence: which machines, how they stand together, which columns. */
export function LedgerSentence({ machines, choice, present, onChange }: LedgerSentenceProps): ReactNode {
  const known = tagValues(machines);
  const free = known.find(({ tag }) => !choice.where.some((one) => one.tag === tag));
  const groups = known.filter(({ tag }) => tag !== "machine");
  const titles = choice.columns.map(
    (id) => ledgerColumns.find((column) => column.id === id)?.title.toLowerCase() ?? id,
  );
  return (
    <p className="not-in-print py-1.5 text-[13.5px] leading-7" data-ledger-sentence>
      Every machine{" "}
      {choice.where.map((condition, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a condition is its place in the sentence
        <span key={i}>
          {i === 0 ? "where" : "and"}{" "}
          <ConditionPart
            condition={condition}
            known={[...known]}
            onChange={(changed) =>
              onChange({ where: choice.where.flatMap((one, k) => (k === i ? (changed ? [changed] : []) : [one])) })
            }
          />{" "}
        </span>
      ))}
      {free && (
        <button
          type="button"
          className="word-link text-[13px]"
          onClick={() => onChange({ where: [...choice.where, { tag: free.tag, is: [] }] })}
        >
          {choice.where.length === 0 ? "where …" : "and …"}
        </button>
      )}
      ,{" "}
      <SelectPart
        label="group by"
        value={choice.group}
        options={[
          ["", "in one list"],
          ...groups.map(({ tag }): readonly [string, string] => [tag, `grouped by ${tag}`]),
        ]}
        onChange={(group) => onChange({ group })}
      />
      ,{" "}
      <SelectPart
        label="sorted by"
        value={choice.sort}
        options={[
          ["name", "by name"],
          ...choice.columns.map((id): readonly [string, string] => [
            `-${id}`,
            `by ${ledgerColumns.find((column) => column.id === id)?.title.toLowerCase() ?? id}, highest first`,
          ]),
          ...(choice.sort === "name" || choice.columns.some((id) => choice.sort === `-${id}`)
            ? []
            : [[choice.sort, "otherwise"] as const]),
        ]}
        onChange={(sort) => onChange({ sort })}
      />
      , with{" "}
      <PopoverPart label="columns" words={titles.length > 6 ? `${titles.length} columns` : titles.join(", ")}>
        {() => <ColumnChoice chosen={choice.columns} present={present} onChange={(columns) => onChange({ columns })} />}
      </PopoverPart>
    </p>
  );
}

function ColumnChoice({
  chosen,
  present,
  onChange,
}: {
  chosen: readonly string[];
  present: (column: LedgerColumn) => boolean;
  onChange: (columns: readonly string[]) => void;
}): ReactNode {
  const others = ledgerColumns.filter(({ id }) => !chosen.includes(id));
  const titleOf = (id: string) => ledgerColumns.find((column) => column.id === id)?.title ?? id;
  const moved = (at: number, by: number) => {
    const next = chosen.filter((_, i) => i !== at);
    next.splice(at + by, 0, chosen[at] as string);
    onChange(next);
  };
  return (
    <fieldset>
      <legend className="text-quiet">Columns, from left to right</legend>
      {chosen.map((id, i) => (
        <div key={id} className="flex items-center gap-2 py-0.5">
          <label className="flex grow cursor-pointer items-center gap-2">
            <input
              type="checkbox"
              className="accent-act"
              checked
              disabled={chosen.length === 1}
              onChange={() => onChange(chosen.filter((one) => one !== id))}
            />
            {titleOf(id)}
          </label>
          <button
            type="button"
            className="word-link text-[13px]"
            disabled={i === 0}
            aria-label={`${titleOf(id)} to the left`}
            onClick={() => moved(i, -1)}
          >
            left
          </button>
          <button
            type="button"
            className="word-link text-[13px]"
            disabled={i === chosen.length - 1}
            aria-label={`${titleOf(id)} to the right`}
            onClick={() => moved(i, 1)}
          >
            right
          </button>
        </div>
      ))}
      <div className="mt-2 border-t border-hairline pt-2">
        {others.map((column) => (
          <label
            key={column.id}
            className={`flex cursor-pointer items-center gap-2 py-0.5 ${present(column) ? "" : "text-quiet"}`}
          >
            <input
              type="checkbox"
              className="accent-act"
              checked={false}
              onChange={() => onChange([...chosen, column.id])}
            />
            {column.title}
            {!present(column) && <span className="text-[12.5px]">· nothing reports it</span>}
          </label>
        ))}
      </div>
      <button type="button" className="word-link mt-2 text-[13px]" onClick={() => onChange(defaultColumns)}>
        the usual ones
      </button>
    </fieldset>
  );
}

function tagValues(machines: readonly MachineView[]): TagValues {
  const found = new Map<string, Set<string>>();
  for (const machine of machines) {
    for (const [tag, value] of Object.entries(tagsOfMachine(machine))) {
      const values = found.get(tag) ?? new Set();
      found.set(tag, values.add(value));
    }
  }
  return [...found]
    .sort(([a], [b]) => rank(a) - rank(b) || a.localeCompare(b))
    .map(([tag, values]) => ({ tag, values: [...values].sort((a, b) => a.localeCompare(b, "en", { numeric: true })) }));
}

/** Tags of people first, then what every machine has. */
const rank = (tag: string) => (tag === "machine" ? 2 : tag === "state" ? 1 : 0);
