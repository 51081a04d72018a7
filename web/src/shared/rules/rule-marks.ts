import { useQuery } from "@tanstack/react-query";
import type { RuleView } from "../../../../core/api/rules.ts";
import { withUnit } from "../../../../core/rules/incident-text.ts";
import { severities } from "../../../../core/rules/rule.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { incidentsQuery } from "../../api/queries.ts";
import type { Limit, Mark } from "../../charts/plot-overlay.tsx";
import { useTime } from "../../time/time-provider.tsx";

const minuteMs = 60_000;

/**
 * A rule's limits as they are drawn on a chart of what it reads; those of other figures than the values themselves have
 * no place there.
 */
export function limitsOf({
  id,
  watch,
  notice,
  urgent,
  mustLastSeconds,
  reading,
}: Pick<RuleView, "id" | "watch" | "notice" | "urgent" | "mustLastSeconds" | "reading">): readonly Limit[] {
  if (watch.kind !== "value") return [];
  return severities.flatMap((severity) => {
    const limit = severity === "notice" ? notice : urgent;
    const ends = [
      [limit?.low, limit?.clearLow],
      [limit?.high, limit?.clearHigh],
    ] as const;
    const words = (value: number, clear: number | undefined) =>
      [
        `${withUnit(value, reading.unit ?? "1")}${mustLastSeconds === 0 ? "" : ` for ${presentSpan(mustLastSeconds * 1000)}`}`,
        clear !== undefined && `clears ${withUnit(clear, reading.unit ?? "1")}`,
      ]
        .filter(Boolean)
        .join(", ");
    return ends.flatMap(([value, clear]) =>
      value === undefined ? [] : [{ key: `${id} ${severity} ${value}`, value, severity, text: words(value, clear) }],
    );
  });
}

/** Where rules were raised and cleared in the window. */
export function useRuleMarks(rules: readonly Pick<RuleView, "id">[]): readonly Mark[] {
  const { span } = useTime();
  const incidents =
    useQuery({
      ...incidentsQuery(Math.floor(span.fromMs / minuteMs) * minuteMs, Math.ceil(span.toMs / minuteMs) * minuteMs),
      enabled: rules.length > 0,
    }).data ?? [];
  return incidents
    .filter((incident) => rules.some((rule) => rule.id === incident.ruleId))
    .flatMap((incident): Mark[] => [
      {
        key: `${incident.id} raised`,
        atMs: incident.raisedAtMs,
        kind: "raised",
        severity: incident.severity,
        text: `${incident.ruleName}: raised`,
      },
      ...(incident.clearedAtMs === null
        ? []
        : [
            {
              key: `${incident.id} cleared`,
              atMs: incident.clearedAtMs,
              kind: "cleared" as const,
              severity: incident.severity,
              text: `${incident.ruleName}: cleared`,
            },
          ]),
    ]);
}
