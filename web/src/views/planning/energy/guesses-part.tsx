import { Called } from "../../../shared/machines/called.tsx";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { type PlanningSettings, putPlanningSettings } from "../../../../../core/api/energy.ts";
import { call } from "../../../api/client.ts";
import { machinesQuery, planningSettingsQuery } from "../../../api/queries.ts";
import { NumberField } from "../../../ui/number-field.tsx";

/** What machines without a meter draw, as a person says: an estimate comes of it, and stays one. */
export function GuessesPart({ measured }: { measured: readonly string[] }): ReactNode {
  const settings = useQuery(planningSettingsQuery);
  const machines = useQuery(machinesQuery).data ?? [];
  const client = useQueryClient();
  const save = useMutation({
    mutationFn: (next: PlanningSettings) => call(putPlanningSettings, {}, next),
    onSuccess: (saved) => {
      client.setQueryData(planningSettingsQuery.queryKey, saved);
      void client.invalidateQueries({ queryKey: ["energy"] });
    },
  });
  const without = machines.map(({ name }) => name).filter((name) => !measured.includes(name));
  if (!settings.data || without.length === 0) return null;
  const { guesses } = settings.data;
  const set = (machine: string, change: { idleWatts?: number | undefined; fullWatts?: number | undefined }) => {
    const { [machine]: before, ...others } = guesses;
    const next = { ...before, ...change };
    const isCleared =
      ("idleWatts" in change && change.idleWatts === undefined) ||
      ("fullWatts" in change && change.fullWatts === undefined);
    const idleWatts = next.idleWatts ?? 0;
    const guess = { idleWatts, fullWatts: Math.max(next.fullWatts ?? idleWatts, idleWatts) };
    save.mutate({ ...settings.data, guesses: isCleared ? others : { ...others, [machine]: guess } });
  };
  return (
    <section aria-labelledby="guesses-title">
      <h2 id="guesses-title" className="border-b border-hairline pb-1 font-bold">
        Machines without a meter
      </h2>
      <p className="max-w-prose py-1 text-[13.5px] text-quiet">
        Say what one draws idle and at full load: what it used is estimated by how busy its processors were, told apart,
        and never added to what is measured.
      </p>
      <ul>
        {without.map((machine) => (
          <li key={machine} className="flex flex-wrap items-baseline gap-x-2 border-b border-hairline py-1">
            <span className="w-32 truncate font-semibold" title={machine}>
              <Called machine={machine} />
            </span>
            <NumberField
              label={`idle power of ${machine}`}
              value={guesses[machine]?.idleWatts}
              usual="?"
              className="w-16"
              onChange={(idleWatts) => set(machine, { idleWatts })}
            />{" "}
            W idle,
            <NumberField
              label={`full power of ${machine}`}
              value={guesses[machine]?.fullWatts}
              usual="?"
              className="w-16"
              onChange={(fullWatts) => set(machine, { fullWatts })}
            />{" "}
            W full
          </li>
        ))}
      </ul>
      {save.error && (
        <p role="alert" className="mt-2 text-urgent">
          {save.error.message}
        </p>
      )}
    </section>
  );
}
