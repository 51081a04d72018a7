import { Changeable } from "../../../shared/people/changeable.tsx";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { type PlanningSettings, putPlanningSettings } from "../../../../../core/api/energy.ts";
import { call } from "../../../api/client.ts";
import { planningSettingsQuery } from "../../../api/queries.ts";
import { NumberField } from "../../../ui/number-field.tsx";

/** How fast a host's processors are beside others', as a person says; 1 where nothing is said. */
export function HostSpeed({ machine, onChange }: { machine: string; onChange: () => void }): ReactNode {
  const settings = useQuery(planningSettingsQuery);
  const client = useQueryClient();
  const save = useMutation({
    mutationFn: (next: PlanningSettings) => call(putPlanningSettings, {}, next),
    onSuccess: (saved) => {
      client.setQueryData(planningSettingsQuery.queryKey, saved);
      onChange();
    },
  });
  if (!settings.data) return null;
  const { [machine]: speed, ...others } = settings.data.speeds;
  return (
    <span className="not-in-print ml-3 text-[13.5px] text-quiet">
      speed{" "}
      <Changeable ask={putPlanningSettings}>
        <NumberField
          label={`speed of ${machine}`}
          value={speed}
          usual="1"
          className="w-14"
          onChange={(next) => {
            if (next === undefined || (next >= 0.01 && next <= 100))
              save.mutate({
                ...settings.data,
                speeds: next === undefined ? others : { ...others, [machine]: next },
              });
          }}
        />
      </Changeable>
      {save.error && <span role="alert"> {save.error.message}</span>}
    </span>
  );
}
