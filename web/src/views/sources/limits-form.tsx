import { changeLimits } from "../../../../core/api/sources.ts";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { useForm } from "react-hook-form";
import type { IntakeLimits } from "../../../../core/sources/intake-limits.ts";
import { call, RequestFailed } from "../../api/client.ts";
import { limitsQuery } from "../../api/queries.ts";

const rows: readonly (readonly [name: keyof IntakeLimits, words: string, unit: string])[] = [
  ["bodyBytes", "one answer or request, unpacked", "bytes"],
  ["lineBytes", "one line", "bytes"],
  ["tags", "tags of one series", ""],
  ["seriesPerSource", "series of one source", ""],
  ["newSeriesPerMinute", "new series of one source in a minute", ""],
];

/** Bounds of what is taken in; what goes beyond is refused, counted, and shown with the source. */
export function LimitsForm(): ReactNode {
  const queries = useQueryClient();
  const limits = useQuery(limitsQuery);
  const { register, handleSubmit, formState, reset } = useForm<IntakeLimits>({
    ...(limits.data && { values: limits.data }),
    resetOptions: { keepDirtyValues: true },
  });
  const save = useMutation({
    mutationFn: (wish: IntakeLimits) => call(changeLimits, {}, wish),
    onSuccess: async (now) => {
      reset(now);
      await queries.invalidateQueries({ queryKey: ["intake-limits"] });
    },
  });
  return (
    <form
      aria-label="Limits"
      className="border-t border-hairline py-4"
      onSubmit={handleSubmit((wish) => save.mutate(wish))}
    >
      <h2 className="font-bold">How much is taken in</h2>
      <p className="max-w-prose text-quiet">What goes beyond is refused, counted, and shown with its source.</p>
      <div className="grid max-w-xl grid-cols-[1fr_auto] items-center gap-y-1 py-3">
        {rows.map(([name, words, unit]) => (
          <label key={name} className="contents">
            <span>{words}</span>
            <span className="text-right">
              <input
                type="number"
                min="1"
                className="figure w-36 text-right"
                {...register(name, { valueAsNumber: true, required: true })}
              />{" "}
              <span className="inline-block w-10 text-left text-quiet">{unit}</span>
            </span>
          </label>
        ))}
      </div>
      {formState.isDirty && (
        <p className="flex gap-3">
          <button type="submit" className="act" disabled={save.isPending}>
            {save.isPending ? "saving …" : "Take in so much"}
          </button>
          <button type="button" className="act-plain" onClick={() => limits.data && reset(limits.data)}>
            Leave it as it is
          </button>
        </p>
      )}
      {limits.error && (
        <p role="alert" className="py-2 text-urgent">
          {limits.error.message}
        </p>
      )}
      {save.error && (
        <p role="alert" className="py-2 text-urgent">
          {save.error instanceof RequestFailed && save.error.errors.length > 0
            ? save.error.errors.map(({ message }) => message).join("; ")
            : save.error.message}
        </p>
      )}
    </form>
  );
}
