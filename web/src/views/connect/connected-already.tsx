import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { sourcesQuery } from "../../api/queries.ts";
import { signalOf, stateWords } from "../../shared/sources/source-words.ts";
import { useTime } from "../../time/time-provider.tsx";
import { Signal } from "../../ui/signal.tsx";

/** Of many sources these are listed; the rest stands in Sources. */
const mostListed = 14;

/** What is gathered already, beside what can be connected: nobody connects a machine twice. */
export function ConnectedAlready(): ReactNode {
  const { nowMs } = useTime();
  const sources = useQuery(sourcesQuery).data;
  if (!sources) return null;
  return (
    <div className="border-l border-hairline pl-5" data-connected={sources.length}>
      <h2 className="font-bold">Connected already</h2>
      <ul className="mt-1">
        {sources.slice(0, mostListed).map((source) => (
          <li
            key={source.id}
            className="grid grid-cols-[1rem_minmax(0,1fr)_minmax(0,1fr)] items-baseline gap-x-2.5 border-t border-hairline py-1"
          >
            <Signal of={signalOf(source)} />
            <Link to={`/sources/${source.id}`} className="truncate hover:underline">
              {source.name}
            </Link>
            <span className="truncate text-[13px] text-quiet">{stateWords(source, nowMs)}</span>
          </li>
        ))}
      </ul>
      {sources.length > mostListed && (
        <p className="py-1 text-[13px] text-quiet">
          and {sources.length - mostListed} more in{" "}
          <Link to="/sources" className="word-link">
            Sources
          </Link>
        </p>
      )}
    </div>
  );
}
