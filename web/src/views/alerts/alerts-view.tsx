import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { incidentsQuery, rulesQuery } from "../../api/queries.ts";
import { useTime } from "../../time/time-provider.tsx";
import { spanText } from "../../time/moments.ts";
import { IncidentLanes } from "./incident-lanes.tsx";
import { IncidentRows } from "./incident-rows.tsx";
import { RuleRows } from "./rule-rows.tsx";

/** What is raised and was, as lanes and as rows, and the rules it comes of. */
export function AlertsView(): ReactNode {
  const { span, nowMs } = useTime();
  const minute = 60_000;
  const incidents = useQuery(incidentsQuery(Math.floor(span.fromMs / minute) * minute, Math.ceil(span.toMs / minute) * minute));
  const rules = useQuery(rulesQuery);
  const text = spanText(span.fromMs, span.toMs);
  const failure = incidents.error ?? rules.error;
  const all = incidents.data ?? [];
  const open = all.filter((incident) => incident.clearedAtMs === null).length;
  return (
    <>
      <div className="flex flex-wrap items-baseline gap-x-4 border-b border-ink pt-2 pb-3">
        <h1 className="text-[26px] leading-none font-bold">Alerts</h1>
        <p className="text-quiet">
          {open === 0 ? "nothing is raised" : `${open} raised`} · {text.day}, <span className="figure">{text.from}</span> to <span className="figure">{text.to}</span>
        </p>
      </div>
      {failure && <p role="alert" className="py-2 text-urgent">{failure.message}</p>}
      <section aria-labelledby="incidents-title" className="py-4">
        <h2 id="incidents-title" className="font-bold">Incidents in this window</h2>
        {incidents.isPending && <p className="py-4 text-quiet">reading …</p>}
        {incidents.data && all.length === 0 && <p className="py-3 text-quiet">None. When a rule is raised, it stands here with its value, its limit and how long it lasted.</p>}
        {all.length > 0 && <IncidentLanes incidents={all} span={span} nowMs={nowMs} />}
        {all.length > 0 && <IncidentRows incidents={all} nowMs={nowMs} />}
      </section>
      <section aria-labelledby="rules-title" className="border-t border-hairline py-4">
        <h2 id="rules-title" className="font-bold">Rules</h2>
        {rules.isPending && <p className="py-4 text-quiet">reading …</p>}
        {rules.data?.length === 0 && <p className="max-w-prose py-3 text-quiet">No rule yet. Open a machine in the fleet and choose “tell me when …” beside one of its charts.</p>}
        {rules.data && rules.data.length > 0 && <RuleRows rules={rules.data} nowMs={nowMs} />}
      </section>
    </>
  );
}
