import type { ReactNode } from "react";
import type { ContainerRule } from "../../../../core/sources/container-choice.ts";

/** Which containers are gathered: the last rule that fits decides. */
export function ContainerRulesForm({
  rules,
  onChange,
}: {
  rules: readonly ContainerRule[];
  onChange: (rules: readonly ContainerRule[]) => void;
}): ReactNode {
  const change = (index: number, more: Partial<ContainerRule>) =>
    onChange(rules.map((rule, i) => (i === index ? { ...rule, ...more } : rule)));
  return (
    <fieldset className="flex flex-col gap-2">
      <legend className="text-quiet">
        Containers: {rules.length === 0 ? "all of them" : "all, except as these rules say; the last that fits decides"}
      </legend>
      {rules.map((rule, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: rules have no name of their own, and their order is what they are
        <p key={i} className="flex flex-wrap items-center gap-2">
          <select
            aria-label="take or leave"
            value={rule.do}
            onChange={(event) => change(i, { do: event.target.value as ContainerRule["do"] })}
          >
            <option value="leave">leave</option>
            <option value="take">take</option>
          </select>
          those whose{" "}
          <select
            aria-label="by what"
            value={rule.by}
            onChange={(event) => change(i, { by: event.target.value as ContainerRule["by"] })}
          >
            <option value="name">name</option>
            <option value="image">image</option>
            <option value="label">label</option>
          </select>{" "}
          is like{" "}
          <input
            aria-label="like"
            required
            value={rule.like}
            placeholder={rule.by === "label" ? "tier=back" : "*"}
            onChange={(event) => change(i, { like: event.target.value })}
            className="w-52"
          />
          <button
            type="button"
            className="word-link"
            aria-label={`Remove rule ${i + 1}`}
            onClick={() => onChange(rules.filter((_, j) => j !== i))}
          >
            Remove
          </button>
        </p>
      ))}
      <button
        type="button"
        className="word-link self-start"
        onClick={() => onChange([...rules, { do: "leave", by: "name", like: "" }])}
      >
        Add a rule for containers
      </button>
    </fieldset>
  );
}
