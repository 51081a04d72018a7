import { PrintedWindow } from "../../time/printed-window.tsx";
import { makeReadyMadeRule, listRules, makeRule } from "../../../../core/api/rules.ts";
import { useMay } from "../../shared/people/use-may.ts";
import { May } from "../../shared/people/may.tsx";
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { incidentsQuery, ruleValuesQuery } from "../../api/queries.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { useAway } from "../../frame/use-away.ts";
import { exactClockTime } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";
import { AlertsHeading } from "./alerts-heading.tsx";
import { IncidentLanes } from "./incident-lanes.tsx";
import { IncidentRows } from "./incident-rows.tsx";
import { ReadyMadeRules } from "./ready-made-rules.tsx";
import { RuleRows } from "./rule-rows.tsx";

/** What is raised and was, as lanes and as rows, and the rules it comes of. */
export function AlertsView(): ReactNode {
  const { span, nowMs } = useTime();
  const minute = 60_000;
  const incidents = useQuery(
    incidentsQuery(Math.floor(span.fromMs / minute) * minute, Math.ceil(span.toMs / minute) * minute),
  );
  const mayListRules = useMay()(listRules);
  const rules = useQuery({ ...ruleValuesQuery, enabled: mayListRules });
  const failure = incidents.error ?? rules.error;
  const all = incidents.data ?? [];
  const away = useAway();
  const open = all.filter((incident) => incident.clearedAtMs === null).length;
  return (
    <>
      <AlertsHeading>
        {incidents.data === undefined
          ? "what is raised is not known yet"
          : away && away.kind !== "stream"
            ? `${open === 0 ? "nothing was" : open === 1 ? "1 was" : `${open} were`} raised at ${exactClockTime(away.sinceMs)}`
            : open === 0
              ? "nothing is raised"
              : `${open} raised`}{" "}
        <PrintedWindow />
      </AlertsHeading>
      {failure && (
        <p role="alert" className="py-2 text-urgent">
          {failure.message}
        </p>
      )}
      <section aria-labelledby="incidents-title" className="py-4">
        <h2 id="incidents-title" className="font-bold">
          Incidents in this window
        </h2>
        {incidents.isPending && <p className="py-4 text-quiet">reading …</p>}
        {incidents.data && all.length === 0 && (
          <p className="py-3 text-quiet">
            None. When a rule is raised, it stands here with its value, its limit and how long it lasted.
          </p>
        )}
        {all.length > 0 && <IncidentLanes incidents={all} span={span} nowMs={nowMs} />}
        {all.length > 0 && <IncidentRows incidents={all} nowMs={nowMs} />}
      </section>
      <May ask={listRules}>
        <section aria-labelledby="rules-title" className="border-t border-hairline py-4">
          <h2 id="rules-title" className="flex items-baseline gap-4 font-bold">
            Rules{" "}
            <May ask={makeRule}>
              <SectionLink to="/alerts/rules/new" className="word-link text-[14px] font-normal">
                make a rule …
              </SectionLink>
            </May>
          </h2>
          {rules.isPending && <p className="py-4 text-quiet">reading …</p>}
          {rules.data?.length === 0 && (
            <p className="max-w-prose py-3 text-quiet">
              No rule yet. Open a machine in the fleet and choose “tell me when …” beside one of its charts, make one
              here, or switch on a ready-made one below.
            </p>
          )}
          {rules.data && rules.data.length > 0 && <RuleRows rules={rules.data} nowMs={nowMs} />}
        </section>
      </May>
      <May ask={makeReadyMadeRule}>{rules.data && <ReadyMadeRules rules={rules.data} />}</May>
    </>
  );
}
