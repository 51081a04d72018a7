import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import type { CounterView } from "../../../../../core/api/counters.ts";
import { type PlanningSettings, putPlanningSettings } from "../../../../../core/api/energy.ts";
import { meteredUnit } from "../../../../../core/energy/meters.ts";
import { call } from "../../../api/client.ts";
import { countersQuery, planningSettingsQuery } from "../../../api/queries.ts";
import { SelectPart } from "../../../sentence/select-part.tsx";

/** Counters under names of their own that measure power or energy: a page's, a script's, a variable picked over SNMP. */
export function NamedMeters(): ReactNode {
  const settings = useQuery(planningSettingsQuery);
  const counters = useQuery(countersQuery).data ?? [];
  const client = useQueryClient();
  const [draft, setDraft] = useState<{ readonly counter: string; readonly outlets: string } | null>(null);
  const save = useMutation({
    mutationFn: (next: PlanningSettings) => call(putPlanningSettings, {}, next),
    onSuccess: (saved) => {
      client.setQueryData(planningSettingsQuery.queryKey, saved);
      void client.invalidateQueries({ queryKey: ["energy"] });
      setDraft(null);
    },
  });
  if (!settings.data) return null;
  const { meters } = settings.data;
  const keep = (next: PlanningSettings["meters"]) => save.mutate({ ...settings.data, meters: next });
  const offered = counters.filter(
    (one) => isMeter(one) && !/^(hw|nubrel)\./.test(one.name) && !meters.some(({ counter }) => counter === one.name),
  );
  const chosen = offered.find(({ name }) => name === draft?.counter);
  return (
    <section aria-labelledby="meters-title">
      <h2 id="meters-title" className="border-b border-hairline pb-1 font-bold">
        Counters that measure what something draws
      </h2>
      <p className="max-w-prose py-1 text-[13.5px] text-quiet">
        Counters of power and energy with names of their own, in watts, joules or watt-hours, count once somebody says
        so. What Nubrel knows itself counts already.
      </p>
      <ul>
        {meters.map((one) => (
          <li key={one.counter} className="border-b border-hairline py-1 break-words">
            {one.counter} measures {one.outlets ? `each outlet, by its tag ${one.outlets}` : "its machine as a whole"}{" "}
            <button
              type="button"
              className="word-link"
              aria-label={`Leave ${one.counter} out`}
              onClick={() => keep(meters.filter((other) => other !== one))}
            >
              leave it out
            </button>
          </li>
        ))}
      </ul>
      {draft ? (
        <form
          className="leading-8"
          onSubmit={(event) => {
            event.preventDefault();
            keep([...meters, { counter: draft.counter, ...(draft.outlets && { outlets: draft.outlets }) }]);
          }}
        >
          <SelectPart
            label="the counter"
            value={draft.counter}
            options={[["", "choose a counter"], ...offered.map(({ name }): [string, string] => [name, name])]}
            onChange={(counter) => setDraft({ counter, outlets: "" })}
          />{" "}
          measures{" "}
          <SelectPart
            label="what it measures"
            value={draft.outlets}
            options={[
              ["", "its machine as a whole"],
              ...(chosen?.tags ?? [])
                .filter(({ tag }) => tag !== "machine")
                .map(({ tag }): [string, string] => [tag, `each outlet, by its tag ${tag}`]),
            ]}
            onChange={(outlets) => setDraft({ ...draft, outlets })}
          />
          .{" "}
          <button type="submit" className="act" disabled={save.isPending || !chosen}>
            Count it in
          </button>{" "}
          <button type="button" className="act-plain" onClick={() => setDraft(null)}>
            Leave it
          </button>
        </form>
      ) : offered.length > 0 ? (
        <button type="button" className="word-link" onClick={() => setDraft({ counter: "", outlets: "" })}>
          Another counter measures
        </button>
      ) : (
        <p className="text-[13.5px] text-quiet">No other counter is in such a unit.</p>
      )}
      {save.error && (
        <p role="alert" className="mt-2 text-urgent">
          {save.error.message}
        </p>
      )}
    </section>
  );
}

const isMeter = ({ unit, kind }: CounterView): boolean => meteredUnit(unit, kind) !== undefined;
