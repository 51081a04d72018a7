import { useCalled } from "../../api/use-called.ts";
import type { UseQueryResult } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { RuleView as Saved } from "../../../../core/api/rules.ts";
import type { ReadingAnswer } from "../../../../core/reading/document.ts";
import type { RuleDocument } from "../../../../core/rules/rule.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { lineNames, tagsOfLines } from "../../charts/line-names.ts";
import { ChartWithActions } from "../../shared/charts/chart-with-actions.tsx";
import { limitsOf, useRuleMarks } from "../../shared/rules/rule-marks.ts";
import { useTime } from "../../time/time-provider.tsx";
import { RehearsalPart } from "./rehearsal.tsx";
import { roundedLimit } from "./rounded-limit.ts";

/** Steps longer than this hide single values. */
const usualStepMs = 60_000;

interface RuleDrawingProps {
  readonly rule: RuleDocument;
  /** As it stands on the server; its incidents are marked. */
  readonly saved: Saved | undefined;
  readonly name: string;
  /** What the rule's sentences ask. */
  readonly question: RuleDocument["reading"];
  readonly answer: Pick<UseQueryResult<ReadingAnswer>, "data" | "error">;
  readonly unit: string;
  readonly onChange: (rule: RuleDocument) => void;
}

/** What a rule sees: its lines with the limits, which can be dragged, and what it would have done with them. */
export function RuleDrawing({ rule, saved, name, question, answer, unit, onChange }: RuleDrawingProps): ReactNode {
  const { span } = useTime();
  const called = useCalled();
  const marks = useRuleMarks(saved ? [saved] : []);
  const lines = answer.data?.lines ?? [];
  const moveLimit = (key: string, value: number) => {
    const [, severity, before] = key.split(" ");
    const limit = severity === "urgent" ? rule.urgent : rule.notice;
    if (!limit) return;
    const end = limit.high === Number(before) ? "high" : "low";
    const clear = end === "high" ? "clearHigh" : "clearLow";
    const at = roundedLimit(value);
    const gap = limit[clear] === undefined ? undefined : (limit[clear] as number) - (limit[end] as number);
    onChange({
      ...rule,
      [severity as "notice"]: { ...limit, [end]: at, ...(gap !== undefined && { [clear]: at + gap }) },
    });
  };
  return (
    <>
      {answer.error && (
        <p role="alert" className="text-urgent">
          {answer.error.message}
        </p>
      )}
      <ChartWithActions
        title={name}
        answer={answer.data}
        span={span}
        unit={unit}
        nameOf={lineNames(
          lines.filter(({ earlier }) => earlier === undefined),
          tagsOfLines(rule.reading),
          called,
        )}
        limits={limitsOf({ ...rule, id: 0 })}
        marks={marks}
        onLimit={moveLimit}
        height={230}
        labels="narrow"
      />
      {answer.data && answer.data.stepMs > usualStepMs && lines.every(({ lows }) => lows === undefined) && (
        <p className="text-[13px] text-quiet">
          Drawn is the mean of every {presentSpan(answer.data.stepMs)}; checked is every value, so a peak that the line
          hides may pass a limit.
        </p>
      )}
      <RehearsalPart
        rule={{ ...rule, name: "rehearsal", reading: question }}
        onChange={(next) =>
          onChange({ ...rule, notice: next.notice, urgent: next.urgent, mustLastSeconds: next.mustLastSeconds })
        }
      />
    </>
  );
}
