import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link, useLocation } from "react-router";
import { machinesQuery } from "../../api/queries.ts";
import { ViewTitle } from "../../ui/view-title.tsx";
import { type KnownPage, nearAddresses } from "./near-addresses.ts";

const pages: readonly KnownPage[] = [
  { to: "/", words: "Fleet" },
  { to: "/counters", words: "Counters" },
  { to: "/dashboards", words: "Dashboards" },
  { to: "/alerts", words: "Alerts" },
  { to: "/alerts/recipients", words: "Recipients and messages" },
  { to: "/recordings", words: "Recordings" },
  { to: "/planning", words: "Planning" },
  { to: "/sources", words: "Sources" },
  { to: "/account", words: "Your sign-ins and password" },
];

/** An address that nothing stands at: it is said, with what is near it. */
export function UnknownView(): ReactNode {
  const { pathname } = useLocation();
  const machines = useQuery(machinesQuery).data ?? [];
  const near = nearAddresses(pathname, [
    ...pages,
    ...machines.map(({ name, friendlyName }) => ({
      to: `/machines/${encodeURIComponent(name)}`,
      words: friendlyName || name,
    })),
  ]);
  return (
    <section aria-label="Nothing stands here" className="max-w-prose">
      <ViewTitle words="Nothing stands here" />
      <p className="mt-3 break-words">
        Nubrel has no page at <span className="figure">{pathname}</span>. A link to it may be old, or have been typed
        otherwise.
      </p>
      {near.length > 0 && <p className="mt-3">Near it are:</p>}
      <ul className="mt-1">
        {(near.length > 0 ? near : pages.slice(0, 1)).map(({ to, words }) => (
          <li key={to}>
            <Link to={to} className="word-link">
              {near.length > 0 ? words : "To the fleet"}
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}
