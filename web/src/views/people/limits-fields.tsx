import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useId } from "react";
import type { Limits } from "../../../../core/people/roles.ts";
import { dashboardsQuery, machinesQuery } from "../../api/queries.ts";

/** What a viewer is held to, as it is chosen: nothing of it is all. */
export interface LimitsChoice {
  readonly machines: readonly string[];
  readonly dashboards: readonly number[];
  /** "site=quay mast, rack=2": tags and the values that they may have. */
  readonly tags: string;
}

export const allSeen: LimitsChoice = { machines: [], dashboards: [], tags: "" };

/** Tags as they are typed. */
const tagsOf = (text: string) =>
  text
    .split(",")
    .map((part) => part.split("="))
    .flatMap(([tag = "", values = ""]) => {
      const is = values.trim().split(/\s+/).filter(Boolean);
      return tag.trim() === "" || is.length === 0 ? [] : [{ tag: tag.trim(), is }];
    });

/** The limits of a choice; null where nothing is held back. */
export function limitsOf({ machines, dashboards, tags: text }: LimitsChoice): Limits | null {
  const tags = tagsOf(text);
  if (machines.length === 0 && dashboards.length === 0 && tags.length === 0) return null;
  return {
    ...(machines.length > 0 && { machines }),
    ...(tags.length > 0 && { tags }),
    ...(dashboards.length > 0 && { dashboards }),
  };
}

export const choiceOf = (limits: Limits | null): LimitsChoice => ({
  machines: limits?.machines ?? [],
  dashboards: limits?.dashboards ?? [],
  tags: (limits?.tags ?? []).map(({ tag, is }) => `${tag}=${is.join(" ")}`).join(", "),
});

interface LimitsFieldsProps {
  readonly value: LimitsChoice;
  readonly change: (value: LimitsChoice) => void;
}

/** Which machines, tags and dashboards a viewer is held to. */
export function LimitsFields({ value, change }: LimitsFieldsProps): ReactNode {
  const id = useId();
  const machines = useQuery(machinesQuery).data ?? [];
  const dashboards = useQuery(dashboardsQuery).data ?? [];
  return (
    <fieldset className="mt-3 border-l-2 border-hairline pl-4">
      <legend className="sr-only">What they see</legend>
      <p className="text-quiet">
        With nothing chosen they see everything. With machines or tags they see those machines; with dashboards alone,
        what stands on them.
      </p>
      <div className="mt-2 flex flex-wrap gap-x-10 gap-y-3">
        <Choices
          label="Machines"
          all={machines.map(({ name }) => ({ key: name, words: name }))}
          chosen={value.machines}
          change={(chosen) => change({ ...value, machines: chosen })}
        />
        <Choices
          label="Dashboards"
          all={dashboards.map((one) => ({ key: one.id, words: one.title }))}
          chosen={value.dashboards}
          change={(chosen) => change({ ...value, dashboards: chosen })}
        />
        <div>
          <label htmlFor={id} className="block font-bold">
            Machines by tag
          </label>
          <input
            id={id}
            value={value.tags}
            placeholder="site=quay mast"
            onChange={(event) => change({ ...value, tags: event.target.value })}
            className="mt-1 w-52"
          />
        </div>
      </div>
    </fieldset>
  );
}

interface ChoicesProps<Key> {
  readonly label: string;
  readonly all: readonly { readonly key: Key; readonly words: string }[];
  readonly chosen: readonly Key[];
  readonly change: (chosen: readonly Key[]) => void;
}

function Choices<Key extends string | number>({ label, all, chosen, change }: ChoicesProps<Key>): ReactNode {
  // What is chosen and no longer there stays among them, so that it can be taken off.
  const missing = chosen
    .filter((key) => !all.some((one) => one.key === key))
    .map((key) => ({ key, words: String(key) }));
  return (
    <fieldset>
      <legend className="font-bold">{label}</legend>
      <div className="mt-1 max-h-48 overflow-y-auto pr-3">
        {all.length + missing.length === 0 && <p className="text-quiet">There is none.</p>}
        {[...all, ...missing].map(({ key, words }) => (
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
