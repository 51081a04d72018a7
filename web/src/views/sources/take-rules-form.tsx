import { NumberField } from "../../ui/number-field.tsx";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useEffect, useState } from "react";
import { changeSource, previewRules, type SourceView } from "../../../../core/api/sources.ts";
import type { TakeRule } from "../../../../core/sources/take-rules.ts";
import { call } from "../../api/client.ts";
import { settingsOf } from "./settings-of.ts";
import { TriedTable } from "../../shared/sources/tried-table.tsx";

const doings = ["leave", "take", "rename", "scale", "tag", "rename tag", "drop tag"] as const;
const doingWords: Readonly<Record<TakeRule["do"], string>> = {
  leave: "leave out",
  take: "take",
  rename: "rename",
  scale: "multiply",
  tag: "tag",
  "rename tag": "rename a tag of",
  "drop tag": "drop a tag of",
};
const previewAfterMs = 300;

/**
 * The rules of a source as sentences, with what they make of the text received last beside them while they are edited.
 */
export function TakeRulesForm({ source }: { source: SourceView }): ReactNode {
  const queries = useQueryClient();
  const [rules, setRules] = useState<readonly TakeRule[]>(source.take);
  const changed = JSON.stringify(rules) !== JSON.stringify(source.take);
  const preview = useMutation({
    mutationFn: (take: readonly TakeRule[]) => call(previewRules, { id: source.id }, { take, tags: source.tags }),
  });
  const save = useMutation({
    mutationFn: () => call(changeSource, { id: source.id }, { ...settingsOf(source), take: rules }),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["sources"] }),
  });
  const { mutate } = preview;
  useEffect(() => {
    if (!source.hasRaw) return;
    const timer = setTimeout(() => mutate(rules), previewAfterMs);
    return () => clearTimeout(timer);
  }, [rules, source.hasRaw, mutate]);
  const change = (at: number, rule: TakeRule) => setRules(rules.map((one, i) => (i === at ? rule : one)));
  const move = (at: number, by: number) => {
    const next = [...rules];
    const [one] = next.splice(at, 1);
    if (one) next.splice(at + by, 0, one);
    setRules(next);
  };
  return (
    <section aria-labelledby="take-title" className="border-t border-hairline py-4">
      <h2 id="take-title" className="font-bold">
        What to take
      </h2>
      <p className="max-w-prose text-quiet">
        Rules run from top to bottom, each on what those before it made; * stands for any characters. Without rules
        everything is taken.
      </p>
      <ol className="flex flex-col gap-2 py-3">
        {rules.map((rule, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: rules have no names of their own
          <li key={i} className="flex flex-wrap items-center gap-2">
            <span className="figure w-6 text-right text-quiet">{i + 1}</span>
            <RuleFields rule={rule} onChange={(next) => change(i, next)} />
            <span className="flex gap-3 text-[13px]">
              {i > 0 && (
                <button type="button" className="word-link" onClick={() => move(i, -1)}>
                  up
                </button>
              )}
              {i < rules.length - 1 && (
                <button type="button" className="word-link" onClick={() => move(i, 1)}>
                  down
                </button>
              )}
              <button type="button" className="word-link" onClick={() => setRules(rules.filter((_, k) => k !== i))}>
                remove
              </button>
            </span>
          </li>
        ))}
      </ol>
      <p className="flex gap-3">
        <button type="button" className="act-plain" onClick={() => setRules([...rules, { do: "leave", counter: "*" }])}>
          Add a rule
        </button>
        {changed && (
          <button type="button" className="act" disabled={save.isPending} onClick={() => save.mutate()}>
            {save.isPending ? "saving …" : "Take it so"}
          </button>
        )}
        {changed && (
          <button type="button" className="act-plain" onClick={() => setRules(source.take)}>
            Leave it as it was
          </button>
        )}
      </p>
      {save.error && (
        <p role="alert" className="py-2 text-urgent">
          {save.error.message}
        </p>
      )}
      <div className="pt-4">
        {source.hasRaw ? (
          preview.data && <TriedTable tried={preview.data} />
        ) : (
          <p className="text-quiet">What the rules make of it is shown here as soon as the source has sent a text.</p>
        )}
        {preview.error && (
          <p role="alert" className="py-2 text-urgent">
            {preview.error.message}
          </p>
        )}
      </div>
    </section>
  );
}

