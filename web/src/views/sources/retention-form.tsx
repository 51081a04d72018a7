import { useMutation, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { useForm } from "react-hook-form";
import { type CostsView, putRetention, type TierCosts } from "../../../../core/api/costs.ts";
import { forecastBytes } from "../../../../core/capacity/disk-forecast.ts";
import { call, RequestFailed } from "../../api/client.ts";
import { costsQuery } from "../../api/queries.ts";
import { dayOf } from "../../time/moments.ts";
import { Quantity } from "../../ui/quantity.tsx";

const fields = { raw: "rawDays", "5m": "fiveMinuteDays", "1h": "hourDays" } as const;
const words = { raw: "every sample", "5m": "5 min: mean, least, most", "1h": "1 h: mean, least, most" } as const;
type Days = Record<(typeof fields)[keyof typeof fields], number>;

/**
 * How long each tier is kept, with the disk that it takes now and will take at the present rate, for the days as they
 * are typed.
 */
export function RetentionForm({ costs }: { costs: CostsView }): ReactNode {
  const queries = useQueryClient();
  const kept = Object.fromEntries(costs.tiers.map(({ tier, keptDays }) => [fields[tier], keptDays])) as Days;
  const { register, handleSubmit, watch, reset, formState } = useForm<Days>({
    values: kept,
    resetOptions: { keepDirtyValues: true },
  });
  const typed = watch();
  const save = useMutation({
    mutationFn: (days: Days) => call(putRetention, {}, days),
    onSuccess: async (days) => {
      reset(days);
      await queries.invalidateQueries({ queryKey: costsQuery.queryKey });
    },
  });
  const failed = save.error instanceof RequestFailed ? save.error : undefined;
  const shorter = costs.tiers.filter(({ tier, keptDays }) => typed[fields[tier]] < keptDays);
  const forecasts = costs.tiers.map(({ tier, bytesPerDay }) =>
    forecastBytes(bytesPerDay ?? undefined, typed[fields[tier]]),
  );
  const total = forecasts.every((bytes) => bytes !== undefined)
    ? forecasts.reduce((sum, bytes) => sum + (bytes as number), 0)
    : null;
  return (
    <form
      aria-label="How long it is kept"
      className="max-w-4xl overflow-x-auto py-2"
      onSubmit={handleSubmit((days) => save.mutate(days))}
    >
      <table className="w-full text-left">
        <caption className="pb-2 text-left font-bold">How long it is kept</caption>
        <thead className="text-[0.85em] text-quiet">
          <tr>
            <th scope="col" className="py-1 pr-4 font-normal">
              what
            </th>
            <th scope="col" className="py-1 pr-4 font-normal">
              for days
            </th>
            <th scope="col" className="hidden py-1 pr-4 font-normal sm:table-cell">
              since
            </th>
            <th scope="col" className="py-1 pr-4 text-right font-normal">
              disk now
            </th>
            <th scope="col" className="hidden py-1 pr-4 text-right font-normal sm:table-cell">
              a day
            </th>
            <th scope="col" className="py-1 text-right font-normal">
              when full, at this rate
            </th>
          </tr>
        </thead>
        <tbody>
          {costs.tiers.map((tier, i) => (
            <tr key={tier.tier} data-tier={tier.tier} className="border-t border-hairline">
              <th scope="row" className="py-1 pr-4 font-normal">
                {words[tier.tier]}
              </th>
              <td className="py-1 pr-4">
                <input
                  type="number"
                  min="1"
                  step="1"
                  aria-label={`days that ${words[tier.tier]} is kept`}
                  className="figure w-20 text-right"
                  {...register(fields[tier.tier], { valueAsNumber: true, required: true })}
                />
              </td>
              <td className="figure hidden py-1 pr-4 whitespace-nowrap sm:table-cell">{since(tier)}</td>
              <td className="py-1 pr-4 text-right">
                <Quantity value={tier.sizeBytes} unit="By" />
              </td>
              <td className="hidden py-1 pr-4 text-right sm:table-cell">
                <Quantity value={tier.bytesPerDay} unit="By" />
              </td>
              <td className="py-1 text-right" data-forecast>
                <Quantity value={forecasts[i] ?? null} unit="By" />
              </td>
            </tr>
          ))}
          <tr className="border-t border-ink">
            <th scope="row" className="py-1 font-normal" colSpan={2}>
              together
            </th>
            <td className="hidden sm:table-cell" />
            <td className="py-1 pr-4 text-right">
              <Quantity value={costs.tiers.reduce((sum, { sizeBytes }) => sum + sizeBytes, 0)} unit="By" />
            </td>
            <td className="hidden sm:table-cell" />
            <td className="py-1 text-right">
              <Quantity value={total} unit="By" />
            </td>
          </tr>
        </tbody>
      </table>
      {total === null && (
        <p className="py-2 text-quiet">What a day takes is known when the first two hours are stored.</p>
      )}
      {total !== null && costs.diskFreeBytes !== null && total > costs.diskFreeBytes + costs.databaseBytes && (
        <p role="alert" className="py-2 text-urgent">
          That is more than this disk has free. Keep it for fewer days, or gather less often.
        </p>
      )}
      {formState.isDirty && (
        <p className="py-2">
          {shorter.length > 0 && <>What is older than the shorter time is dropped within ten minutes, for good. </>}
          <button type="submit" className="act mr-3" disabled={save.isPending}>
            {save.isPending ? "saving …" : "Keep it so long"}
          </button>
          <button type="button" className="act-plain" onClick={() => reset(kept)}>
            Leave it as it is
          </button>
        </p>
      )}
      {failed && (
        <p role="alert" className="py-2 text-urgent">
          {failed.errors.map(({ message }) => message).join(" ") || failed.message}
        </p>
      )}
    </form>
  );
}

function since({ fromMs }: TierCosts): string {
  return fromMs === null ? "–" : dayOf(fromMs);
}
