import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { type PlanningSettings, putPlanningSettings } from "../../../../../core/api/energy.ts";
import { type FitHostView, measureSpeed } from "../../../../../core/api/fit.ts";
import { figures } from "../../../../../core/units/present.ts";
import { call } from "../../../api/client.ts";
import { planningSettingsQuery } from "../../../api/queries.ts";
import { Changeable } from "../../../shared/people/changeable.tsx";
import { May } from "../../../shared/people/may.tsx";
import { NumberField } from "../../../ui/number-field.tsx";

interface HostSpeedProps {
  readonly host: FitHostView;
  /** What is said of the host has been changed. */
  readonly onChange: () => void;
}

/**
 * How fast a host's processors are beside others', as a person says or its collector has measured, and how many
 * operations its disks take.
 */
export function HostSpeed({ host: { machine, speed, canMeasure }, onChange }: HostSpeedProps): ReactNode {
  const settings = useQuery(planningSettingsQuery);
  const client = useQueryClient();
  const save = useMutation({
    mutationFn: (next: PlanningSettings) => call(putPlanningSettings, {}, next),
    onSuccess: (saved) => {
      client.setQueryData(planningSettingsQuery.queryKey, saved);
      onChange();
    },
  });
  const measure = useMutation({ mutationFn: () => call(measureSpeed, {}, { machine }) });
  if (!settings.data || speed === null) return null;
  const { speeds, diskOperations } = settings.data;
  const measured = speed.by === "its collector" ? figures(speed.factor) : "1";
  return (
    <span className="not-in-print ml-3 text-[13.5px] text-quiet">
      <Changeable ask={putPlanningSettings}>
        speed{" "}
        <NumberField
          label={`speed of ${machine}`}
          value={speeds[machine]}
          usual={measured}
          className="w-14"
          onChange={(next) => {
            if (next === undefined || (next >= 0.01 && next <= 100))
              save.mutate({ ...settings.data, speeds: withValue(speeds, machine, next) });
          }}
        />
        {speed.by === "its collector" && " as measured"}, disks take{" "}
        <NumberField
          label={`disk operations of ${machine} a second at most`}
          value={diskOperations[machine]}
          usual="any"
          className="w-16"
          onChange={(next) => {
            if (next === undefined || next > 0)
              save.mutate({ ...settings.data, diskOperations: withValue(diskOperations, machine, next) });
          }}
        />{" "}
        operations a second
      </Changeable>
      {canMeasure && (
        <May ask={measureSpeed}>
          {" "}
          {measure.isSuccess ? (
            <output>it measures when it sends next; ask again then</output>
          ) : (
            <button
              type="button"
              className="word-link"
              aria-label={`measure the speed of ${machine}`}
              disabled={measure.isPending}
              onClick={() => measure.mutate()}
            >
              measure its speed
            </button>
          )}
        </May>
      )}
      {(save.error ?? measure.error) && <span role="alert"> {(save.error ?? measure.error)?.message}</span>}
    </span>
  );
}

function withValue(
  values: Readonly<Record<string, number>>,
  machine: string,
  value: number | undefined,
): Readonly<Record<string, number>> {
  const { [machine]: _, ...others } = values;
  return value === undefined ? others : { ...others, [machine]: value };
}
