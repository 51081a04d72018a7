import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { type TagValue, tagsOfValues, tagValuesOf, withPart } from "../../../../core/people/limits.ts";
import type { Limits } from "../../../../core/people/roles.ts";
import { dashboardsQuery, machinesQuery } from "../../api/queries.ts";

interface LimitsFieldsProps {
  /** Null where they see everything. */
  readonly value: Limits | null;
  readonly change: (value: Limits | null) => void;
}

/** Whether a viewer sees everything, or which machines, tags and dashboards they are held to. */
export function LimitsFields({ value, change }: LimitsFieldsProps): ReactNode {
  return (
    <fieldset className="mt-3 border-l-2 border-hairline pl-4">
      <legend className="sr-only">What they see</legend>
      <label className="flex items-baseline gap-2">
        <input
          type="checkbox"
          className="accent-act"
          checked={value !== null}
          onChange={({ target }) => change(target.checked ? {} : null)}
        />
        <span>
          sees a part of it:{" "}
          <span className="text-quiet">machines, or what stands on dashboards; without this, everything</span>
        </span>
      </label>
      {value && <PartsFields value={value} change={change} />}
    </fieldset>
  );
}

const keyOf = ({ tag, value }: TagValue): string => JSON.stringify([tag, value]);

function PartsFields({ value, change }: { value: Limits; change: (value: Limits) => void }): ReactNode {
  const machines = useQuery(machinesQuery).data ?? [];
  const dashboards = useQuery(dashboardsQuery).data ?? [];
  const chosenValues = tagValuesOf(value);
  // What is chosen and no longer there stays among them, so that it can be taken off.
  const tagValues = new Map(
    [
      ...machines.flatMap(({ tags }) => Object.entries(tags).map(([tag, one]) => ({ tag, value: one }))),
      ...chosenValues,
    ]
      .sort((a, b) => a.tag.localeCompare(b.tag) || a.value.localeCompare(b.value))
      .map((one) => [keyOf(one), one] as const),
  );
  return (
    <div className="mt-3 flex flex-wrap gap-x-10 gap-y-3">
      <Choices
        label="Machines"
        all={machines.map(({ name }) => ({ key: name, words: name }))}
        chosen={value.machines ?? []}
        change={(chosen) => change(withPart(value, "machines", chosen))}
      />
      <Choices
        label="Machines with"
        all={[...tagValues].map(([key, one]) => ({ key, words: `${one.tag} ${one.value}` }))}
        chosen={chosenValues.map(keyOf)}
        change={(chosen) =>
          change(withPart(value, "tags", tagsOfValues(chosen.flatMap((key) => tagValues.get(key) ?? []))))
        }
      />
      <Choices
        label="Dashboards"
        all={dashboards.map(({ id, title }) => ({ key: id, words: title }))}
        chosen={value.dashboards ?? []}
        change={(chosen) => change(withPart(value, "dashboards", chosen))}
      />
    </div>
  );
}

interface ChoicesProps<Key> {
  readonly label: string;
  readonly all: readonly { readonly key: Key; readonly words: string }[];
  readonly chosen: readonly Key[];
  readonly change: (chosen: readonly Key[]) => void;
}

function Choices<Key extends string | number>({ label, all, chosen, change }: ChoicesProps<Key>): ReactNode {
  const gone = chosen.filter((key) => !all.some((one) => one.key === key)).map((key) => ({ key, words: String(key) }));
  return (
    <fieldset>
      <legend className="font-bold">{label}</legend>
      <div className="mt-1 max-h-80 overflow-y-auto pr-3">
        {all.length + gone.length === 0 && <p className="text-quiet">There is none.</p>}
        {[...all, ...gone].map(({ key, words }) => (
          <label key={key} className="flex items-baseline gap-2">
            <input
              type="checkbox"
              className="accent-act"
              checked={chosen.includes(key)}
              onChange={({ target }) => change(target.checked ? [...chosen, key] : chosen.filter((one) => one !== key))}
            />
            <span className="break-words">{words}</span>
          </label>
        ))}
      </div>
    </fieldset>
  );
}
