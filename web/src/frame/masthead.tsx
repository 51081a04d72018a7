import { useQuery } from "@tanstack/react-query";
import { type ReactNode, Suspense, useState } from "react";
import { useLocation } from "react-router";
import { listCounters } from "../../../core/api/counters.ts";
import { listDashboards } from "../../../core/api/dashboards.ts";
import { askEnergy } from "../../../core/api/energy.ts";
import { listIncidents } from "../../../core/api/incidents.ts";
import { listMachines } from "../../../core/api/machines.ts";
import { listRecordings } from "../../../core/api/recordings.ts";
import { listSources } from "../../../core/api/sources.ts";
import { lazyView } from "../ui/lazy-view.ts";
import { useMay } from "../shared/people/use-may.ts";
import { raisedQuery } from "../api/queries.ts";
import { Signal } from "../ui/signal.tsx";
import { Find } from "./find.tsx";
import { useRaisedTitle } from "./raised-title.ts";
import { SectionLink } from "../time/section-link.tsx";

/** `needs` is what the section's first page asks. */
const sections = [
  {
    to: "/",
    words: "Fleet",
    has: (path: string) => path === "/" || path.startsWith("/machines") || path === "/steadiness",
    needs: listMachines,
  },
  { to: "/counters", words: "Counters", has: (path: string) => path.startsWith("/counters"), needs: listCounters },
  {
    to: "/dashboards",
    words: "Dashboards",
    has: (path: string) => path.startsWith("/dashboards"),
    needs: listDashboards,
  },
  { to: "/alerts", words: "Alerts", has: (path: string) => path.startsWith("/alerts"), needs: listIncidents },
  {
    to: "/recordings",
    words: "Recordings",
    has: (path: string) => path.startsWith("/recordings"),
    needs: listRecordings,
  },
  { to: "/planning", words: "Planning", has: (path: string) => path.startsWith("/planning"), needs: askEnergy },
  { to: "/sources", words: "Sources", has: (path: string) => path.startsWith("/sources"), needs: listSources },
] as const;

/** One line: word-mark, sections, find, what is raised, the account. */
export function Masthead({ name }: { name: string }): ReactNode {
  const { pathname } = useLocation();
  const may = useMay();
  useRaisedTitle();
  return (
    <header className="not-in-print sticky top-0 z-20 flex items-center gap-x-4 border-b sm:gap-x-6 border-hairline bg-paper px-4 py-2 sm:px-7">
      <SectionLink to="/" className="flex items-center gap-2 text-lg font-bold" aria-label="Nubrel, to the fleet">
        <svg width="18" height="16" viewBox="0 0 18 16" aria-hidden="true" fill="var(--act)">
          <path d="M0 9h2.6v7H0zM5 3h2.6v13H5zM10 6h2.6v10H10zM15 0h2.6v16H15z" />
        </svg>
        <span className="max-sm:sr-only">nubrel</span>
      </SectionLink>
      <nav
        aria-label="Sections"
        className="flex min-w-0 gap-x-5 gap-y-1 whitespace-nowrap max-md:overflow-x-auto max-md:py-1 md:flex-wrap"
      >
        {sections
          .filter(({ needs }) => may(needs))
          .map(({ to, words, has }) => (
            <SectionLink
              key={to}
              to={to}
              aria-current={has(pathname) ? "page" : undefined}
              className={has(pathname) ? "font-bold" : "text-quiet hover:text-ink"}
            >
              {words}
            </SectionLink>
          ))}
      </nav>
      <div className="ml-auto flex shrink-0 items-center gap-3 sm:gap-5">
        <Find />
        <RaisedCount />
        <Account name={name} />
      </div>
    </header>
  );
}

function RaisedCount(): ReactNode {
  const raised = useQuery(raisedQuery).data;
  const open = raised ?? [];
  const severity = open.some(({ severity: of }) => of === "urgent") ? "urgent" : "notice";
  return (
    <SectionLink to="/alerts" className="flex items-center gap-1.5">
      <Signal of={open.length > 0 ? "raised" : "quiet"} severity={severity} />
      <span className="figure font-bold" data-raised-count>
        {raised ? open.length : "–"}
      </span>
      <span className="sr-only">{raised ? "raised" : "what is raised is not known yet"}</span>
    </SectionLink>
  );
}

const AccountMenu = lazyView(() => import("./account-menu.tsx"), "AccountMenu");

/** The name of who is signed in; the menu behind it is loaded when it is first opened. */
function Account({ name }: { name: string }): ReactNode {
  const [isOpened, setIsOpened] = useState(false);
  const button = (
    <button
      type="button"
      aria-haspopup="dialog"
      aria-expanded={false}
      className="text-quiet hover:text-ink"
      onClick={() => setIsOpened(true)}
    >
      {name}
    </button>
  );
  if (!isOpened) return button;
  return (
    <Suspense fallback={button}>
      <AccountMenu name={name} />
    </Suspense>
  );
}
