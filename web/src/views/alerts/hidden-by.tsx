import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { IncidentView } from "../../../../core/rules/rule.ts";
import { quietTimesQuery, sourcesQuery } from "../../api/queries.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { momentText } from "../../time/moments.ts";
import { pauseWords } from "../../shared/sources/pause-words.ts";

/** Why nobody is told of an incident that is open: a quiet time, or all sources of its machine are paused. */
export function HiddenBy({ incident: { quietId, tags }, nowMs }: { incident: IncidentView; nowMs: number }): ReactNode {
  const quiet = useQuery({ ...quietTimesQuery, enabled: quietId !== null }).data?.find(({ id }) => id === quietId);
  const its = (useQuery(sourcesQuery).data ?? []).filter(({ machine }) => machine === tags["machine"]);
  const isPaused = its.length > 0 && its.every(({ pause }) => pause !== null);
  return (
    <>
      {quiet && (
        <p className="text-[14px] text-notice" data-hidden-by="quiet time">
          Nobody is told of it:{" "}
          <SectionLink to="/alerts/quiet" className="word-link">
            {quiet.title}
          </SectionLink>
          {quiet.now && (
            <>
              , until <span className="moment">{momentText(quiet.now.toMs, nowMs)}</span>
            </>
          )}
          {quiet.by && `, by ${quiet.by}`}
          {quiet.why && `: ${quiet.why}`}
        </p>
      )}
      {isPaused &&
        its.map(({ id, name, pause }) => (
          <p key={id} className="text-[14px] text-notice" data-hidden-by="pause">
            Nobody is told of it:{" "}
            <SectionLink to={`/sources/${id}`} className="word-link">
              {name}
            </SectionLink>{" "}
            is {pause && pauseWords(pause, nowMs)}
          </p>
        ))}
    </>
  );
}
