import { useMay } from "../shared/people/use-may.ts";
import { getAlerting } from "../../../core/api/alerting.ts";
import { May } from "../shared/people/may.tsx";
import { endQuietTime } from "../../../core/api/quiet.ts";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { call } from "../api/client.ts";
import { alertingQuery } from "../api/queries.ts";
import { momentText } from "../time/moments.ts";
import { useTime } from "../time/time-provider.tsx";
import { SectionLink } from "../time/section-link.tsx";

/** A recipient that is not reached for so long is told of on every page. */
const longMs = 600_000;

/**
 * On every page: that all alerting is quiet, by whom and until when; whom messages do not reach; rules that cannot be
 * checked.
 */
export function AlertingBanner(): ReactNode {
  const { nowMs } = useTime();
  const queries = useQueryClient();
  const alerting = useQuery({ ...alertingQuery, enabled: useMay()(getAlerting) }).data;
  const end = useMutation({
    mutationFn: (id: number) => call(endQuietTime, { id }),
    onSuccess: () => queries.invalidateQueries(),
  });
  if (!alerting) return null;
  const { allQuiet, failingRecipients, failingRules } = alerting;
  const failing = failingRecipients.filter(({ sinceMs }) => nowMs - sinceMs >= longMs);
  if (!allQuiet && failing.length === 0 && failingRules === 0) return null;
  return (
    <section
      aria-label="About alerting"
      className="not-in-print border-b border-notice px-4 py-1.5 text-[14px] sm:px-7"
      data-alerting-notice
    >
      {allQuiet && (
        <p>
          Nobody is told of any incident until <span className="moment">{momentText(allQuiet.untilMs, nowMs)}</span>:{" "}
          {allQuiet.title}
          {allQuiet.why && `, ${allQuiet.why}`}
          {allQuiet.by && ` (${allQuiet.by})`}.{" "}
          <May ask={endQuietTime}>
            <button
              type="button"
              className="word-link"
              disabled={end.isPending}
              onClick={() => end.mutate(allQuiet.id)}
            >
              End it now
            </button>
          </May>
        </p>
      )}
      {failing.map(({ id, name, sinceMs, failure }) => (
        <p key={id} role="alert" className="text-urgent">
          {name} has not been reached since {momentText(sinceMs, nowMs)}: {failure.split("\n")[0]}{" "}
          <SectionLink to="/alerts/recipients" className="word-link">
            Recipients
          </SectionLink>
        </p>
      ))}
      {failingRules > 0 && (
        <p role="alert" className="text-urgent">
          {failingRules === 1 ? "A rule" : `${failingRules} rules`} cannot be checked.{" "}
          <SectionLink to="/alerts" className="word-link">
            Alerts
          </SectionLink>
        </p>
      )}
    </section>
  );
}
