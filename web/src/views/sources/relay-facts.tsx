import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { SourceView } from "../../../../core/api/sources.ts";
import { present, presentSpan } from "../../../../core/units/present.ts";
import { sourcesQuery } from "../../api/queries.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { exactClockTime } from "../../time/moments.ts";

/** How a relay stands, and what is asked from there. */
export function RelayFacts({ source, nowMs }: { source: SourceView; nowMs: number }): ReactNode {
  const asked = useQuery(sourcesQuery).data?.filter(({ askedFrom }) => askedFrom === source.id) ?? [];
  const { relay } = source;
  const { records, bytes, sinceMs } = relay?.waiting ?? { records: 0, bytes: 0, sinceMs: null };
  const size = present(bytes, "By");
  return (
    <section aria-label="The relay" className="max-w-prose border-t border-hairline py-4" data-relay>
      <h2 className="font-bold">The relay</h2>
      {relay ? (
        <p>
          Version <span className="figure">{relay.version}</span>, last here at{" "}
          <span className="moment">{exactClockTime(relay.seenMs)}</span>.{" "}
          {records === 0 ? (
            "Nothing waits there."
          ) : (
            <>
              <span className="figure">{records.toLocaleString("en")}</span> answers wait there ({size.text} {size.unit}
              {sinceMs !== null && `, the oldest for ${presentSpan(Math.max(0, nowMs - sinceMs))}`}).
            </>
          )}
          {relay.failure !== null ? (
            <span className="font-bold text-urgent">
              {" "}
              It cannot keep what it gathers on its disk: {relay.failure}. {relay.dropped.toLocaleString("en")} answers
              were lost.
            </span>
          ) : (
            relay.dropped > 0 && (
              <span className="font-bold text-notice">
                {" "}
                {relay.dropped.toLocaleString("en")} answers had to go, as more waited than there is room for: start it
                with a larger --room.
              </span>
            )
          )}
        </p>
      ) : (
        <p>It has not been here since this server started. What it gathers meanwhile waits there.</p>
      )}
      <p className="pt-2">
        {asked.length === 0 ? (
          <>
            Nothing but its own machine is gathered from there yet.{" "}
            <SectionLink to="/sources/connect" className="word-link">
              Connect something
            </SectionLink>{" "}
            and choose <em>asked from {source.name}</em>.
          </>
        ) : (
          <>
            Asked from there:{" "}
            {asked.map(({ id, name }, i) => (
              <span key={id}>
                {i > 0 && ", "}
                <SectionLink to={`/sources/${id}`} className="word-link">
                  {name}
                </SectionLink>
              </span>
            ))}
            .
          </>
        )}
      </p>
    </section>
  );
}

/** From which relay a source is asked, as it stands after how. */
export function AskedFrom({ relay }: { relay: number }): ReactNode {
  const its = useQuery(sourcesQuery).data?.find(({ id }) => id === relay);
  return (
    <>
      , from{" "}
      <SectionLink to={`/sources/${relay}`} className="word-link">
        {its?.name ?? "a relay that is gone"}
      </SectionLink>
    </>
  );
}