function RuleFields({ rule, onChange }: { rule: TakeRule; onChange: (rule: TakeRule) => void }): ReactNode {
  const [tag = "", pattern = ""] = Object.entries(rule.where ?? {})[0] ?? [];
  const text = (label: string, value: string, set: (value: string) => void, width = "w-56") => (
    <input
      type="text"
      aria-label={label}
      value={value}
      onChange={(event) => set(event.target.value)}
      className={width}
    />
  );
  const where = (name: string, value: string): TakeRule => {
    const { where: _, ...rest } = rule;
    return name === "" && value === "" ? (rest as TakeRule) : ({ ...rest, where: { [name]: value } } as TakeRule);
  };
  return (
    <>
      <select
        aria-label="what to do"
        value={rule.do}
        onChange={(event) => onChange(blank(event.target.value as TakeRule["do"], rule))}
      >
        {doings.map((doing) => (
          <option key={doing} value={doing}>
            {doingWords[doing]}
          </option>
        ))}
      </select>
      {text("counters by name", rule.counter, (counter) => onChange({ ...rule, counter }))}
      <span className="text-quiet">where</span>
      {text("a tag", tag, (name) => onChange(where(name, pattern)), "w-28")}
      <span className="text-quiet">is</span>
      {text("its value", pattern, (value) => onChange(where(tag, value)), "w-28")}
      {rule.do === "rename" && (
        <>
          <span className="text-quiet">to</span>
          {text("new name", rule.to, (to) => onChange({ ...rule, to }))}
        </>
      )}
      {rule.do === "tag" && (
        <>
          <span className="text-quiet">with</span>
          {text("tag to set", rule.tag, (name) => onChange({ ...rule, tag: name }), "w-28")}
          <span className="text-quiet">as</span>
          {text("value to set", rule.value, (value) => onChange({ ...rule, value }), "w-32")}
        </>
      )}
      {(rule.do === "rename tag" || rule.do === "drop tag") &&
        text("which tag", rule.tag, (name) => onChange({ ...rule, tag: name }), "w-28")}
      {rule.do === "rename tag" && (
        <>
          <span className="text-quiet">to</span>
          {text("new name of the tag", rule.to, (to) => onChange({ ...rule, to }), "w-28")}
        </>
      )}
      {rule.do === "scale" && (
        <>
          <span className="text-quiet">by</span>
          <NumberField
            label="factor"
            required
            value={rule.factor}
            usual="1"
            className="w-28 text-right"
            onChange={(factor = 1) => onChange({ ...rule, factor })}
          />
          <span className="text-quiet">which gives</span>
          {text("unit of the result (UCUM)", rule.unit, (unit) => onChange({ ...rule, unit }), "w-20")}
        </>
      )}
    </>
  );
}

/** A rule of another kind for the same series. */
function blank(doing: TakeRule["do"], { counter, where }: TakeRule): TakeRule {
  const which = { counter, ...(where && { where }) };
  switch (doing) {
    case "take":
    case "leave":
      return { do: doing, ...which };
    case "rename":
      return { do: doing, ...which, to: counter };
    case "tag":
      return { do: doing, ...which, tag: "site", value: "studio" };
    case "rename tag":
      return { do: doing, ...which, tag: "", to: "" };
    case "drop tag":
      return { do: doing, ...which, tag: "" };
    case "scale":
      return { do: doing, ...which, factor: 1, unit: "1" };
  }
}
