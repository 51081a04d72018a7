import type { IncidentView } from "../../../../core/rules/rule.ts";
import { present, presentSpan } from "../../../../core/units/present.ts";

/** An incident in one sentence, as it is told when it is raised or has cleared. */
export function incidentText(incident: IncidentView, kind: "raised" | "cleared"): string {
  if (incident.compare === "silent") {
    const lasted = presentSpan((incident.clearedAtMs === null ? incident.value : incident.furthest) * 1000);
    return kind === "raised" ? `${incident.ruleName}: not heard for ${lasted}.` : `${incident.ruleName.replace(/ is silent$/, "")} is heard again after ${lasted}.`;
  }
  const value = withUnit(incident.value, incident.unit);
  const limit = withUnit(incident.limit, incident.unit);
  if (kind === "raised") return `${incident.ruleName}: raised at ${value}, the limit is ${limit}.`;
  const lasted = presentSpan((incident.clearedAtMs ?? incident.raisedAtMs) - incident.raisedAtMs);
  return `${incident.ruleName}: cleared after ${lasted}, the furthest was ${withUnit(incident.furthest, incident.unit)}.`;
}

export function withUnit(value: number | null, unit: string): string {
  const shown = present(value, unit);
  return shown.unit === "" ? shown.text : `${shown.text} ${shown.unit}`;
}
