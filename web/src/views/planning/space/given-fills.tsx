import { May } from "../../../shared/people/may.tsx";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { type PlanningSettings, putPlanningSettings } from "../../../../../core/api/energy.ts";
import { call } from "../../../api/client.ts";
import { countersQuery, planningSettingsQuery, spaceQuery } from "../../../api/queries.ts";
import { NumberField } from "../../../ui/number-field.tsx";
import { TypedInput } from "../../../ui/typed-input.tsx";

/** What a person lets count as something that fills: a counter with a limit. */
export function GivenFills(): ReactNode {
  const settings = useQuery(planningSettingsQuery);
  const counters = useQuery(countersQuery).data ?? [];
  const client = useQueryClient();
  const [isAdding, setAdding] = useState(false);
  const [draft, setDraft] = useState({ name: "", counter: "", limit: 0 });
  const save = useMutation({
    mutationFn: (next: PlanningSettings) => call(putPlanningSettings, {}, next),
    onSuccess: (saved) => {
      client.setQueryData(planningSettingsQuery.queryKey, saved);
      void client.invalidateQueries({ queryKey: spaceQuery.queryKey });
      setAdding(false);
    },
  });
  if (!settings.data) return null;
  const { fills } = settings.data;
  const keep = (next: PlanningSettings["fills"]) => save.mutate({ ...settings.data, fills: next });
  return (
    <section aria-label="What else fills" className="not-in-print mt-6 max-w-prose">
      <ul>
        {fills.map((one) => (
          <li key={`${one.name} ${one.counter}`} className="text-[14px]">
            {one.name}: {one.counter}, full at <span className="figure">{one.limit}</span>{" "}
            <May ask={putPlanningSettings}>
              <button type="button" className="word-link" onClick={() => keep(fills.filter((other) => other !== one))}>
                Leave {one.name} out
              </button>
            </May>
          </li>
        ))}
      </ul>
      {isAdding ? (
        <form
          className="leading-8"
          onSubmit={(event) => {
            event.preventDefault();
            keep([...fills, draft]);
          }}
        >
          <TypedInput
            aria-label="its name"
            name={`fills[${fills.length}].name`}
            placeholder="letters waiting"
            value={draft.name}
            className="w-40"
            onType={(name) => setDraft({ ...draft, name })}
          />{" "}
          is what{" "}
          <input
            aria-label="its counter"
            name={`fills[${fills.length}].counter`}
            list="counters-that-fill"
            className="w-64 !py-0"
            value={draft.counter}
            onChange={(event) => setDraft({ ...draft, counter: event.target.value })}
          />
          <datalist id="counters-that-fill">
            {counters.map(({ name }) => (
              <option key={name} value={name} />
            ))}
          </datalist>{" "}
          says, and full at{" "}
          <NumberField
            label="its limit"
            name={`fills[${fills.length}].limit`}
            value={draft.limit || undefined}
            usual="500"
            className="w-24"
            onChange={(limit) => setDraft({ ...draft, limit: limit ?? 0 })}
          />
          .{" "}
          <button
            type="submit"
            className="act"
            disabled={save.isPending || !draft.name || !draft.counter || !(draft.limit > 0)}
          >
            Count it in
          </button>{" "}
          <button type="button" className="act-plain" onClick={() => setAdding(false)}>
            Leave it
          </button>
          {save.error && (
            <span role="alert" className="ml-2 text-urgent">
              {save.error.message}
            </span>
          )}
        </form>
      ) : (
        <May ask={putPlanningSettings}>
          <button type="button" className="word-link" onClick={() => setAdding(true)}>
            Something else fills
          </button>
        </May>
      )}
    </section>
  );
}
