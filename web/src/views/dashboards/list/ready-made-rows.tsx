import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { readyMade } from "../../../../../core/dashboards/ready-made.ts";
import { countersQuery } from "../../../api/queries.ts";
import { ReadyMiniature } from "./board-miniature.tsx";

/** Ready-made ones of what is gathered here: there is no need to search for a file. */
export function ReadyMadeRows({ wanted }: { wanted: string }): ReactNode {
  const counters = useQuery(countersQuery).data;
  const names = new Set(counters?.map(({ name }) => name));
  const offered = readyMade.filter(
    ({ needs, document }) =>
      needs.every((name) => names.has(name)) &&
      `${document.title} ${document.description}`.toLowerCase().includes(wanted),
  );
  if (offered.length === 0) return null;
  return (
    <section aria-labelledby="ready-made" className="pt-6">
      <h2 id="ready-made" className="border-b border-ink pb-1 font-bold">
        Ready-made, of what is gathered here
      </h2>
      <ul className="grid gap-x-8 sm:grid-cols-2">
        {offered.map(({ id, document }) => (
          <li
            key={id}
            className="grid gap-x-5 gap-y-2 border-b border-hairline py-3 xl:grid-cols-[320px_minmax(0,1fr)]"
            data-ready-made={id}
          >
            <ReadyMiniature document={document} />
            <span>
              <Link to={`/dashboards/ready-made/${id}`} className="font-bold hover:underline">
                {document.title}
              </Link>
              <span className="mt-0.5 block text-[13.5px] text-quiet">{document.description}</span>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
