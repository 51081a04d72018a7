import { limitDoubt } from "../../../../core/rules/limit-doubt.ts";
import { useCalled } from "../../api/use-called.ts";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useEffect } from "react";
import { useForm } from "react-hook-form";
import { makeRule } from "../../../../core/api/rules.ts";
import type { Severity } from "../../../../core/rules/rule.ts";
import { scaleFor } from "../../../../core/units/present.ts";
import { call } from "../../api/client.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { newRuleAddress } from "../../shared/rules/rule-address.ts";
import { withUnit } from "../../../../core/rules/incident-text.ts";
import type { Band } from "../../shared/bands/band.ts";

interface RuleFields {
  readonly compare: "above" | "below";
  readonly limit: number;
  readonly mustLastSeconds: number;
  readonly staysRaisedSeconds: number;
  readonly severity: Severity;
}

interface RuleFormProps {
  readonly band: Band;
  readonly machine: string;
  readonly subject: string;
  /** The newest value, for orientation. */
  readonly value: number | null;
  /** Told the limit as it is typed, so that the chart can draw it. */
  readonly onLimit: (limit: number | null) => void;
  readonly onClose: () => void;
}

/** A limit in three steps, written as one sentence under the chart: the limit, how long, how loud. */
export function RuleForm({ band, machine, subject, value, onLimit, onClose }: RuleFormProps): ReactNode {
  const queries = useQueryClient();
  const called = useCalled();
  const { unit, words } = band.figure;
  const scale = scaleFor(unit, band.figure.commonLimit);
  const { register, handleSubmit, watch, setFocus } = useForm<RuleFields>({
    defaultValues: {
      compare: "above",
      limit: band.figure.commonLimit * scale.factor,
      mustLastSeconds: 0,
      staysRaisedSeconds: 0,
      severity: "notice",
    },
  });
  const typed = watch("limit");
  const limit = Number.isFinite(typed) ? typed / scale.factor : null;
  const doubt = limitDoubt(unit, limit ?? undefined, value ?? 0);
  useEffect(() => {
    onLimit(limit);
    return () => onLimit(null);
  }, [limit, onLimit]);
  useEffect(() => setFocus("limit"), [setFocus]);
  const save = useMutation({
    mutationFn: (fields: RuleFields) =>
      call(
        makeRule,
        {},
        {
          compare: fields.compare,
          [fields.severity]: { [fields.compare === "above" ? "high" : "low"]: fields.limit / scale.factor },
          mustLastSeconds: fields.mustLastSeconds,
          staysRaisedSeconds: fields.staysRaisedSeconds,
          name: `${words} of ${subject === machine ? called(machine) : `${subject} on ${called(machine)}`} ${fields.compare} ${withUnit(fields.limit / scale.factor, unit)}`,
          reading: band.figure.reading(machine),
        },
      ),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["rules"] });
      onClose();
    },
  });
  const number = { valueAsNumber: true, required: true } as const;
  const seconds = { ...number, min: 0, max: 604_800 } as const;
  return (
    <form
      aria-label={`A limit for ${words}`}
      className="mt-2 border-l-2 border-act py-1 pl-4"
      onSubmit={handleSubmit((fields) => save.mutate(fields))}
      onKeyDown={(event) => event.key === "Escape" && onClose()}
    >
      <ol className="flex flex-col gap-2">
        <li>
          <span className="figure mr-2 text-quiet">1</span>
          Tell me when <strong>{words}</strong> of <strong>{subject}</strong> is{" "}
          <select aria-label="above or below" {...register("compare")}>
            <option value="above">above</option>
            <option value="below">below</option>
          </select>{" "}
          <input
            type="number"
            step="any"
            aria-label={`limit in ${scale.unit || "its own unit"}`}
            className="figure w-28 text-right"
            {...register("limit", number)}
          />{" "}
          {scale.unit}
          {value !== null && <span className="text-quiet"> (now {withUnit(value, unit)})</span>}
          {doubt && (
            <span role="status" className="block text-[13px] text-notice" data-limit-doubt>
              {doubt}
            </span>
          )}
        </li>
        <li>
          <span className="figure mr-2 text-quiet">2</span>
          once that has lasted{" "}
          <input
            type="number"
            min="0"
            aria-label="seconds it must last"
            className="figure w-20 text-right"
            {...register("mustLastSeconds", seconds)}
          />{" "}
          s, and keep it raised{" "}
          <input
            type="number"
            min="0"
            aria-label="seconds it stays raised"
            className="figure w-20 text-right"
            {...register("staysRaisedSeconds", seconds)}
          />{" "}
          s after it has ended
        </li>
        <li>
          <span className="figure mr-2 text-quiet">3</span>
          as{" "}
          <select aria-label="severity" {...register("severity")}>
            <option value="notice">a notice</option>
            <option value="urgent">urgent</option>
          </select>
          <span className="ml-4 inline-flex gap-3">
            <button type="submit" className="act" disabled={save.isPending}>
              {save.isPending ? "saving …" : "Watch it"}
            </button>
            <button type="button" className="act-plain" onClick={onClose}>
              Leave it
            </button>
            <SectionLink to={newRuleAddress(band.figure.reading(machine))} className="word-link self-center">
              more choices, tried on the past …
            </SectionLink>
          </span>
        </li>
      </ol>
      {save.error && (
        <p role="alert" className="mt-2 text-urgent">
          {save.error.message}
        </p>
      )}
    </form>
  );
}
