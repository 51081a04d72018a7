import { lazyView } from "../../ui/lazy-view.ts";
import { ViewTitle } from "../../ui/view-title.tsx";
import { May } from "../../shared/people/may.tsx";
import { getBriefing } from "../../../../core/api/briefing.ts";
import { useMay } from "../../shared/people/use-may.ts";
import { listRules } from "../../../../core/api/rules.ts";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, Suspense, useEffect, useState } from "react";
import type { RuleView } from "../../../../core/api/rules.ts";
import { machinesQuery, rulesQuery } from "../../api/queries.ts";
import { PrintedWindow } from "../../time/printed-window.tsx";
import { SectionLink } from "../../time/section-link.tsx";
import { Briefing } from "./briefing.tsx";
import { Ledger } from "./ledger.tsx";
import { readColumns } from "./ledger-readings.ts";
import { useArrangement } from "./use-arrangement.ts";
import { useLedger } from "./use-ledger.ts";

const LedgerSentence = lazyView(() => import("./ledger-sentence.tsx"), "LedgerSentence");
const noRules: readonly RuleView[] = [];

/** The whole fleet: what is worth a look in sentences, then the ledger. */
export function FleetView(): ReactNode {
  const machines = useQuery(machinesQuery);
  const rules = useQuery({ ...rulesQuery, enabled: useMay()(listRules) }).data ?? noRules;
  const [choice, change] = useArrangement();
  const data = useLedger(readColumns(choice), choice.open.length > 0);
  // What is drawn comes before the words by which it is arranged: on a weak link their code would hold it up.
  const [wasRead, setWasRead] = useState(false);
  useEffect(() => {
    if (data.isRead) setWasRead(true);
  }, [data.isRead]);
  const series = (machines.data ?? []).reduce((sum, machine) => sum + machine.series, 0);
  const failure = machines.error ?? data.failure;
  return (
    <>
      <div className="flex flex-wrap items-baseline gap-x-4 pt-2 pb-2">
        <ViewTitle words="Fleet" />
        <SectionLink to="/steadiness" className="word-link order-last ml-auto">
          steadiness
        </SectionLink>
        <p className="text-quiet">
          {machines.data && (
            <>
              {machines.data.length === 1 ? "1 machine" : `${machines.data.length} machines`},{" "}
              <span className="figure">{series.toLocaleString("en")}</span> series{" "}
            </>
          )}
          <PrintedWindow />
        </p>
      </div>
      <May ask={getBriefing}>
        <Briefing />
      </May>
      {failure && (
        <p role="alert" className="border-b border-hairline py-2 text-urgent">
          {failure.message}
        </p>
      )}
      {machines.isPending && <p className="py-8 text-quiet">reading …</p>}
      {machines.data?.length === 0 && (
        <p className="max-w-prose py-8">
          Here every machine will have a row. This one's own counters arrive within ten seconds of the start; nothing
          has to be set up for it.
        </p>
      )}
      {machines.data && machines.data.length > 0 && (
        <>
          {machines.data.length > 1 && (
            <Suspense fallback={<p className="py-2">…</p>}>
              {wasRead ? (
                <LedgerSentence machines={machines.data} choice={choice} present={data.isPresent} onChange={change} />
              ) : (
                <p className="py-2">…</p>
              )}
            </Suspense>
          )}
          <Ledger machines={machines.data} rules={rules} choice={choice} data={data} onChange={change} />
        </>
      )}
    </>
  );
}
